/** One person of a file as it stands there: a text for each column. */
export interface SourceRecord {
  /** Where it begins: the number of its row, counted as a spreadsheet does, or of its line or card. */
  readonly row: number;
  readonly cells: readonly string[];
  /** Why it can't be read, where it can't. */
  readonly problem?: string;
}

/** A file that is read from its beginning to its end, in batches. */
export interface Source {
  /** The names of the columns: complete before the first batch for CSV, after the last one for the others. */
  readonly headers: readonly string[];
  readonly batches: AsyncIterable<readonly SourceRecord[]>;
}

export const sourceKinds = ['csv', 'vcard', 'json-lines'] as const;
export type SourceKind = (typeof sourceKinds)[number];

export const mostColumns = 300;
/** Records a batch. */
export const batchSize = 1000;

/** Why a whole file can't be read, in words for the person who gave it. */
export class UnreadableFile extends Error {}

/** What kind of file it is, from its first text: never from its name, which may be wrong. */
export function kindOf(start: string): SourceKind {
  const text = start.trimStart();
  if (/^begin:vcard\s/i.test(text)) return 'vcard';
  if (text.startsWith('{')) return 'json-lines';
  return 'csv';
}

/** Refuses what is certainly no text file with people. */
export function refuseForeign(start: Uint8Array, text: string): void {
  if (text.trim() === '') throw new UnreadableFile('The file is empty.');
  const magic = String.fromCharCode(...start.subarray(0, 8));
  if (magic.startsWith('PK'))
    throw new UnreadableFile('This is a spreadsheet or a packed file. Save it as CSV and import that.');
  if (
    magic.startsWith('%PDF') ||
    magic.startsWith('\u0089PNG') ||
    magic.startsWith('\u00d0\u00cf\u0011\u00e0')
  )
    throw new UnreadableFile('This is not a text file. Save the people as CSV and import that.');
  if (text.includes('\0'))
    throw new UnreadableFile('The file contains NUL characters, so it is not a text file.');
  if (/^\s*<(!doctype|html|\?xml)/i.test(text))
    throw new UnreadableFile('This is a web page or XML file. Save the people as CSV and import that.');
  if (/^\s*\[/.test(text))
    throw new UnreadableFile('This is one JSON list. Write one object on each line (JSON Lines) instead.');
}

/** Text cut into lines, however it comes in pieces; endings are LF, CRLF or CR. */
export async function* linesOf(pieces: AsyncIterable<string>): AsyncGenerator<string> {
  let rest = '';
  for await (const piece of pieces) {
    const text = rest + piece;
    // A CR at the end may be the first half of a CRLF.
    const lines = text.split(/\r\n|\n|\r(?!$)/);
    rest = lines.pop() ?? '';
    yield* lines;
  }
  if (rest !== '') yield rest.replace(/\r$/, '');
}

/** Records collected into batches. */
export async function* inBatches(records: AsyncIterable<SourceRecord>): AsyncGenerator<SourceRecord[]> {
  let batch: SourceRecord[] = [];
  for await (const record of records) {
    batch.push(record);
    if (batch.length < batchSize) continue;
    yield batch;
    batch = [];
  }
  if (batch.length > 0) yield batch;
}
