import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { afterEach, describe, expect, it } from 'vitest';
import { Refusal } from '../refusal.ts';
import { JobThread } from './job-thread.ts';

type Trial = {
  twice: { given: number; result: number };
  count: { given: null; result: number };
  fail: { given: string; result: never };
  hang: { given: null; result: never };
  die: { given: null; result: never };
  dieLater: { given: null; result: string };
};

const script = `
let count = 0;
export default ({ name, given }) => {
  if (name === 'twice') return given * 2;
  if (name === 'count') return count++;
  if (name === 'fail') throw new Error(given);
  if (name === 'hang') for (;;);
  if (name === 'die') process.exit(3);
  if (name === 'dieLater') { process.nextTick(() => { throw new Error('later'); }); return 'bye'; }
};`;

describe('a thread for jobs', () => {
  let thread: JobThread<Trial>;
  const folder = mkdtempSync(join(tmpdir(), 'job-thread-'));
  const begun = (source = script, milliseconds = 10_000) => {
    const file = join(folder, 'jobs.mjs');
    writeFileSync(file, source);
    thread = new JobThread<Trial>(pathToFileURL(file), { milliseconds, said: 'This takes too long.' });
    return thread;
  };
  afterEach(async () => {
    await thread.stop();
    rmSync(join(folder, 'jobs.mjs'));
  });

  it('does one job after another, and tells why one failed', async () => {
    const of = begun();
    const all = await Promise.allSettled([of.do('twice', 3), of.do('fail', 'no reason'), of.do('twice', 4)]);
    expect(all).toEqual([
      { status: 'fulfilled', value: 6 },
      { status: 'rejected', reason: new Error('no reason') },
      { status: 'fulfilled', value: 8 },
    ]);
  });

  it('is the same for every job, also where it was begun ahead', async () => {
    const of = begun();
    of.begin();
    of.begin();
    expect([await of.do('count', null), await of.do('count', null)]).toEqual([0, 1]);
  });

  it('gives up a job that takes too long, and does the next', async () => {
    const of = begun(script, 1000);
    await expect(of.do('hang', null)).rejects.toThrow(new Refusal(422, 'This takes too long.'));
    expect(await of.do('twice', 2)).toBe(4);
  });

  it('is begun anew after it died in a job or between two', async () => {
    const of = begun();
    await expect(of.do('die', null)).rejects.toThrow();
    expect(await of.do('twice', 2)).toBe(4);
    expect(await of.do('dieLater', null)).toBe('bye');
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect(await of.do('twice', 5)).toBe(10);
  });

  it('that can’t even begin fails its jobs and nothing else', async () => {
    const of = begun('throw new Error("broken");');
    of.begin();
    await new Promise((resolve) => setTimeout(resolve, 300));
    await expect(of.do('twice', 1)).rejects.toThrow();
  });
});
