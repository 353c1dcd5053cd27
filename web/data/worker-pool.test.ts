import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { type StartWorker, Superseded, TookTooLong, WorkerPool } from './worker-pool.ts';

/** What was started, in order. */
let started: { isStopped: boolean }[] = [];

/** Starts a worker that answers a question with itself after as many milliseconds as it says. */
const startAfter =
  (loading: number): StartWorker<unknown> =>
  (hear, broken) => {
    const state = { isStopped: false };
    started.push(state);
    let isReady = false;
    setTimeout(() => {
      isReady = true;
      hear({ ready: true });
    }, loading);
    return {
      ask(question) {
        // A browser drops what a worker is told before it listens.
        if (!isReady) return;
        const time = Number(question);
        if (time === 17) setTimeout(() => broken('broken'), time);
        // What was asked of a stopped worker is still heard, as it may be of one in a browser.
        else if (Number.isFinite(time))
          setTimeout(() => hear(time === 13 ? { failure: 'unlucky' } : { answer: time }), time);
      },
      stop() {
        state.isStopped = true;
      },
    };
  };

const never = Number.POSITIVE_INFINITY;
const pool = (most = 2, loading = 0) => new WorkerPool(startAfter(loading), most, 2000);
/** What became of a question, and after how long. */
function outcomeOf(asked: Promise<unknown>) {
  const from = Date.now();
  const found: { value?: unknown; error?: unknown; after?: number } = {};
  asked.then(
    (value) => Object.assign(found, { value, after: Date.now() - from }),
    (error: unknown) => Object.assign(found, { error, after: Date.now() - from }),
  );
  return found;
}

beforeEach(() => {
  vi.useFakeTimers();
  started = [];
});
afterEach(() => {
  vi.useRealTimers();
});

describe('workers that answer questions', () => {
  it('answer, and tell what failed', async () => {
    const workers = pool();
    const [fine, unlucky] = [workers.ask(50, { topic: 'a' }), workers.ask(13, { topic: 'b' })].map(outcomeOf);
    await vi.advanceTimersByTimeAsync(60);
    expect(fine).toMatchObject({ value: 50 });
    expect(unlucky?.error).toMatchObject({ message: 'unlucky' });
    expect(started).toHaveLength(2);
  });

  it('never let a slow question hold up another', async () => {
    const workers = pool();
    const slow = outcomeOf(workers.ask(1900, { topic: 'document' }));
    const quick = outcomeOf(workers.ask(10, { topic: 'condition' }));
    await vi.advanceTimersByTimeAsync(20);
    expect(quick).toMatchObject({ value: 10, after: 10 });
    await vi.advanceTimersByTimeAsync(2000);
    expect(slow).toMatchObject({ value: 1900, after: 1900 });
  });

  it('stop a question that takes longer than it may, and answer the next one', async () => {
    const workers = pool();
    const stuck = outcomeOf(workers.ask(never, { topic: 'a' }));
    await vi.advanceTimersByTimeAsync(1999);
    expect(stuck).toEqual({});
    await vi.advanceTimersByTimeAsync(1);
    expect(stuck).toMatchObject({ error: expect.any(TookTooLong), after: 2000 });
    expect(started[0]?.isStopped).toBe(true);
    const next = outcomeOf(workers.ask(5, { topic: 'a' }));
    await vi.advanceTimersByTimeAsync(5);
    expect(next).toMatchObject({ value: 5 });
  });

  it('do not count the time that loading takes', async () => {
    const workers = pool(2, 1500);
    const asked = outcomeOf(workers.ask(1900, { topic: 'a' }));
    await vi.advanceTimersByTimeAsync(3600);
    expect(asked).toMatchObject({ value: 1900 });
  });

  it('drop what was asked again meanwhile, whether it waits or runs', async () => {
    const workers = pool();
    const outcomes = [100, 200, 300, 400].map((time) => outcomeOf(workers.ask(time, { topic: 'document' })));
    await vi.advanceTimersByTimeAsync(1000);
    expect(outcomes.map(({ value }) => value)).toEqual([undefined, undefined, undefined, 400]);
    for (const { error } of outcomes.slice(0, 3)) expect(error).toBeInstanceOf(Superseded);
    // Nobody waited for the first two any more when their workers were needed.
    expect(started.map(({ isStopped }) => isStopped)).toEqual([true, true, false, false]);
  });

  it('finish what nobody waits for where no worker is short, without telling anybody', async () => {
    const workers = pool(3);
    const first = outcomeOf(workers.ask(30, { topic: 'a' }));
    const second = outcomeOf(workers.ask(40, { topic: 'a' }));
    await vi.advanceTimersByTimeAsync(50);
    expect(first.error).toBeInstanceOf(Superseded);
    expect(second).toMatchObject({ value: 40 });
    expect(started.every(({ isStopped }) => !isStopped)).toBe(true);
  });

  it('leave one worker free for what cannot wait', async () => {
    const workers = pool(2);
    const waiting = [100, 100, 100].map((time, at) =>
      outcomeOf(workers.ask(time, { topic: `list ${at}`, canWait: true })),
    );
    const urgent = outcomeOf(workers.ask(10, { topic: 'document' }));
    await vi.advanceTimersByTimeAsync(10);
    expect(urgent).toMatchObject({ value: 10, after: 10 });
    await vi.advanceTimersByTimeAsync(300);
    expect(waiting.map(({ after }) => after)).toEqual([100, 200, 300]);
  });

  it('go on with a new worker where one breaks', async () => {
    const workers = pool();
    const broken = outcomeOf(workers.ask(17, { topic: 'a' }));
    await vi.advanceTimersByTimeAsync(20);
    expect(broken.error).toMatchObject({ message: 'broken' });
    const next = outcomeOf(workers.ask(5, { topic: 'a' }));
    await vi.advanceTimersByTimeAsync(10);
    expect(next).toMatchObject({ value: 5 });
    expect(started).toHaveLength(2);
  });
});
