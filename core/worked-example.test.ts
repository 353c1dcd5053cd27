import { describe, expect, it } from 'vitest';
import {
  demoAttributes,
  demoAudiences,
  demoDocuments,
  demoPeople,
  demoSeed,
  demoSettings,
} from '../demo/scenario.ts';
import { analyseDocument } from './analysis/document-analysis.ts';
import { localDay } from './attributes/calendar.ts';
import { Catalogue } from './attributes/catalogue.ts';
import { Decider } from './deciding/decide.ts';
import { slotsOf } from './documents/document.ts';
import { moveVariant } from './documents/edit.ts';
import { Population } from './population/population.ts';

// The worked examples of docs/core.md.
const instant = Date.parse('2026-11-24T12:00:00Z');
const [home] = demoDocuments;
if (!home) throw new Error('the demo has no page');
const slots = slotsOf(home.content);
const offer = slots.findIndex(({ name }) => name === 'Offer card');
const decider = new Decider({
  settings: demoSettings,
  attributes: demoAttributes,
  audiences: demoAudiences,
  documents: [home],
});

describe('the offer card of the home page', () => {
  const choiceFor = (contact: Record<string, unknown>) =>
    decider.decide('home', decider.facts({ contact, signedIn: true, visit: {}, item: null, instant }))[offer];

  it('is the renewal card for a Dusk member who renews in ten days and came five times, but not as staff', () => {
    const regular = { tier: 'dusk', renewal: '2026-12-04', visits: 5 };
    expect(choiceFor(regular)).toBe(0);
    expect(choiceFor({ ...regular, roles: ['staff'] })).toBe(1);
    const facts = decider.facts({ contact: regular, signedIn: true, visit: {}, item: null, instant });
    const slot = slots[offer];
    // B and C are never asked.
    expect(slot && decider.trace(slot, facts).map(({ holds }) => holds)).toEqual([true]);
  });

  it('counts its regulars from bitsets as deciding does one by one', () => {
    const population = new Population(new Catalogue(demoAttributes, demoSettings.zone));
    const people = demoPeople(2400, demoSeed, localDay(instant, demoSettings.zone));
    for (const [index, { values, hasAccount }] of people.entries())
      population.put({ id: index + 1, values, hasAccount });
    const asking = population.under({ instant, channel: 'page' }, demoAudiences, new Map());
    const counted = asking.count({ kind: 'audience', audience: 'regulars-near-renewal' });
    expect(counted).toBe(people.filter(({ values }) => choiceFor({ ...values }) === 0).length);
    expect(counted).toBeGreaterThan(20);
  });

  it('has no variant that nobody gets; with C above B, B is found and moved back', () => {
    expect(slots[offer]?.variants.map(({ audience }) => audience)).toEqual([
      'regulars-near-renewal',
      'dusk-members',
      'any-member',
    ]);
    const drafts = { settings: demoSettings, attributes: demoAttributes, audiences: demoAudiences };
    const third = slots[offer]?.variants[2]?.id ?? '';
    const content = moveVariant(home.content, slots[offer]?.id ?? '', third, 1);
    const [finding, ...others] = analyseDocument(drafts, { ...home, content }, instant).findings;
    expect(others).toEqual([]);
    expect(finding?.sentence).toContain(
      'nobody gets variant C, since everybody in “Dusk members” is in “Members of any tier” above it',
    );
    const [repair] = finding?.repairs ?? [];
    if (!repair) throw new Error('no repair');
    expect(analyseDocument(drafts, { ...home, content: repair.content }, instant).findings).toEqual([]);
  });
});
