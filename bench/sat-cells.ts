import type { Attribute } from '../core/attributes/attribute.ts';
import type { Catalogue } from '../core/attributes/catalogue.ts';
import { type Fact, Facts } from '../core/attributes/viewer.ts';
import type { Test } from '../core/conditions/condition.ts';
import { compileTest } from '../core/conditions/evaluate.ts';
import { meaningOf } from '../core/conditions/meaning.ts';

/**
 * The values of an attribute as a SAT encoder takes them: one cell for each combination of outcomes of some tests that any
 * value has, missing included. The outcomes of the tests by cell.
 */
export function satCells(
  attribute: Attribute,
  tests: readonly Test[],
  catalogue: Catalogue,
  today: number,
): boolean[][] {
  const holds = tests.map((test) => compileTest(test, catalogue).holds);
  const facts = Facts.of([], today);
  const cells = new Map<string, boolean[]>();
  for (const fact of [undefined, ...values(attribute, tests, catalogue, today)]) {
    const outcomes = holds.map((one) => one(fact, facts));
    cells.set(outcomes.join(), outcomes);
  }
  return [...cells.values()];
}

function values(attribute: Attribute, tests: readonly Test[], catalogue: Catalogue, today: number): Fact[] {
  const questions = tests.map((test) => meaningOf(test, attribute, catalogue).question);
  switch (attribute.type) {
    case 'yes-no':
      return [true, false];
    case 'choice':
      return attribute.choices.map(({ id }) => id);
    case 'text':
      return [...tests.flatMap((test) => test.values.map(String)), 'another'];
    case 'set': {
      let sets: string[][] = [[]];
      for (const id of new Set(
        questions.flatMap((one) => ('values' in one ? [...one.values].map(String) : [])),
      ))
        sets = sets.concat(sets.map((held) => [...held, id]));
      return sets.flatMap((held) => [[...held], [...held, 'another']]).filter((held) => held.length > 0);
    }
    default: {
      const bounds = questions.flatMap((one) =>
        one.kind === 'within'
          ? one.ranges.flatMap(({ from, to }) => [from, to])
          : one.kind === 'days-from-today'
            ? [today + one.from, today + one.to]
            : [],
      );
      const step = attribute.type === 'number' && !attribute.whole ? 0.001 : 1;
      return bounds.filter(Number.isFinite).flatMap((bound) => [bound - step, bound, bound + step]);
    }
  }
}
