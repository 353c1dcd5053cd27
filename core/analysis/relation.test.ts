import { expect, it } from 'vitest';
import { demoAttributes, demoAudiences, demoSettings } from '../../demo/scenario.ts';
import type { Audience } from '../audiences/audience.ts';
import { not, test } from '../conditions/condition.ts';
import { type Relation, relationOf } from './relation.ts';

const own: Audience[] = [
  { id: 'has-tier', name: '', description: '', condition: test('tier', 'has-value') },
  { id: 'no-tier-at-all', name: '', description: '', condition: not(test('tier', 'has-value')) },
  { id: 'broken', name: '', description: '', condition: test('gone', 'has-value') },
];
const drafts = { settings: demoSettings, attributes: demoAttributes, audiences: [...demoAudiences, ...own] };

it.each<[string, string, Relation | undefined]>([
  ['any-member', 'has-tier', 'same'],
  ['dusk-members', 'any-member', 'inside'],
  ['any-member', 'dusk-members', 'around'],
  ['dusk-members', 'midnight-members', 'apart'],
  ['has-tier', 'no-tier-at-all', 'apart'],
  ['no-tier', 'no-tier-at-all', 'inside'],
  ['renewing', 'families-nearby', 'overlapping'],
  ['broken', 'any-member', undefined],
  ['not there', 'any-member', undefined],
])('%s to %s: %s', (one, two, relation) => {
  expect(relationOf(drafts, one, two, Date.parse('2026-11-24T12:00:00Z'))).toBe(relation);
});
