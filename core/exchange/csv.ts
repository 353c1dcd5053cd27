import Papa from 'papaparse';
import { inBatches, mostColumns, type Source, type SourceRecord, UnreadableFile } from './source.ts';

/** A record whose cells may still be changed. */
type Row = SourceRecord & { cells: string[] };

/** Longest record kept in memory while its end is looked for. */
const longestRecord = 16 * 1024 * 1024;
/** Characters looked at in one go. */
const pieceLength = 256 * 1024;
/** A cell made harmless for spreadsheets, as our own export does: what stands after the apostrophe is meant. */
const neutralised = /^'+[=+\-@\t\r]/;

/** A cell as it was before our own export put an apostrophe before what spreadsheets take for a formula. */
export function withoutGuard(cell: string): string {
  return neutralised.test(cell) ? cell.slice(1) : cell;
}
const delimiters = [',', ';', '\t', '|'];

/**
 * Reads CSV as RFC 4180 has it, with any of the common delimiters, recognised from the first rows. Blank rows are passed
 * over; a row with too many cells or with broken quotation marks is a record with a problem.
 *
 * @throws UnreadableFile for a first row that names no columns properly, and for a quotation mark that never closes
 */
export async function readCsv(pieces: AsyncIterable<string>): Promise<Source> {
  const rows = rowsOf(pieces);
  const first = await rows.next();
  if (first.done) throw new UnreadableFile('The file is empty.');
  const headers = headersFrom(first.value.cells);
  return { headers, batches: inBatches(checked(rows, headers.length)) };
}

async function* checked(rows: AsyncIterable<Row>, width: number): AsyncGenerator<SourceRecord> {
  for await (const record of rows) {
    const { row, cells } = record;
    if (cells.every((cell) => cell.trim() === '')) continue;
    for (const [index, cell] of cells.entries()) cells[index] = withoutGuard(cell);
    const extra = cells.slice(width).some((cell) => cell.trim() !== '');
    yield extra && record.problem === undefined
      ? { row, cells, problem: `has ${cells.length} cells, but there are ${width} columns` }
      : record;
  }
}

function headersFrom(cells: readonly string[]): string[] {
  const headers = cells.map((cell) => withoutGuard(cell).trim());
  while (headers.at(-1) === '') headers.pop();
  if (headers.length > mostColumns)
    throw new UnreadableFile(
      `The file has ${headers.length.toLocaleString('en')} columns; at most ${mostColumns} can be imported.`,
    );
  const blank = headers.indexOf('');
  if (blank >= 0) throw new UnreadableFile(`Column ${blank + 1} has no name in the first row.`);
  const seen = new Map<string, number>();
  for (const [index, header] of headers.entries()) {
    const before = seen.get(header.toLowerCase());
    if (before !== undefined)
      throw new UnreadableFile(
        `Columns ${before + 1} and ${index + 1} are both called “${header.slice(0, 80)}”. Rename one of them.`,
      );
    seen.set(header.toLowerCase(), index);
  }
  return headers;
}

/** Every row, blank ones too, so that rows are numbered as they are in the file. */
async function* rowsOf(pieces: AsyncIterable<string>): AsyncGenerator<Row> {
  let text = '';
  let row = 0;
  let next = pieceLength;
  let parser: Papa.Parser | undefined;
  const take = function* (last: boolean): Generator<Row> {
    parser ??= parserFor(text);
    // Until the text is all there, its last row may go on.
    const { data, errors, meta }: Papa.ParseResult<string[]> = parser.parse(text, 0, !last);
    if (last && errors.some(({ code }) => code === 'MissingQuotes'))
      throw new UnreadableFile(`A quotation mark in row ${row + data.length} is opened and never closed.`);
    const broken = new Set(errors.flatMap(({ code, row: at }) => (code === 'InvalidQuotes' ? [at] : [])));
    for (const [index, cells] of data.entries()) {
      row++;
      const end = cells.at(-1);
      if (end?.endsWith('\r')) cells[cells.length - 1] = end.slice(0, -1);
      yield broken.has(index)
        ? { row, cells, problem: 'has quotation marks that do not match' }
        : { row, cells };
    }
    text = last ? '' : text.slice(meta.cursor);
    if (text.length > longestRecord)
      throw new UnreadableFile(
        `Row ${row + 1} is longer than ${longestRecord / 1024 / 1024} MB; perhaps a quotation mark in it never closes.`,
      );
  };
  for await (const piece of pieces) {
    text += piece;
    if (text.length < next) continue;
    yield* take(false);
    // What is looked at again should be little beside what is new.
    next = Math.max(pieceLength, 2 * text.length);
  }
  if (text !== '') yield* take(true);
}

function parserFor(text: string): Papa.Parser {
  const { meta } = Papa.parse(text.slice(0, pieceLength), { preview: 20, delimitersToGuess: delimiters });
  // A CR before the LF is taken off the row's last value.
  const newline = text.includes('\n') ? '\n' : '\r';
  return new Papa.Parser({ delimiter: meta.delimiter, newline });
}
