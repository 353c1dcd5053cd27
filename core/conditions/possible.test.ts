import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { attributes, randomConditionOf, randomViewer } from '../../test/random-conditions.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { factsOf } from '../attributes/viewer.ts';
import { all, any, inAudience, not, test } from './condition.ts';
import { compile } from './evaluate.ts';
import { possible } from './possible.ts';

const catalogue = new Catalogue(attributes, 'Europe/London');
const few = ['tier', 'vip', 'visits', 'visit-device', 'visit-came-by'].flatMap(
  (id) => catalogue.get(id) ?? [],
);
const isVisit = (attribute: string) => catalogue.get(attribute)?.source === 'visit';
const asked = { catalogue, conditionOf: () => undefined, isUnknown: isVisit };

describe('what a condition can come out as while the visit is not known', () => {
  it('has in it what it comes out as on every visit (property)', () => {
    fc.assert(
      fc.property(
        randomConditionOf(few),
        randomViewer,
        fc.array(randomViewer, { minLength: 1, maxLength: 10 }),
        (condition, viewer, others) => {
          const found = possible(condition, factsOf(catalogue, viewer), asked);
          for (const { visit } of others) {
            const holds = compile(condition, catalogue)(factsOf(catalogue, { ...viewer, visit }));
            expect(holds ? found.holds : found.fails).toBe(true);
          }
        },
      ),
      { numRuns: 400 },
    );
  });

  it('is one thing only where the visit does not matter', () => {
    const phone = test('visit-device', 'is-one-of', 'phone');
    const vip = test('vip', 'is-yes');
    const facts = factsOf(catalogue, { contact: {}, signedIn: false, visit: {}, item: null, instant: 0 });
    expect(possible(all(vip, phone), facts, asked)).toEqual({ holds: false, fails: true });
    expect(possible(any(not(vip), phone), facts, asked)).toEqual({ holds: true, fails: false });
    expect(possible(not(all(not(vip), phone)), facts, asked)).toEqual({ holds: true, fails: true });
    expect(possible(inAudience('gone'), facts, asked)).toEqual({ holds: false, fails: true });
    const through = { ...asked, conditionOf: () => all(vip, phone) };
    expect(possible(not(inAudience('both')), facts, through)).toEqual({ holds: true, fails: false });
  });
});
