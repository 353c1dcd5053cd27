import type { StoredFile } from '../../contract/collections.ts';
import { newId } from '../ids.ts';
import { notFound, Refusal } from '../refusal.ts';
import { FileRow } from '../store/models.ts';

/** Largest file that is taken, in bytes. */
export const largestFile = 16 * 1024 * 1024 - 1;

/** What a file is by its first bytes, which can't be given a wrong name. */
const kinds: readonly { type: string; starts: (bytes: Buffer) => boolean }[] = [
  { type: 'image/png', starts: (bytes) => bytes.subarray(0, 8).toString('latin1') === '\x89PNG\r\n\x1a\n' },
  { type: 'image/jpeg', starts: (bytes) => bytes[0] === 0xff && bytes[1] === 0xd8 && bytes[2] === 0xff },
  { type: 'image/gif', starts: (bytes) => /^GIF8[79]a/.test(bytes.subarray(0, 6).toString('latin1')) },
  {
    type: 'image/webp',
    starts: (bytes) =>
      bytes.subarray(0, 4).toString('latin1') === 'RIFF' &&
      bytes.subarray(8, 12).toString('latin1') === 'WEBP',
  },
  { type: 'video/mp4', starts: (bytes) => bytes.subarray(4, 8).toString('latin1') === 'ftyp' },
  { type: 'video/webm', starts: (bytes) => bytes.subarray(0, 4).toString('hex') === '1a45dfa3' },
  {
    type: 'image/svg+xml',
    starts: (bytes) => /^\s*(<\?xml[^>]*>\s*)?<svg[\s>]/.test(bytes.subarray(0, 500).toString('utf8')),
  },
];

/** Takes a picture or a video; refused where it is neither, whatever it is called. */
export async function storeFile(name: string, bytes: Buffer): Promise<StoredFile> {
  if (bytes.length === 0) throw new Refusal(422, 'The file is empty.');
  if (bytes.length > largestFile) throw new Refusal(413, 'A file may have 16 MB at most.');
  const kind = kinds.find(({ starts }) => starts(bytes));
  if (!kind)
    throw new Refusal(422, 'This is neither a picture (PNG, JPEG, GIF, WebP, SVG) nor a video (MP4, WebM).');
  const row = await FileRow.create({ id: newId(), name: name.slice(0, 255), type: kind.type, bytes });
  return { id: row.id, name: row.name, type: row.type, size: bytes.length };
}

export async function readFile(id: string): Promise<FileRow> {
  const row = await FileRow.findByPk(id);
  if (!row) throw notFound('file');
  return row;
}
