import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { begun, changed, type History, redone, undone } from './history.ts';

const set = (history: History<number>, to: number, now: number, group?: string) =>
  changed(history, () => to, group, now);

describe('undo and redo', () => {
  it('go back to where it began and forth to where it was, and no further (property)', () => {
    fc.assert(
      fc.property(fc.array(fc.integer(), { maxLength: 50 }), (values) => {
        const steps = [0];
        let history = begun(0);
        for (const value of values) {
          history = set(history, value, 0);
          if (value !== steps.at(-1)) steps.push(value);
        }
        for (const step of [...steps].reverse()) {
          expect(history.present).toBe(step);
          history = undone(history);
        }
        expect(undone(history)).toBe(history);
        for (const step of steps) {
          expect(history.present).toBe(step);
          history = redone(history);
        }
        expect(redone(history)).toBe(history);
      }),
    );
  });

  it('take what was typed in one go as one step, and what came later or elsewhere as another', () => {
    let history = begun(0);
    history = set(history, 1, 1000, 'name');
    history = set(history, 2, 1500, 'name');
    history = set(history, 3, 1600, 'address');
    history = set(history, 4, 1700, 'address');
    history = set(history, 5, 9000, 'address');
    history = set(history, 6, 9001);
    history = set(history, 7, 9002);
    const seen = [history.present];
    while (history.past.length > 0) {
      history = undone(history);
      seen.push(history.present);
    }
    expect(seen).toEqual([7, 6, 5, 4, 2, 0]);
  });

  it('forget what was undone once something else is done', () => {
    let history = set(set(begun(0), 1, 0), 2, 0);
    history = set(undone(history), 3, 0);
    expect(redone(history)).toBe(history);
    expect(undone(history).present).toBe(1);
    // A change that changes nothing forgets nothing.
    const back = undone(history);
    expect(set(back, 1, 0)).toBe(back);
    expect(redone(back).present).toBe(3);
  });

  it('after an undo begin a new step, also of the same thing', () => {
    let history = set(set(begun(0), 1, 1000, 'name'), 2, 5000, 'name');
    history = set(undone(history), 9, 1001, 'name');
    expect(undone(history).present).toBe(1);
  });

  it('keep 200 steps', () => {
    let history = begun(0);
    for (let value = 1; value <= 500; value++) history = set(history, value, 0);
    expect(history.past).toHaveLength(200);
    expect(history.past[0]).toBe(300);
  });
});
