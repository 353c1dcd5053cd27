import Papa from 'papaparse';
import { z } from 'zod';
import type { ImportReport, ImportRequest } from '../../contract/people.ts';
import { type Attribute, attributeSchema, type Choice, type Value } from '../../core/attributes/attribute.ts';
import { parseValue, splitSet } from '../../core/attributes/parse.ts';
import { same } from '../../core/deciding/changes.ts';
import { Refusal } from '../refusal.ts';
import { AttributeRow, ContactRow } from '../store/models.ts';
import { inTransaction } from '../store/transaction.ts';
import type { Drafts } from './drafts.ts';
import { displayName, type People } from './people.ts';

const mostColumns = 200;
const rejectedShown = 200;
/** So many of a column's values must fit a type for the column to be guessed as that type. */
const fitting = 0.95;
const email = z.email().max(254);

interface Column {
  header: string;
  /** Undefined for the column of email addresses. */
  attribute: Attribute | undefined;
  isNew: boolean;
  missing: number;
  examples: string[];
}

interface Accepted {
  email: string;
  values: { [attribute: string]: Value };
}

export class Imports {
  constructor(
    private readonly people: People,
    private readonly drafts: Drafts,
  ) {}

  /**
   * Brings the people of a CSV file in, matched by email address: new ones are added, a value in the file replaces
   * the stored one, a blank keeps it. Rows with an error are left out and listed; everything else is stored in one
   * transaction.
   */
  async run({ csv, dryRun }: ImportRequest): Promise<ImportReport> {
    const { headers, rows } = readCsv(csv);
    const { catalogue } = await this.drafts.decider();
    const columns = headers.map((header, index) =>
      columnFor(
        header,
        rows.map((row) => row[index] ?? ''),
        catalogue.attributes,
      ),
    );
    settleIds(columns, new Set(catalogue.attributes.map((attribute) => attribute.id)));
    const { accepted, rejected } = readRows(columns, rows);
    const byEmail = await knownBy(accepted.map((row) => row.email));
    let [added, changed, unchanged] = [0, 0, 0];
    const writes: { email: string; name: string; values: { [attribute: string]: unknown } }[] = [];
    for (const row of accepted) {
      const known = byEmail.get(row.email.toLowerCase());
      const before = known?.values ?? {};
      const values = { ...before, ...row.values };
      if (known && same(before, values)) {
        unchanged++;
        continue;
      }
      if (known) changed++;
      else added++;
      const address = known?.email ?? row.email;
      writes.push({ email: address, name: displayName(values, address), values });
    }
    if (!dryRun) await this.store(columns, writes);
    return {
      columns: columns.map(({ header, attribute, isNew, missing, examples }) => ({
        header,
        attribute: attribute?.label ?? 'email address',
        type: attribute?.type ?? 'email',
        isNew,
        missing,
        examples,
      })),
      rows: rows.length,
      added,
      changed,
      unchanged,
      rejected: rejected.slice(0, rejectedShown),
      rejectedCount: rejected.length,
    };
  }

  private async store(
    columns: readonly Column[],
    writes: { email: string; name: string; values: { [attribute: string]: unknown } }[],
  ): Promise<void> {
    await inTransaction(async (transaction) => {
      const last = (await AttributeRow.max<number | null, AttributeRow>('position', { transaction })) ?? 0;
      const fresh = columns.flatMap(({ attribute, isNew }) => (attribute && isNew ? [attribute] : []));
      await AttributeRow.bulkCreate(
        fresh.map((definition, index) => ({ id: definition.id, position: last + 1 + index, definition })),
        { transaction },
      );
      for (let start = 0; start < writes.length; start += 1000)
        await ContactRow.bulkCreate(writes.slice(start, start + 1000), {
          transaction,
          updateOnDuplicate: ['name', 'values', 'updatedAt'],
        });
    });
    this.drafts.changed();
    const stored = await knownBy(writes.map(({ email }) => email));
    await this.people.changed([...stored.values()].map(({ id }) => id));
  }
}

/** Contacts by their address in lower case, as far as they are known. */
async function knownBy(emails: readonly string[]): Promise<Map<string, ContactRow>> {
  const found = new Map<string, ContactRow>();
  for (let start = 0; start < emails.length; start += 2000) {
    const rows = await ContactRow.findAll({ raw: true, where: { email: emails.slice(start, start + 2000) } });
    for (const row of rows) found.set(row.email.toLowerCase(), row);
  }
  return found;
}

function readCsv(csv: string): { headers: string[]; rows: string[][] } {
  const text = csv.replace(/^\uFEFF/, '');
  if (text.trim() === '') throw refusal('The file is empty.');
  if (text.includes('\0')) throw refusal('The file contains NUL characters, so it is not a CSV text file.');
  const parsed = Papa.parse<string[]>(text, { skipEmptyLines: 'greedy' });
  const broken = parsed.errors.find((error) => error.type === 'Quotes');
  if (broken)
    throw refusal(`The quotation marks in row ${(broken.row ?? 0) + 1} do not match: ${broken.message}`);
  const [headers = [], ...rows] = parsed.data;
  const names = headers.map((header) => header.trim());
  if (names.length > mostColumns)
    throw refusal(`The file has ${names.length} columns; at most ${mostColumns} can be imported.`);
  const blank = names.indexOf('');
  if (blank >= 0) throw refusal(`Column ${blank + 1} has no name in the first row.`);
  const folded = names.map((name) => name.toLowerCase());
  const twice = folded.find((name, index) => folded.indexOf(name) !== index);
  if (twice !== undefined) throw refusal(`Two columns are called “${twice}”. Rename one of them.`);
  if (!names.some(isEmailHeader))
    throw refusal('No column is called “email”. It is needed, since people are matched by their address.');
  if (rows.length === 0) throw refusal('The file has a first row of names, but no people below it.');
  return { headers: names, rows };
}

