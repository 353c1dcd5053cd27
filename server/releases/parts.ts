import { createHash } from 'node:crypto';

/**
 * What a release holds, as hashes of stored versions: one for its settings, and a list in order for its documents, its
 * audiences and so on.
 */
export interface Contents {
  readonly [part: string]: string | readonly string[];
}

/** Takes a snapshot apart into versions of its documents, audiences and so on, each by the hash of its text. */
export function takeApart(snapshot: object): { contents: Contents; parts: ReadonlyMap<string, string> } {
  const parts = new Map<string, string>();
  const part = (value: unknown): string => {
    const text = JSON.stringify(value);
    const hash = createHash('sha256').update(text).digest('hex');
    parts.set(hash, text);
    return hash;
  };
  const contents: { [part: string]: string | string[] } = {};
  for (const [name, value] of Object.entries(snapshot))
    if (value !== undefined) contents[name] = Array.isArray(value) ? value.map(part) : part(value);
  return { contents, parts };
}

/** The hashes of all versions that a release holds. */
export function hashesIn(contents: Contents): string[] {
  return [...new Set(Object.values(contents).flat())];
}

/** A snapshot put together again. Throws where a version is missing. */
export function putTogether(contents: Contents, parts: ReadonlyMap<string, string>): unknown {
  const read = (hash: string): unknown => {
    const text = parts.get(hash);
    if (text === undefined) throw new Error(`the version ${hash.slice(0, 8)} of something in it is missing`);
    return JSON.parse(text);
  };
  return Object.fromEntries(
    Object.entries(contents).map(([name, of]) => [name, typeof of === 'string' ? read(of) : of.map(read)]),
  );
}
