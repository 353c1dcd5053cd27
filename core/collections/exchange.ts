import Papa from 'papaparse';
import { type Attribute, choicesOf } from '../attributes/attribute.ts';
import { parseValue, unstorable } from '../attributes/parse.ts';
import { withoutGuard } from '../exchange/csv.ts';
import { slug } from '../exchange/slug.ts';
import { valueText } from '../exchange/value-text.ts';
import { csvRow } from '../exchange/write.ts';
import { addressSchema, type Collection, type Item } from './collection.ts';

export type ItemFields = Pick<Item, 'slug' | 'title' | 'teaser' | 'values' | 'from' | 'until'>;

const basics = ['address', 'title', 'teaser', 'from', 'until'] as const;
const mostRows = 20_000;

/** Items as CSV (RFC 4180) or as an array of JSON; what is written is read back as the same items. */
export function writeItems(kind: 'csv' | 'json', collection: Collection, items: readonly Item[]): string {
  const attributes = collection.fields.map(({ attribute }) => attribute);
  if (kind === 'json')
    return `${JSON.stringify(
      items.map(({ slug: address, title, teaser, from, until, values }) => ({
        address,
        title,
        teaser,
        from,
        until,
        ...Object.fromEntries(
          attributes.flatMap((attribute) =>
            values[attribute.id] === undefined ? [] : [[attribute.label, values[attribute.id]]],
          ),
        ),
      })),
      null,
      2,
    )}\n`;
  const head = csvRow([...basics, ...attributes.map(({ label }) => label)]);
  const rows = items.map(({ slug: address, title, teaser, from, until, values }) =>
    csvRow([
      address,
      title,
      teaser,
      from ?? '',
      until ?? '',
      ...attributes.map((attribute) => valueText(attribute, values[attribute.id])),
    ]),
  );
  return `\uFEFF${head}${rows.join('')}`;
}

export interface ReadItems {
  readonly items: readonly { readonly line: number; readonly fields: ItemFields }[];
  readonly problems: readonly { readonly line: number; readonly message: string }[];
}

/** Items from a file, each with its line; rows that can't be read are left out and said, with what is wrong. */
export function readItems(kind: 'csv' | 'json', text: string, collection: Collection): ReadItems {
  const problems: { line: number; message: string }[] = [];
  const rows = kind === 'csv' ? csvRows(text, problems) : jsonRows(text, problems);
  const labels = new Set([...basics, ...collection.fields.map(({ attribute }) => columnOf(attribute))]);
  const unknown = new Set(rows.flatMap(({ cells }) => [...cells.keys()].filter((name) => !labels.has(name))));
  if (unknown.size > 0)
    problems.push({
      line: 1,
      message: `“${[...unknown].slice(0, 5).join('”, “')}” is no field of ${collection.name}; it was left out`,
    });
  const seen = new Map<string, number>();
  const items = rows.slice(0, mostRows).flatMap(({ line, cells }) => {
    const found = itemOf(cells, collection);
    if (typeof found === 'string') {
      problems.push({ line, message: found });
      return [];
    }
    const before = seen.get(found.slug);
    if (before !== undefined) {
      problems.push({ line, message: `has the address “${found.slug}” of line ${before} again` });
      return [];
    }
    seen.set(found.slug, line);
    return [{ line, fields: found }];
  });
  if (rows.length > mostRows)
    problems.push({ line: mostRows + 2, message: `more than ${mostRows} rows; the rest was left out` });
  return { items, problems };
}

type Row = { line: number; cells: Map<string, unknown> };

function csvRows(text: string, problems: { line: number; message: string }[]): Row[] {
  const parsed = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), { skipEmptyLines: 'greedy' });
  for (const error of parsed.errors.slice(0, 20))
    if (error.code !== 'UndetectableDelimiter')
      problems.push({ line: (error.row ?? 0) + 1, message: error.message });
  const [head = [], ...rows] = parsed.data;
  const names = head.map((name) => withoutGuard(name).trim().toLowerCase());
  if (!names.includes('title')) {
    problems.push({ line: 1, message: 'there is no column “title”' });
    return [];
  }
  return rows.map((row, index) => ({
    line: index + 2,
    cells: new Map(names.map((name, at) => [name, withoutGuard(row[at] ?? '')])),
  }));
}

function jsonRows(text: string, problems: { line: number; message: string }[]): Row[] {
  let read: unknown;
  try {
    read = JSON.parse(text);
  } catch (error) {
    problems.push({ line: 1, message: `is not JSON: ${error instanceof Error ? error.message : ''}` });
    return [];
  }
  if (!Array.isArray(read)) {
    problems.push({ line: 1, message: 'is not an array of items' });
    return [];
  }
  return read.flatMap((one: unknown, index): Row[] => {
    if (typeof one === 'object' && one !== null && !Array.isArray(one))
      return [
        {
          line: index + 1,
          cells: new Map(Object.entries(one).map(([name, value]) => [name.trim().toLowerCase(), value])),
        },
      ];
    problems.push({ line: index + 1, message: 'is not an item' });
    return [];
  });
}

/** What the column of a field is called. */
function columnOf({ label }: Attribute): string {
  return label.trim().toLowerCase();
}

/** The item of a row, or what is wrong with it. */
function itemOf(cells: ReadonlyMap<string, unknown>, collection: Collection): ItemFields | string {
  const word = (name: string) => {
    const value = cells.get(name);
    return value === null || value === undefined ? '' : String(value).trim();
  };
  const title = word('title');
  if (title === '') return 'has no title';
  if (title.length > 200) return 'has a title of more than 200 characters';
  const given = word('address');
  const address = addressSchema.safeParse(given).success ? given : slug(given || title, '');
  if (address === '') return 'has a title of which no address can be made; give one';
  const moments: (string | null)[] = [];
  for (const name of ['from', 'until'] as const) {
    const raw = word(name);
    const at = Date.parse(raw);
    if (raw !== '' && Number.isNaN(at)) return `“${raw.slice(0, 40)}” (${name}) is not a date and time`;
    moments.push(raw === '' ? null : new Date(at).toISOString());
  }
  const values: { [id: string]: unknown } = {};
  for (const { attribute } of collection.fields) {
    const raw = cells.get(columnOf(attribute));
    if (raw === undefined || raw === null || raw === '') continue;
    if (typeof raw === 'string' && attribute.type !== 'text') {
      const parsed = parseValue(attribute, raw);
      if (!parsed.ok) return `${attribute.label}: ${parsed.reason}`;
      if (parsed.value !== undefined) values[attribute.id] = parsed.value;
      continue;
    }
    const known = new Set(choicesOf(attribute).map(({ id }) => id));
    const problem = unstorable(attribute, raw);
    if (problem !== undefined) return `${attribute.label} ${problem}`;
    if (Array.isArray(raw) && known.size > 0 && raw.some((one) => !known.has(String(one))))
      return `${attribute.label} names a choice that there is not`;
    values[attribute.id] = raw;
  }
  const [from = null, until = null] = moments;
  return { slug: address, title, teaser: word('teaser').slice(0, 500), values, from, until };
}
