import { get as request } from 'node:http';
import { brotliDecompressSync, gunzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { demoSitePassword } from '../../demo/scenario.ts';
import { type Caller, type Instance, startInstance } from './instance.ts';

let instance: Instance;
let visitor: Caller;

beforeAll(async () => {
  instance = await startInstance();
  visitor = instance.visitor();
  const known = new URLSearchParams({ email: 'noor.vale@example.org', password: demoSitePassword });
  expect((await visitor.call('POST', '/site/sign-in', known)).status).toBe(303);
});
afterAll(() => instance.stop());

interface Raw {
  readonly status: number;
  readonly encoding: string | undefined;
  readonly vary: string;
  readonly tag: string | undefined;
  readonly bytes: Buffer;
}

/** What comes over the wire, as it is. */
function ask(path: string, headers: Record<string, string>): Promise<Raw> {
  return new Promise((resolve, reject) => {
    request(instance.app.address + path, { headers }, (response) => {
      const pieces: Buffer[] = [];
      response.on('data', (piece) => pieces.push(piece));
      response.on('end', () =>
        resolve({
          status: response.statusCode ?? 0,
          encoding: response.headers['content-encoding'],
          vary: response.headers.vary ?? '',
          tag: response.headers.etag,
          bytes: Buffer.concat(pieces),
        }),
      );
    }).on('error', reject);
  });
}

const browser = { 'accept-encoding': 'gzip, deflate, br, zstd' };
const here = { ...browser, 'sec-fetch-site': 'same-origin' };
const elsewhere = { ...browser, 'sec-fetch-site': 'cross-site' };

function decoded({ encoding, bytes }: Raw): string {
  if (encoding === 'br') return brotliDecompressSync(bytes).toString('utf8');
  return (encoding === 'gzip' ? gunzipSync(bytes) : bytes).toString('utf8');
}

describe('an answer that is the same for everybody', () => {
  it.each(['/site/', '/site/membership', '/pictures/moon.svg', '/site-assets/site.css'])(
    'comes compressed in the way that the browser reads, and says the same: %s',
    async (path) => {
      const plain = await ask(path, {});
      expect(plain.encoding).toBeUndefined();
      for (const [accepted, encoding] of [
        ['gzip, deflate, br, zstd', 'br'],
        ['gzip', 'gzip'],
        ['br;q=0, gzip', 'gzip'],
        ['identity', undefined],
        ['', undefined],
      ] as const) {
        const answer = await ask(path, { 'accept-encoding': accepted });
        expect([accepted, answer.status, answer.encoding]).toEqual([accepted, 200, encoding]);
        expect(answer.vary).toContain('Accept-Encoding');
        expect(decoded(answer)).toBe(decoded(plain));
        if (encoding) expect(answer.bytes.length).toBeLessThan(plain.bytes.length / 2);
      }
    },
  );

  it('is not sent again to who has it, however it was compressed', async () => {
    for (const accepted of ['br', 'gzip', 'identity']) {
      const headers = { 'accept-encoding': accepted };
      const { tag = '' } = await ask('/site/', headers);
      const again = await ask('/site/', { ...headers, 'if-none-match': tag });
      expect([accepted, again.status, again.bytes.length]).toEqual([accepted, 304, 0]);
    }
  });

  it('is compressed for who comes from another site, too', async () => {
    expect((await ask('/site/', elsewhere)).encoding).toBe('br');
  });

  it('stays as it is where it is small', async () => {
    expect((await ask('/site/icon.svg', browser)).encoding).toBeUndefined();
  });
});

// The length of a compressed answer tells what in it is there twice (Prado, Harris, Gluck: BREACH, 2013).
describe('an answer for one person', () => {
  const own = () => [
    { path: '/site/', headers: visitor.cookieHeader },
    { path: '/site/search?q=moon', headers: visitor.cookieHeader },
    { path: '/api/attributes', headers: instance.studio.cookieHeader },
    { path: '/api/contacts?limit=50', headers: instance.studio.cookieHeader },
  ];

  it('is compressed where the program’s own page asked', async () => {
    for (const { path, headers } of own()) {
      const answer = await ask(path, { ...headers, ...here });
      expect([path, answer.status, answer.encoding]).toEqual([path, 200, 'br']);
      expect((await ask(path, { ...headers, ...browser, 'sec-fetch-site': 'none' })).encoding).toBe('br');
    }
  });

  it('is not where another site may have had the browser ask', async () => {
    for (const { path, headers } of own())
      for (const asked of [elsewhere, { ...browser, 'sec-fetch-site': 'same-site' }, browser]) {
        const answer = await ask(path, { ...headers, ...asked });
        expect([path, answer.status, answer.encoding]).toEqual([path, 200, undefined]);
      }
  });
});

describe('the stream of changes', () => {
  it('is sent as it comes', async () => {
    const answer = await instance.studio.call('GET', '/api/changes', undefined, here);
    expect([answer.status, answer.headers.get('content-encoding')]).toEqual([200, null]);
  });
});

describe('the site’s own style, script and fonts', () => {
  it('are at addresses that change with them, and are kept for good', async () => {
    const { text } = await instance.visitor().get('/site/');
    const found = [...text.matchAll(/(?:href|src)="(\/site-assets\/[0-9a-f]{12}\/[\w./-]+)"/g)].map(
      ([, path = '']) => path,
    );
    expect(found.map((path) => path.replace(/^.*\./, '')).sort()).toEqual(['css', 'js', 'woff2', 'woff2']);
    for (const path of found) {
      const answer = await instance.visitor().get(path);
      expect([path, answer.status, answer.headers.get('cache-control')]).toEqual([
        path,
        200,
        'public, max-age=31536000, immutable',
      ]);
    }
  });

  it('are found from pages that another version of the program made, and are not kept then', async () => {
    for (const path of ['/site-assets/0123456789ab/site.css', '/site-assets/site.css']) {
      const { status, headers, text } = await instance.visitor().get(path);
      expect([path, status, headers.get('cache-control')]).toEqual([path, 200, 'public, max-age=0']);
      expect(text).toContain('.site-head');
    }
    expect((await instance.visitor().get('/site-assets/0123456789ab/other.css')).status).toBe(404);
  });
});
