import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { validateXML } from 'xmllint-wasm';
import type { ItemDraft } from '../../contract/collections.ts';
import { demoSitePassword } from '../../demo/scenario.ts';
import { type Caller, type Instance, startInstance } from './instance.ts';

const schemas = {
  sitemap: { file: 'sitemap.xsd', extension: 'schema' },
  feed: { file: 'atom.rng', extension: 'relaxng' },
} as const;

/** What libxml2 has against `xml` by one of the schemas in test/data. */
async function problemsOf(xml: string, kind: keyof typeof schemas): Promise<string[]> {
  const { file, extension } = schemas[kind];
  const schema = readFileSync(new URL(`../data/${file}`, import.meta.url), 'utf8');
  const { errors } = await validateXML({ xml, schema, extension });
  return errors.map(({ message }) => message);
}

let instance: Instance;
let members: Caller;

beforeAll(async () => {
  instance = await startInstance();
  const { studio } = instance;
  const draft: ItemDraft = {
    slug: 'odd-signs',
    title: 'Moons & <rings> "seen" \u{1f319} مرحبا',
    teaser: 'A control sign \u0001 and \ufffe too',
    access: null,
    from: '2026-11-01T08:00:00.000Z',
    until: null,
    values: { 'guides-level': 'beginner' },
  };
  expect((await studio.call('POST', '/api/collections/guides/items', draft)).status).toBe(201);
  const { fingerprint } = (await studio.get('/api/releases/pending')).body;
  const released = await studio.call('POST', '/api/releases', { note: 'Odd signs', fingerprint });
  expect(released.status).toBe(201);
  members = instance.visitor();
  await members.call(
    'POST',
    '/site/sign-in',
    new URLSearchParams({ email: 'noor.vale@example.org', password: demoSitePassword }),
  );
});
afterAll(() => instance.stop());

describe('what other programs read of the site', () => {
  // Sitemap protocol 0.9, sitemaps.org.
  it('is a sitemap by its schema, for a stranger and a member', async () => {
    for (const who of [instance.visitor(), members]) {
      const { text } = await who.get('/site/sitemap.xml');
      expect(text).toContain('/site/guides/odd-signs</loc>');
      expect(await problemsOf(text, 'sitemap')).toEqual([]);
    }
  });

  // RFC 4287.
  it('is a feed of each collection by its schema, with any sign in its words', async () => {
    const { text } = await members.get('/site/guides/feed.xml');
    expect(text).toContain('Moons &amp; &lt;rings&gt;');
    expect(await problemsOf(text, 'feed')).toEqual([]);
    const ids = [...text.matchAll(/<id>(.*?)<\/id>/g)].map(([, id]) => id);
    expect(new Set(ids).size).toBe(ids.length);
  });

  it('would be found wrong if it were', async () => {
    const { text } = await members.get('/site/guides/feed.xml');
    expect(await problemsOf(text.replace(/<updated>.*?<\/updated>/, ''), 'feed')).not.toEqual([]);
    const map = (await members.get('/site/sitemap.xml')).text;
    expect(await problemsOf(map.replaceAll('loc>', 'address>'), 'sitemap')).not.toEqual([]);
  });
});
