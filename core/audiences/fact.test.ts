import { describe, expect, it } from 'vitest';
import { demoAttributes, demoAudiences, demoSettings } from '../../demo/scenario.ts';
import { analyseCondition } from '../analysis/condition-analysis.ts';
import { analyseDocument } from '../analysis/document-analysis.ts';
import { relationOf } from '../analysis/relation.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { all, any, type Condition, inAudience, not, test } from '../conditions/condition.ts';
import type { Content, Document } from '../documents/document.ts';
import { words } from '../documents/text.ts';
import { bearingOn, type StatedFact } from './fact.ts';
import { factProblems, soundFacts } from './fact-problems.ts';

const instant = Date.parse('2026-11-24T12:00:00Z');
const catalogue = new Catalogue(demoAttributes, demoSettings.zone);
const fact = (id: string, who: Condition, also: Condition): StatedFact => ({ id, who, also });

/** Who has a plan is signed up as member or patron. */
const planMeansMember = fact(
  'plan',
  test('plan', 'has-value'),
  test('stage', 'is-one-of', 'member', 'patron'),
);
const audience = (id: string, condition: Condition) => ({ id, name: id, description: '', condition });
const audiences = [
  ...demoAudiences,
  audience('with a plan', test('plan', 'has-value')),
  audience('signed up', test('stage', 'is-one-of', 'member', 'patron')),
];
const drafts = (...facts: StatedFact[]) => ({
  settings: demoSettings,
  attributes: demoAttributes,
  audiences,
  facts,
});
const kinds = (condition: Condition, ...facts: StatedFact[]) =>
  analyseCondition(drafts(...facts), condition, null, instant).findings.map(({ kind, relies }) => [
    kind,
    relies,
  ]);

describe('what is stated about the contacts', () => {
  const lapsedWithPlan = all(test('plan', 'has-value'), test('stage', 'is-one-of', 'lapsed'));

  it('makes what it excludes impossible, and says that the finding relies on it', () => {
    expect(kinds(lapsedWithPlan)).toEqual([['contained', false]]);
    expect(kinds(lapsedWithPlan, planMeansMember)).toEqual([['never-true', true]]);
  });

  it('leaves alone what is so without it', () => {
    const never = all(test('tier', 'is-one-of', 'dusk'), test('tier', 'is-one-of', 'midnight'));
    expect(kinds(never, planMeansMember)).toEqual([['never-true', false]]);
  });

  it('relates audiences', () => {
    expect(relationOf(drafts(), 'with a plan', 'signed up', instant)).toBe('overlapping');
    expect(relationOf(drafts(planMeansMember), 'with a plan', 'signed up', instant)).toBe('inside');
  });

  it('says nothing about anonymous viewers, even where it is about everybody', () => {
    const everybodyHasAStage = fact('stage', all(), test('stage', 'has-value'));
    // Anonymous viewers still have none, so this is not always true.
    expect(kinds(test('stage', 'has-value'), everybodyHasAStage)).not.toContainEqual(['always-true', true]);
    // A known person without one can't be any more.
    const known = all(test('signed-in', 'is-yes'), test('stage', 'has-no-value'));
    expect(kinds(known)).toEqual([]);
    expect(kinds(known, everybodyHasAStage)).toEqual([['never-true', true]]);
  });

  it('spreads from fact to fact and leaves out what bears on nothing asked', () => {
    const chain = fact(
      'stage',
      test('stage', 'is-one-of', 'member', 'patron'),
      test('lists', 'includes-any', 'newsletter'),
    );
    const aside = fact('city', test('city', 'has-value'), test('country', 'has-value'));
    expect(bearingOn([aside, chain, planMeansMember], new Set(['plan']))).toEqual([chain, planMeansMember]);
    const unsubscribed = all(test('plan', 'has-value'), not(test('lists', 'includes-any', 'newsletter')));
    expect(kinds(unsubscribed, planMeansMember)).toEqual([
      ['contained', false],
      ['contained', true],
    ]);
    expect(kinds(unsubscribed, planMeansMember, chain, aside)).toEqual([['never-true', true]]);
  });

  it('closes gaps of a page that nobody can fall into', () => {
    const content: Content = {
      subject: [],
      preview: [],
      body: [
        {
          kind: 'slot',
          id: 's',
          name: 'Plan card',
          variants: [
            {
              id: 'a',
              audience: 'with a plan',
              content: [
                {
                  kind: 'slot',
                  id: 'inner',
                  name: 'Inner',
                  variants: [
                    {
                      id: 'b',
                      audience: 'signed up',
                      content: [{ kind: 'heading', id: 'h', level: 2, content: words('Yours') }],
                    },
                  ],
                  otherwise: [{ kind: 'heading', id: 'o', level: 2, content: words('Join') }],
                },
              ],
            },
          ],
          otherwise: [{ kind: 'heading', id: 'e', level: 2, content: words('Plans') }],
        },
      ],
    };
    const page: Document = { id: 'p', kind: 'page', name: 'P', slug: 'p', content };
    const found = (...facts: StatedFact[]) =>
      analyseDocument(drafts(...facts), page, instant).findings.map(({ kind, relies }) => [kind, relies]);
    expect(analyseDocument(drafts(), page, instant).faces).toHaveLength(3);
    expect(analyseDocument(drafts(planMeansMember), page, instant).faces).toHaveLength(2);
    expect(found()).toEqual([]);
    expect(found(planMeansMember)).toEqual([['always-true', true]]);
  });
});

describe('facts that can’t be relied on', () => {
  it.each([
    ['an attribute that is gone', fact('x', test('gone', 'has-value'), all()), 'who.attribute'],
    ['an audience', fact('x', all(), inAudience('any-member')), 'also'],
    ['the visit', fact('x', all(), test('visit-device', 'is-one-of', 'phone')), 'also'],
    ['the moment', fact('x', any(test('moment-weekday', 'is-one-of', 'monday')), all()), 'who'],
  ])('name %s', (_what, bad, path) => {
    expect(factProblems(bad, catalogue)[0]?.path).toBe(path);
    expect(soundFacts([bad, planMeansMember], catalogue)).toEqual([planMeansMember]);
    // A bad fact is left out of every proof rather than failing it.
    expect(kinds(test('plan', 'has-value'), bad)).toEqual(kinds(test('plan', 'has-value')));
  });
});
