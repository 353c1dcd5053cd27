import { expect, it } from 'vitest';
import { KeptAnswer } from './kept-answer.ts';

it('is asked for once, kept, and asked for anew once it is forgotten', async () => {
  let times = 0;
  const kept = new KeptAnswer(async () => ++times);
  expect(await Promise.all([kept.get(), kept.get()])).toEqual([1, 1]);
  expect(await kept.get()).toBe(1);
  kept.forget();
  expect(await kept.get()).toBe(2);
});

it('is not kept where asking failed', async () => {
  let fails = true;
  const kept = new KeptAnswer(async () => {
    if (fails) throw new Error('the database is away');
    return 'there';
  });
  await expect(kept.get()).rejects.toThrow('away');
  fails = false;
  expect(await kept.get()).toBe('there');
});

it('that was under way when it was forgotten is not taken for the new one', async () => {
  const waiting: ((answer: number) => void)[] = [];
  const kept = new KeptAnswer(() => new Promise<number>((resolve) => void waiting.push(resolve)));
  const [before] = [kept.get()];
  kept.forget();
  const after = kept.get();
  waiting[1]?.(2);
  waiting[0]?.(1);
  expect([await before, await after, await kept.get()]).toEqual([1, 2, 2]);
});
