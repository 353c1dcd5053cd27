import { inBatches, linesOf, mostColumns, type Source, type SourceRecord, UnreadableFile } from './source.ts';

/** One line of a card: RFC 6350, 3.3. */
export interface Property {
  /** In upper case, without its group. */
  readonly name: string;
  /** By name in upper case; values unquoted. */
  readonly parameters: ReadonlyMap<string, readonly string[]>;
  /** As it stands, still escaped. */
  readonly value: string;
}

const longestCard = 1024 * 1024;

/** Which column each part of a card becomes; a part that is left out has no column. */
const structured: { [property: string]: readonly string[] } = {
  N: ['last name', 'first name', 'additional names', 'honorific prefix', 'honorific suffix'],
  ADR: ['post office box', 'extended address', 'street', 'city', 'region', 'postal code', 'country'],
  ORG: ['organisation', 'department'],
};
const plain: { [property: string]: string } = {
  FN: 'full name',
  EMAIL: 'email',
  TEL: 'phone',
  TITLE: 'job title',
  ROLE: 'role',
  BDAY: 'birthday',
  ANNIVERSARY: 'anniversary',
  LANG: 'language',
  CATEGORIES: 'tags',
  NOTE: 'note',
  URL: 'web address',
  NICKNAME: 'nickname',
  UID: 'uid',
  TZ: 'time zone',
  GENDER: 'gender',
};
const dates = new Set(['BDAY', 'ANNIVERSARY']);
/** Of what people have several of, the column of those that are not the preferred one. */
const others: { [property: string]: string } = {
  EMAIL: 'other email addresses',
  TEL: 'other phone numbers',
};

/**
 * Reads vCard 4.0 (RFC 6350) and 3.0 (RFC 2426): a record for each card. Of several addresses, numbers and the like the
 * preferred one is taken, otherwise the first; further email addresses and phone numbers have a column of their own;
 * properties whose names begin with X- are columns of that name.
 *
 * @throws UnreadableFile for more columns than can be imported
 */
export function readVcards(pieces: AsyncIterable<string>): Source {
  const headers: string[] = [];
  const places = new Map<string, number>();
  const placeOf = (header: string): number => {
    let place = places.get(header);
    if (place === undefined) {
      place = headers.push(header) - 1;
      places.set(header, place);
      if (headers.length > mostColumns)
        throw new UnreadableFile(`The cards have more than ${mostColumns} different properties.`);
    }
    return place;
  };
  return { headers, batches: inBatches(recordsOf(pieces, placeOf)) };
}

async function* recordsOf(
  pieces: AsyncIterable<string>,
  placeOf: (header: string) => number,
): AsyncGenerator<SourceRecord> {
  let card: { row: number; lines: string[]; length: number } | undefined;
  let row = 0;
  for await (const line of linesOf(pieces)) {
    row++;
    if (/^begin:vcard\s*$/i.test(line)) {
      if (card) yield { row: card.row, cells: [], problem: 'is a card that does not end' };
      card = { row, lines: [], length: 0 };
    } else if (/^end:vcard\s*$/i.test(line)) {
      if (card) yield readCard(card.row, card.lines, placeOf);
      card = undefined;
    } else if (card) {
      card.length += line.length;
      if (card.length > longestCard)
        throw new UnreadableFile(`The card that begins in line ${card.row} is longer than 1 MB.`);
      card.lines.push(line);
    } else if (line.trim() !== '') yield { row, cells: [], problem: 'stands outside of any card' };
  }
  if (card) yield { row: card.row, cells: [], problem: 'is a card that does not end' };
}

function readCard(row: number, lines: readonly string[], placeOf: (header: string) => number): SourceRecord {
  const cells: string[] = [];
  const preference = new Map<string, number>();
  const several: [property: string, text: string][] = [];
  for (const line of unfolded(lines)) {
    if (line.trim() === '') continue;
    const property = readProperty(line);
    if (!property) return { row, cells, problem: `has a line that is no property: “${line.slice(0, 60)}”` };
    const { name, value } = property;
    if (name === 'VERSION') {
      if (value !== '4.0' && value !== '3.0')
        return { row, cells, problem: `is of version ${value.slice(0, 20)}; 3.0 and 4.0 can be read` };
      continue;
    }
    if (others[name] !== undefined) several.push([name, textOf(name, value)]);
    const rank = preferenceOf(property);
    const before = preference.get(name);
    if (before !== undefined && before <= rank) continue;
    preference.set(name, rank);
    const parts = structured[name];
    if (parts)
      for (const [index, part] of splitAt(value, ';').entries()) {
        const header = parts[index];
        const text = splitAt(part, ',').map(unescaped).join(' ').trim();
        if (header !== undefined && text !== '') cells[placeOf(header)] = text;
      }
    const header = plain[name] ?? (name.startsWith('X-') ? name.slice(2).toLowerCase() : undefined);
    if (header !== undefined) cells[placeOf(header)] = textOf(name, value);
  }
  for (const [name, header] of Object.entries(others)) {
    const taken = preference.has(name) ? cells[placeOf(plain[name] ?? '')] : undefined;
    const all = several.flatMap(([property, text]) => (property === name && text !== taken ? [text] : []));
    if (all.length > 0) cells[placeOf(header)] = [...new Set(all)].join(', ');
  }
  return { row, cells };
}

