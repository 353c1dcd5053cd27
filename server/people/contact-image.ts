import { closeSync, fsyncSync, mkdirSync, openSync, readSync, renameSync, rmSync, writeSync } from 'node:fs';
import { dirname } from 'node:path';
import { deserialize, serialize } from 'node:v8';
import { z } from 'zod';

/** To be counted up with every change of what is written. */
const version = 2;

const headSchema = z.object({
  version: z.literal(version),
  /** What the columns depend on; those of other attributes are of no use. */
  columns: z.string(),
  /** The name under which the database knows this image, and with it the place in the log up to which it goes. */
  token: z.string(),
});
export type ImageHead = Omit<z.infer<typeof headSchema>, 'version'>;

// An image is a file of parts that are written and read one after another, since all of them together may be larger than
// a buffer can be. Each is its length in bytes, 8 of them, and the value as V8 serialises it.

/** Writes an image in the place of the one before, which stays whole until this one is. Only this user may read it. */
export function writeImage(path: string, head: ImageHead, parts: Iterable<unknown>): void {
  mkdirSync(dirname(path), { recursive: true, mode: 0o700 });
  const unfinished = `${path}.${process.pid}`;
  const file = openSync(unfinished, 'w', 0o600);
  try {
    const put = (value: unknown) => {
      const bytes = serialize(value);
      const length = Buffer.alloc(8);
      length.writeBigUInt64LE(BigInt(bytes.length));
      writeWhole(file, length);
      writeWhole(file, bytes);
    };
    put({ version, ...head });
    for (const part of parts) put(part);
    fsyncSync(file);
  } finally {
    closeSync(file);
  }
  renameSync(unfinished, path);
}

/** Opens an image; undefined where there is none, or one of another version. Its parts are read one after another. */
export function readImage(
  path: string,
): { head: ImageHead; next: () => unknown; close: () => void } | undefined {
  let file: number;
  try {
    file = openSync(path, 'r');
  } catch {
    return undefined;
  }
  let isOpen = true;
  const close = () => {
    if (isOpen) closeSync(file);
    isOpen = false;
  };
  const next = (): unknown => {
    const length = Number(readWhole(file, 8).readBigUInt64LE());
    return deserialize(readWhole(file, length));
  };
  try {
    const head = headSchema.safeParse(next());
    if (head.success) return { head: head.data, next, close };
  } catch {
    // What can't be read is as good as none.
  }
  close();
  return undefined;
}

export function removeImage(path: string): void {
  rmSync(path, { force: true });
}

function writeWhole(file: number, bytes: Uint8Array): void {
  for (let at = 0; at < bytes.length; ) at += writeSync(file, bytes, at);
}

function readWhole(file: number, length: number): Buffer {
  const bytes = Buffer.allocUnsafeSlow(length);
  for (let at = 0; at < length; ) {
    const read = readSync(file, bytes, at, length - at, null);
    if (read === 0) throw new Error('the image ends too early');
    at += read;
  }
  return bytes;
}
