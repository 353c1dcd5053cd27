import sharp from 'sharp';
import { keepPicture, pictureInWidth } from './rows.ts';

// One picture is made by one thread of those that wait for files and the database too.
sharp.concurrency(1);

const scalable = new Set(['image/png', 'image/jpeg', 'image/webp']);

/** Whether pictures of a type are served in several widths: a drawing fits any, and a GIF is mostly a film. */
export function isScalable(type: string): boolean {
  return scalable.has(type);
}

interface Original {
  readonly id: string;
  readonly type: string;
  readonly bytes: Buffer;
}

interface Picture {
  readonly type: string;
  readonly bytes: Buffer;
}

/** What is being made, by file and width. */
const underWay = new Map<string, Promise<Picture>>();

/**
 * A picture at most so wide, upright, as WebP; as it came where it can't be made smaller. It is made once and kept.
 *
 * @param width in pixels
 * @param original reads the file as it came
 */
export async function pictureOf(
  file: string,
  width: number,
  original: () => Promise<Original>,
): Promise<Picture> {
  const kept = await pictureInWidth(file, width);
  if (kept) return { type: 'image/webp', bytes: kept };
  const key = `${file} ${width}`;
  const coming = underWay.get(key) ?? make(width, original).finally(() => underWay.delete(key));
  underWay.set(key, coming);
  return coming;
}

async function make(width: number, original: () => Promise<Original>): Promise<Picture> {
  const file = await original();
  const bytes = await scaled(file, width);
  if (!bytes) return file;
  // Where it can't be kept, as while the database can't be written, it is made again next time.
  await keepPicture(file.id, width, bytes).catch(() => undefined);
  return { type: 'image/webp', bytes };
}

/** Undefined of what is damaged, moves, or would take too long. */
async function scaled({ type, bytes }: Original, width: number): Promise<Buffer | undefined> {
  if (!isScalable(type)) return undefined;
  try {
    const picture = sharp(bytes, { failOn: 'error' });
    const { pages = 1 } = await picture.metadata();
    if (pages > 1) return undefined;
    // Turned as the camera was held before it is made smaller; what else the camera noted is left out.
    return await picture
      .rotate()
      .resize({ width, withoutEnlargement: true })
      .webp({ quality: 80 })
      .timeout({ seconds: 20 })
      .toBuffer();
  } catch {
    return undefined;
  }
}
