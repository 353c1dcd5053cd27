import { describe, expect, it } from 'vitest';
import { always, Diagrams, never, outcome } from './diagrams.ts';

describe('diagrams', () => {
  const diagrams = new Diagrams();
  const left = diagrams.range(1, 3, 1, 2);
  const right = diagrams.range(2, 2, 1, 2);

  it('are the same number when they mean the same', () => {
    const { and, or, not } = {
      and: diagrams.and.bind(diagrams),
      or: diagrams.or.bind(diagrams),
      not: diagrams.not.bind(diagrams),
    };
    expect(not(not(left))).toBe(left);
    expect(not(and(left, right))).toBe(or(not(left), not(right)));
    expect(or(left, not(left))).toBe(always);
    expect(and(left, not(left))).toBe(never);
    expect(and(left, right)).toBe(and(right, left));
  });

  it('give an example of what makes them true', () => {
    expect(diagrams.example(diagrams.and(left, right))).toEqual(
      new Map([
        [1, 1],
        [2, 1],
      ]),
    );
    expect(diagrams.example(never)).toBeUndefined();
    expect([...diagrams.outcomes(diagrams.choose(left, outcome(7), right))].sort()).toEqual([0, 1, 7]);
  });
});
