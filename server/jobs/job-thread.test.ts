import { afterEach, describe, expect, it } from 'vitest';
import { Refusal } from '../refusal.ts';
import { JobThread } from './job-thread.ts';

type Trial = {
  twice: { given: number; result: number };
  fail: { given: string; result: never };
  hang: { given: null; result: never };
  die: { given: null; result: never };
  dieLater: { given: null; result: string };
};

const script = `
import { parentPort } from 'node:worker_threads';
let count = 0;
parentPort.on('message', ({ name, given }) => {
  if (name === 'twice') parentPort.postMessage({ result: given * 2 + (given === 0 ? count++ : 0) });
  if (name === 'fail') parentPort.postMessage({ failure: given });
  if (name === 'hang') for (;;);
  if (name === 'die') process.exit(3);
  if (name === 'dieLater') { parentPort.postMessage({ result: 'bye' }); setTimeout(() => { throw new Error('later'); }, 5); }
});`;
const urlOf = (source: string) => new URL(`data:text/javascript,${encodeURIComponent(source)}`);

describe('a thread for jobs', () => {
  let thread: JobThread<Trial>;
  const begun = (source = script, milliseconds = 10_000) => {
    thread = new JobThread<Trial>(urlOf(source), { milliseconds, said: 'This takes too long.' });
    return thread;
  };
  afterEach(() => thread.stop());

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
    expect([await of.do('twice', 0), await of.do('twice', 0)]).toEqual([0, 1]);
  });

  it('gives up a job that takes too long, and does the next', async () => {
    const of = begun(script, 500);
    await expect(of.do('hang', null)).rejects.toThrow(new Refusal(422, 'This takes too long.'));
    expect(await of.do('twice', 2)).toBe(4);
  });

  it('is begun anew after it died in a job or between two', async () => {
    const of = begun();
    await expect(of.do('die', null)).rejects.toThrow('ended in the middle');
    expect(await of.do('twice', 2)).toBe(4);
    expect(await of.do('dieLater', null)).toBe('bye');
    await new Promise((resolve) => setTimeout(resolve, 200));
    expect(await of.do('twice', 5)).toBe(10);
  });

  it('that can’t even begin fails its jobs and nothing else', async () => {
    const of = begun('throw new Error("broken");');
    of.begin();
    await new Promise((resolve) => setTimeout(resolve, 200));
    await expect(of.do('twice', 1)).rejects.toThrow('broken');
  });
});