function refusal(message: string): Refusal {
  return new Refusal(422, message, { fields: [{ path: 'csv', message }] });
}

function isEmailHeader(header: string): boolean {
  return /^e-?mail( address)?$/i.test(header);
}

function columnFor(header: string, cells: readonly string[], known: readonly Attribute[]): Column {
  const filled = cells.map((cell) => cell.trim()).filter((cell) => cell !== '');
  const examples = [...new Set(filled)].slice(0, 3);
  const column = { header, missing: cells.length - filled.length, examples };
  if (isEmailHeader(header)) return { ...column, attribute: undefined, isNew: false };
  const plain = slug(header);
  const match = known.find(
    (attribute) =>
      attribute.source === 'contact' &&
      attribute.id !== 'email' &&
      (attribute.id === plain || slug(attribute.label) === plain),
  );
  if (match) return { ...column, attribute: match, isNew: false };
  return { ...column, attribute: guessAttribute(header, plain, filled), isNew: true };
}

/** The type that a column's values look like. */
function guessAttribute(header: string, id: string, filled: readonly string[]): Attribute {
  const base = { id, source: 'contact' as const, label: header.slice(0, 120), description: '' };
  const fits = (attribute: Attribute) =>
    filled.length > 0 &&
    filled.filter((cell) => parseValue(attribute, cell).ok).length >= fitting * filled.length;
  const wordy = filled.some((cell) => /^(yes|no|true|false)$/i.test(cell));
  for (const candidate of [
    ...(wordy ? [{ ...base, type: 'yes-no' as const }] : []),
    { ...base, type: 'number' as const },
    { ...base, type: 'date' as const },
  ])
    if (fits(candidate)) return candidate;
  const split = filled.some((cell) => /[;|]/.test(cell));
  const words = [...new Set(split ? filled.flatMap(splitSet) : filled)];
  const few =
    words.length <= 60 && words.every((word) => word.length <= 60) && words.length * 3 <= filled.length;
  if (!few) return { ...base, type: 'text' };
  return split
    ? { ...base, type: 'set', choices: choicesFor(words), exclusiveGroups: [] }
    : { ...base, type: 'choice', choices: choicesFor(words), ordered: false };
}

function choicesFor(labels: readonly string[]): Choice[] {
  const taken = new Set<string>();
  return [...labels].sort().map((label) => ({ id: fresh(slug(label), taken), label }));
}

/** Gives every new attribute an id that nothing else has. */
function settleIds(columns: Column[], taken: Set<string>): void {
  for (const column of columns) {
    if (!column.attribute || !column.isNew) continue;
    const id = fresh(column.attribute.id, taken);
    column.attribute = attributeSchema.parse({ ...column.attribute, id });
  }
}

function fresh(wanted: string, taken: Set<string>): string {
  let id = wanted;
  for (let number = 2; taken.has(id); number++) id = `${wanted}-${number}`;
  taken.add(id);
  return id;
}

function slug(text: string): string {
  const plain = text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase();
  return (
    plain
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '')
      .slice(0, 50) || 'column'
  );
}

function readRows(columns: readonly Column[], rows: readonly string[][]) {
  const accepted: Accepted[] = [];
  const rejected: { row: number; email: string; reason: string }[] = [];
  const seen = new Map<string, number>();
  const emailAt = columns.findIndex((column) => column.attribute === undefined);
  for (const [index, cells] of rows.entries()) {
    const row = index + 2;
    const address = (cells[emailAt] ?? '').trim();
    const read = readRow(columns, cells);
    const before = seen.get(address.toLowerCase());
    const reason =
      cells.length > columns.length
        ? `has ${cells.length} cells, the first row has ${columns.length}`
        : address === ''
          ? 'has no email address'
          : !email.safeParse(address).success
            ? `“${address.slice(0, 80)}” is not an email address`
            : before !== undefined
              ? `has the same address as row ${before}`
              : read.reason;
    if (reason !== undefined) {
      rejected.push({ row, email: address.slice(0, 254), reason });
      continue;
    }
    seen.set(address.toLowerCase(), row);
    accepted.push({ email: address, values: read.values });
  }
  return { accepted, rejected };
}

function readRow(columns: readonly Column[], cells: readonly string[]) {
  const values: { [attribute: string]: Value } = {};
  for (const [index, { header, attribute }] of columns.entries()) {
    if (!attribute) continue;
    const parsed = parseValue(attribute, cells[index] ?? '');
    if (!parsed.ok) return { values, reason: `${header}: ${parsed.reason}` };
    if (parsed.value !== undefined) values[attribute.id] = parsed.value;
  }
  return { values, reason: undefined };
}