function textOf(name: string, value: string): string {
  // A list: its members are told apart by commas, as ours are by semicolons.
  if (name === 'CATEGORIES' || name.startsWith('X-')) return splitAt(value, ',').map(unescaped).join(';');
  if (name === 'EMAIL' || name === 'TEL') return unescaped(value).replace(/^(mailto|tel):/i, '');
  if (dates.has(name)) return value.replace(/^(\d{4})(\d{2})(\d{2})(T.*)?$/, '$1-$2-$3');
  return unescaped(value);
}

/** Lines that begin with a space or tab go on from the one before: RFC 6350, 3.2. */
function unfolded(lines: readonly string[]): string[] {
  const whole: string[] = [];
  for (const line of lines) {
    if (/^[ \t]/.test(line) && whole.length > 0) whole.push((whole.pop() ?? '') + line.slice(1));
    else whole.push(line);
  }
  return whole;
}

/** @returns undefined for a line without a name and a colon */
export function readProperty(line: string): Property | undefined {
  const head = /^(?:[\w-]+\.)?([\w-]+)/.exec(line);
  if (!head) return undefined;
  const parameters = new Map<string, string[]>();
  let at = head[0].length;
  while (line[at] === ';') {
    const parameter = /^;([\w-]+)(?:=((?:"[^"]*"|[^";:,]*)(?:,(?:"[^"]*"|[^";:,]*))*))?/.exec(line.slice(at));
    if (!parameter) return undefined;
    const [all, name = '', values] = parameter;
    // A bare value, as in `TEL;HOME`, is a type; older programs write these.
    const key = values === undefined ? 'TYPE' : name.toUpperCase();
    const given = (values ?? name).match(/"[^"]*"|[^,]+/g) ?? [];
    parameters.set(key, [
      ...(parameters.get(key) ?? []),
      ...given.map((value) => value.replaceAll('"', '').replaceAll('^n', '\n').replaceAll("^'", '"')),
    ]);
    at += all.length;
  }
  if (line[at] !== ':') return undefined;
  return { name: (head[1] ?? '').toUpperCase(), parameters, value: line.slice(at + 1) };
}

/** How preferred a property is; 1 is most. Version 4 says PREF=1, version 3 TYPE=pref, also in a quoted list of types. */
function preferenceOf({ parameters }: Property): number {
  const given = Number(parameters.get('PREF')?.[0]);
  if (given >= 1) return given;
  return parameters.get('TYPE')?.some((types) => types.toLowerCase().split(',').includes('pref')) ? 1 : 101;
}

/** Split at a character that is not escaped. */
function splitAt(value: string, character: ',' | ';'): string[] {
  const parts = [''];
  for (let at = 0; at < value.length; at++) {
    const one = value[at] ?? '';
    if (one === character) parts.push('');
    else if (one === '\\') parts.push(`${parts.pop() ?? ''}${one}${value[++at] ?? ''}`);
    else parts.push((parts.pop() ?? '') + one);
  }
  return parts;
}

/** RFC 6350, 3.4. */
function unescaped(value: string): string {
  return value.replace(/\\(.)/g, (_, one: string) => (one === 'n' || one === 'N' ? '\n' : one));
}

/** A text for a property of one value, or one member of a list: RFC 6350, 3.4. */
export function escaped(value: string): string {
  return value.replace(/[\\,]/g, '\\$&').replace(/\r\n|\r|\n/g, '\\n');
}

/** A text for one part of a property that has several, such as N: semicolons part them. */
export function escapedPart(value: string): string {
  return escaped(value).replaceAll(';', '\\;');
}

/** A line cut so that none is longer than 75 octets, and none within a character: RFC 6350, 3.2. */
export function folded(line: string): string {
  const encoder = new TextEncoder();
  let out = '';
  let octets = 0;
  for (const character of line) {
    const size = encoder.encode(character).length;
    if (octets + size > 75) {
      out += '\r\n ';
      octets = 1;
    }
    out += character;
    octets += size;
  }
  return `${out}\r\n`;
}
