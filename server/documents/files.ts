import { fileTypeFromBuffer } from 'file-type';
import { imageSize } from 'image-size';
import type { StoredFile } from '../../contract/collections.ts';
import { newId } from '../ids.ts';
import { notFound, Refusal } from '../refusal.ts';
import { type FileRow, fileRow, insertFile } from './rows.ts';

/** Largest file that is taken, in bytes. */
export const largestFile = 16 * 1024 * 1024 - 1;

const taken = new Set(['image/png', 'image/jpeg', 'image/gif', 'image/webp', 'video/mp4', 'video/webm']);
const drawing = 'image/svg+xml';

/** What a file is by what is in it, which can't be given a wrong name. */
async function typeOf(bytes: Buffer): Promise<string | undefined> {
  if (/^\s*(<\?xml[^>]*>\s*)?<svg[\s>]/.test(bytes.subarray(0, 500).toString('utf8'))) return drawing;
  const type = (await fileTypeFromBuffer(bytes))?.mime;
  return type !== undefined && taken.has(type) ? type : undefined;
}

/** How large a picture is shown, in pixels; undefined where it does not say. */
function pictureSize(bytes: Buffer): { width: number; height: number } | undefined {
  try {
    const { width, height, orientation = 1 } = imageSize(bytes);
    // A camera that was held upright says that its picture is to be turned (Exif 2.32, tag 274).
    return orientation >= 5 ? { width: height, height: width } : { width, height };
  } catch {
    return undefined;
  }
}

/** Takes a picture or a video; refused where it is neither, whatever it is called. */
export async function storeFile(name: string, bytes: Buffer): Promise<StoredFile> {
  if (bytes.length === 0) throw new Refusal(422, 'The file is empty.');
  if (bytes.length > largestFile) throw new Refusal(413, 'A file may have 16 MB at most.');
  const type = await typeOf(bytes);
  if (type === undefined)
    throw new Refusal(422, 'This is neither a picture (PNG, JPEG, GIF, WebP, SVG) nor a video (MP4, WebM).');
  const size = type.startsWith('image/') ? pictureSize(bytes) : undefined;
  const file = { id: newId(), name: name.slice(0, 255), type, bytes, ...size };
  const row = await insertFile(file);
  return { id: row.id, name: row.name, type: row.type, size: bytes.length };
}

export async function readFile(id: string): Promise<FileRow> {
  const row = await fileRow(id);
  if (!row) throw notFound('file');
  return row;
}
