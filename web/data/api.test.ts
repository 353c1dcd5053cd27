import { afterEach, describe, expect, it, vi } from 'vitest';
import { z } from 'zod';
import { call, isKnownHere, takeStored } from './api.ts';

const asked: { path: string; headers: Headers }[] = [];

/** A server that answers as it is told, and remembers what it was asked. */
function answering(...answers: Response[]): void {
  asked.length = 0;
  vi.stubGlobal('fetch', async (path: string, { headers }: RequestInit) => {
    asked.push({ path, headers: new Headers(headers) });
    return answers.shift() ?? new Response(null, { status: 500 });
  });
}
afterEach(() => vi.unstubAllGlobals());

const list = (body: unknown, tag: string) => new Response(JSON.stringify(body), { headers: { etag: tag } });
const same = (tag: string) => new Response(null, { status: 304, headers: { etag: tag } });

describe('data that is read again', () => {
  const schema = z.array(z.string());

  it('is the very same where the server says that it is as it was', async () => {
    answering(list(['a'], 'W/"1"'), same('W/"1"'), list(['a', 'b'], 'W/"2"'));
    const first = await call('GET', '/things', schema);
    expect(asked[0]?.headers.get('if-none-match')).toBeNull();
    expect(await call('GET', '/things', schema)).toBe(first);
    // Fetch standard, 4.6: with this header a browser does not ask for a whole answer by itself.
    expect([asked[1]?.headers.get('if-none-match'), asked[1]?.headers.get('cache-control')]).toEqual([
      'W/"1"',
      'max-age=0',
    ]);
    expect(await call('GET', '/things', schema)).toEqual(['a', 'b']);
  });

  it('is read whole where it was read by another schema, and where the answer had no tag', async () => {
    answering(list([1], 'W/"1"'), list([1], 'W/"1"'), new Response('[2]'), list([3], 'W/"3"'));
    await call('GET', '/numbers', z.array(z.number()));
    await call('GET', '/numbers', z.array(z.unknown()));
    expect(asked[1]?.headers.has('if-none-match')).toBe(false);
    const schema = z.array(z.number());
    await call('GET', '/untagged', schema);
    await call('GET', '/untagged', schema);
    expect(asked[3]?.headers.has('if-none-match')).toBe(false);
  });

  it('is put together from what is there and what differs from it', async () => {
    const rows = z.array(z.object({ id: z.string(), name: z.string() }));
    const before = [
      { id: 'a', name: 'Ash' },
      { id: 'b', name: 'Birch' },
    ];
    // The format is that of the package; this is how it writes one value that is another now.
    const difference = JSON.stringify({ _t: 'a', 1: { name: ['Birch', 'Beech'] } });
    const differs = new Response(difference, {
      status: 226,
      headers: { etag: 'W/"2"', im: 'jsondiffpatch' },
    });
    answering(list(before, 'W/"1"'), differs, same('W/"2"'));
    const first = await call('GET', '/trees', rows);
    const second = await call('GET', '/trees', rows);
    expect(asked[1]?.headers.get('a-im')).toBe('jsondiffpatch');
    expect(second).toEqual([before[0], { id: 'b', name: 'Beech' }]);
    expect(first).toEqual(before);
    expect(await call('GET', '/trees', rows)).toBe(second);
    expect(asked[2]?.headers.get('if-none-match')).toBe('W/"2"');
  });

  it('says in words that it can’t be read where it is not as it should be', async () => {
    vi.spyOn(console, 'warn').mockImplementation(() => undefined);
    answering(list({ not: 'a list' }, 'W/"1"'));
    await expect(call('GET', '/odd', schema)).rejects.toThrow(/can’t show what the server sent/);
    vi.mocked(console.warn).mockRestore();
  });

  it('is remembered for the latest paths only', async () => {
    const paths = Array.from({ length: 25 }, (_, index) => `/many/${index}`);
    answering(...[...paths, '/many/0', '/many/24'].map((path) => list([], `W/"${path}"`)));
    for (const path of [...paths, '/many/0', '/many/24']) await call('GET', path, schema);
    expect(asked.at(-2)?.headers.has('if-none-match')).toBe(false);
    expect(asked.at(-1)?.headers.get('if-none-match')).toBe('W/"/many/24"');
  });
});

describe('what was stored from here', () => {
  it('is known up to its revision, and nothing else is', () => {
    takeStored('/documents/one', { revision: 4 });
    expect(isKnownHere('/documents/one', 4)).toBe(true);
    expect(isKnownHere('/documents/one', 3)).toBe(true);
    expect(isKnownHere('/documents/one', 5)).toBe(false);
    // A change that says no revision, such as a deletion.
    expect(isKnownHere('/documents/one', null)).toBe(false);
    expect(isKnownHere('/documents/two', 1)).toBe(false);
  });
});
