import { describe, expect, it } from 'vitest';
import type { Cast } from '../../../contract/documents.ts';
import type { PersonRecord } from '../../../contract/people.ts';
import { Catalogue } from '../../../core/attributes/catalogue.ts';
import { demoAttributes } from '../../../demo/scenario.ts';
import type { DocumentAnalysis } from '../../data/analysis.ts';
import { isPossibleOnly, stepsByAudience, stepsByFace } from './use-steps.ts';

const catalogue = new Catalogue(demoAttributes, 'Europe/London');
const instant = Date.parse('2026-11-24T19:00:00Z');
const sunday = Date.parse('2026-11-29T12:00:00Z');
const person = (id: number, name: string, hasAccount = true): PersonRecord => ({
  id,
  name,
  email: `${id}@example.org`,
  hasAccount,
  values: {},
});
const [ines, noor] = [person(1, 'Ines Marlow'), person(2, 'Noor Vale', false)];
const nameOf = (id: string) => ({ midnight: 'Midnight members', twilight: 'Twilight members' })[id] ?? id;
const castOf = (more: Partial<Cast>): Cast => ({ people: [], slots: [], faces: [], total: 2400, ...more });

type Face = DocumentAnalysis['faces'][number];
const face = (choices: number[], more: Partial<Face> = {}): Face => ({
  choices,
  anonymous: false,
  witness: { contact: { tier: 'midnight' }, signedIn: true, visit: {}, item: null, instant },
  description: { in: [], notIn: [], facts: undefined },
  ...more,
});
const stepsOf = (faces: Face[], found: Cast['faces'] = []) =>
  stepsByFace(
    { faces, complete: true, findings: [], overlaps: [], refused: undefined },
    castOf({ faces: found }),
    nameOf,
    instant,
    catalogue,
  );

describe('the steps of the viewer bar by face', () => {
  it('begin with the anonymous visitor, then the largest, and end with what nobody gets today', () => {
    const steps = stepsOf(
      [face([0]), face([1]), face([2]), face([-1], { anonymous: true })],
      [
        { choices: [1], count: 12, person: ines },
        { choices: [2], count: 300, person: noor },
        { choices: [-1], count: 674, person: noor },
      ],
    );
    expect(steps.map(({ note }) => note)).toEqual([
      'anonymous and 674 contacts',
      'Noor Vale and 299 more',
      'Ines Marlow and 11 more',
      'possible, nobody today',
    ]);
    expect(steps.map(isPossibleOnly)).toEqual([false, false, false, true]);
  });

  it('look as the real person, signed in where there is an account, and else as one invented', () => {
    const [real, recognised, invented] = stepsOf(
      [face([0]), face([1]), face([2])],
      [
        { choices: [0], count: 9, person: ines },
        { choices: [1], count: 1, person: noor },
      ],
    );
    expect(real).toMatchObject({ person: ines, signedIn: true, visit: null, instant: null });
    expect(recognised).toMatchObject({ person: noor, signedIn: false, note: 'Noor Vale' });
    expect(invented?.person).toMatchObject({ name: 'Somebody invented', values: { tier: 'midnight' } });
    expect(invented?.person?.id).toBeLessThan(0);
  });

  it('bring the visit and the moment that a possible face takes, and say them', () => {
    const witness = {
      contact: null,
      signedIn: false,
      visit: { 'visit-came-by': 'search' },
      item: null,
      instant: sunday,
    };
    const [step] = stepsOf([face([0], { witness, anonymous: true })]);
    expect(step).toMatchObject({ person: null, visit: { 'visit-came-by': 'search' }, instant: sunday });
    expect(step?.note).toBe('possible, nobody today: came by search, Sun 29 Nov, 12:00');
  });

  it.each([
    ['Midnight members', { in: ['midnight'] }],
    ['Midnight members, not “Twilight members”', { in: ['midnight'], notIn: ['twilight'] }],
    ['Signed in, no membership tier', { notIn: ['midnight'], facts: ['signed in', 'no membership tier'] }],
    ['Everybody', {}],
  ])('are called “%s”', (label, description) => {
    const whole = { in: [], notIn: [], facts: undefined, ...description };
    expect(stepsOf([face([0], { description: whole })])[0]?.label).toBe(label);
  });
});

describe('the steps of the viewer bar by audience', () => {
  it('show one person of each, a person only once, and leave out audiences that nobody is in', () => {
    const steps = stepsByAudience(
      castOf({
        people: [
          { audience: 'midnight', person: noor, count: 235 },
          { audience: 'nobody', person: null, count: 0 },
          { audience: 'twilight', person: noor, count: 483 },
        ],
      }),
      nameOf,
    );
    expect(steps.map(({ label }) => label)).toEqual(['Anonymous', 'Midnight members, Twilight members']);
  });
});
