import { createReadStream } from 'node:fs';
import type { FileSurvey } from '../../contract/imports.ts';
import { readCsv } from '../../core/exchange/csv.ts';
import { decoded, type Encoding, EncodingDetector } from '../../core/exchange/encoding.ts';
import { readJsonLines } from '../../core/exchange/json-lines.ts';
import {
  kindOf,
  refuseForeign,
  type Source,
  type SourceKind,
  UnreadableFile,
} from '../../core/exchange/source.ts';
import { Surveyor } from '../../core/exchange/survey.ts';
import { readVcards } from '../../core/exchange/vcard.ts';

/** @param done the share of the file that is read, 0 to 1 */
export type Progress = (done: number) => void;

/** Characters that are looked at to tell what a file is. */
const startLength = 64 * 1024;

/** What a file is and what its columns hold, from all of it. */
export async function surveyFile(path: string, bytes: number, progress: Progress): Promise<FileSurvey> {
  const detector = new EncodingDetector();
  for await (const piece of bytesOf(path)) detector.add(piece);
  const encoding = detector.end();
  const kind = await kindOfFile(path, encoding);
  const source = await openFile(path, kind, encoding, (read) => progress(read / Math.max(1, bytes)));
  const surveyors: Surveyor[] = [];
  let records = 0;
  for await (const batch of source.batches)
    for (const { cells, problem } of batch) {
      records++;
      if (problem !== undefined) continue;
      for (let at = 0; at < source.headers.length; at++) {
        let surveyor = surveyors[at];
        if (!surveyor) {
          surveyor = new Surveyor();
          // A column that begins later was blank before.
          surveyor.addBlanks(records - 1);
          surveyors[at] = surveyor;
        }
        surveyor.add(cells[at] ?? '');
      }
    }
  if (records === 0)
    throw new UnreadableFile(
      kind === 'csv'
        ? 'The file has a first row of names, but no people below it.'
        : 'There are no people in the file.',
    );
  const columns = source.headers.map((header, at) => (surveyors[at] ?? new Surveyor()).result(header));
  return { kind, encoding, records, columns };
}

export async function openFile(
  path: string,
  kind: SourceKind,
  encoding: Encoding,
  read: (bytes: number) => void,
): Promise<Source> {
  const text = decoded(counted(bytesOf(path), read), encoding);
  if (kind === 'csv') return readCsv(text);
  return kind === 'vcard' ? readVcards(text) : readJsonLines(text);
}

async function kindOfFile(path: string, encoding: Encoding): Promise<SourceKind> {
  let start = '';
  for await (const text of decoded(bytesOf(path), encoding)) {
    start += text;
    if (start.length >= startLength) break;
  }
  let first = new Uint8Array(0);
  for await (const piece of bytesOf(path)) {
    first = piece.slice(0, 16);
    break;
  }
  refuseForeign(first, start);
  return kindOf(start);
}

function bytesOf(path: string): AsyncIterable<Uint8Array> {
  return createReadStream(path, { highWaterMark: 256 * 1024 });
}

async function* counted(pieces: AsyncIterable<Uint8Array>, read: (bytes: number) => void) {
  let total = 0;
  for await (const piece of pieces) {
    total += piece.length;
    read(total);
    yield piece;
  }
}
