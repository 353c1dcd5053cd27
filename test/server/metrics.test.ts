import parsePrometheusText from 'parse-prometheus-text-format';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Caller, type Instance, startInstance } from './instance.ts';

// Read by a parser of others: parse-prometheus-text-format, after that of the Prometheus Python client.

let instance: Instance;
beforeAll(async () => {
  instance = await startInstance();
});
afterAll(() => instance.stop());

async function written(): Promise<string> {
  const answer = await new Caller(instance.studio.address).get('/metrics');
  expect(answer.status).toBe(200);
  expect(answer.headers.get('content-type')).toContain('version=0.0.4');
  return answer.text;
}

interface Sample {
  readonly value?: string;
  readonly labels?: { readonly [name: string]: string };
}

/** All samples by their names. The parser drops labels of histograms, so that it is not told which of them are. */
async function samples(): Promise<Map<string, Sample[]>> {
  const plain = (await written()).replace(/^# TYPE \S+ histogram$/gm, '').replace(/^# HELP .*$/gm, '');
  const found = new Map<string, Sample[]>();
  for (const { name, metrics } of parsePrometheusText(plain))
    found.set(name, [...(found.get(name) ?? []), ...metrics]);
  return found;
}

describe('the figures for what watches over a server', () => {
  it('are what happened', async () => {
    const requests = async () => {
      const counted = (await samples()).get('apple_porch_request_duration_seconds_count') ?? [];
      return counted
        .filter(({ labels }) => labels?.route === '/api/contacts/:id')
        .map(({ labels, value }) => [labels?.method, labels?.status, Number(value)]);
    };
    expect(await requests()).toEqual([]);
    for (const id of [1, 2, 3]) await instance.studio.get(`/api/contacts/${id}`);
    expect((await instance.studio.get('/api/contacts/999999')).status).toBe(404);
    expect(await requests()).toEqual([
      ['GET', '200', 3],
      ['GET', '404', 1],
    ]);

    const figures = await samples();
    const one = (name: string) => Number(figures.get(name)?.[0]?.value);
    const { body: contacts } = await instance.studio.get('/api/contacts');
    expect(one('apple_porch_contacts')).toBe(contacts.total);
    const { body: releases } = await instance.studio.get('/api/releases');
    expect(one('apple_porch_release')).toBe(releases[0].id);
    expect(one('apple_porch_failures_total')).toBe(0);
    expect(one('process_cpu_user_seconds_total')).toBeGreaterThan(0);
  });

  it('have a type and a word on each figure, and histograms whose buckets add up', async () => {
    await instance.studio.get('/site/');
    const families = parsePrometheusText(await written());
    expect(families.length).toBeGreaterThan(20);
    for (const { help, type } of families) expect([help !== '', type !== 'UNTYPED']).toEqual([true, true]);
    const figures = await samples();
    const histograms = families.filter(({ type }) => type === 'HISTOGRAM').map(({ name }) => name);
    expect(histograms).toContain('apple_porch_page_seconds');
    for (const name of histograms) {
      const counted = figures.get(`${name}_count`) ?? [];
      expect([name, counted.length > 0]).toEqual([name, true]);
      for (const { labels = {}, value } of counted) {
        const counts = (figures.get(`${name}_bucket`) ?? [])
          .filter((bucket) => Object.entries(labels).every(([label, of]) => bucket.labels?.[label] === of))
          .map((bucket) => Number(bucket.value));
        // They come from the lowest bound to the highest, which is infinite.
        expect(counts).toEqual([...counts].sort((low, high) => low - high));
        expect(counts.at(-1)).toBe(Number(value));
      }
    }
  });

  it('name no person, page or key, whatever was asked for', async () => {
    for (const path of [
      '/site/nowhere-at-all',
      '/api/documents/home',
      '/site/files/secret-file',
      '/nothing/here',
    ])
      await instance.studio.get(path);
    const answer = await new Caller(instance.studio.address).get('/metrics');
    for (const word of ['nowhere-at-all', 'secret-file', 'nothing/here', 'documents/home'])
      expect(answer.text).not.toContain(word);
  });

  it('are given to this machine alone, and not through a proxy on it', async () => {
    const caller = new Caller(instance.studio.address);
    for (const header of ['x-forwarded-for', 'forwarded'])
      expect((await caller.call('GET', '/metrics', undefined, { [header]: '203.0.113.7' })).status).toBe(404);
  });
});
