import type { Catalogue } from '../attributes/catalogue.ts';
import { sayTest } from '../conditions/words.ts';
import { states } from './states.ts';
import type { Variable } from './variables.ts';

/** Some cells of a variable in words, such as "membership tier is Midnight" or "no city"; undefined where words fail. */
export function sayCells(
  variable: Variable,
  cells: ReadonlySet<number>,
  catalogue: Catalogue,
): string | undefined {
  if (variable.kind === 'same') return undefined;
  const { tests } = variable;
  if (variable.kind === 'attribute') {
    const { attribute } = variable;
    if (cells.size === 1 && cells.has(0)) return `no ${attribute.label}`;
    if (variable.cells.every(({ fact }, index) => (fact !== undefined) === cells.has(index)))
      return `with a ${attribute.label}`;
  }
  for (const [at, test] of tests.entries()) {
    const said = sayTest(test, catalogue);
    if (holdsIn(variable.cells, at, (index) => cells.has(index))) return said;
    if (holdsIn(variable.cells, at, (index) => !cells.has(index))) return `not ${said}`;
  }
  return undefined;
}

/** Whether a test holds in exactly the cells that are wanted. */
function holdsIn(
  cells: readonly { readonly outcomes: readonly boolean[] }[],
  test: number,
  wanted: (cell: number) => boolean,
): boolean {
  return cells.every(({ outcomes }, index) => (outcomes[test] === true) === wanted(index));
}

/** Some states of knowing a viewer in words; undefined for all and for none. */
export function sayStates(cells: ReadonlySet<number>): string | undefined {
  const held = states.filter((_, index) => cells.has(index)).join();
  const words: { readonly [states: string]: string } = {
    anonymous: 'nobody we know',
    recognised: 'known, not signed in',
    'signed-in': 'signed in',
    'anonymous,recognised': 'not signed in',
    'recognised,signed-in': 'known',
  };
  return words[held];
}
