import type { Audience } from '../core/audiences/audience.ts';
import { all, any, inAudience, not, test } from '../core/conditions/condition.ts';

/** The audiences that the demo starts with. */
export const demoAudiences: Audience[] = [
  {
    id: 'midnight-members',
    name: 'Midnight members',
    description: 'The highest tier.',
    condition: all(test('tier', 'is-one-of', 'midnight')),
  },
  {
    id: 'twilight-members',
    name: 'Twilight members',
    description: '',
    condition: all(test('tier', 'is-one-of', 'twilight')),
  },
  {
    id: 'dusk-members',
    name: 'Dusk members',
    description: '',
    condition: all(test('tier', 'is-one-of', 'dusk')),
  },
  {
    id: 'any-member',
    name: 'Members of any tier',
    description: 'For what every member may read.',
    condition: all(test('tier', 'at-least', 'dusk')),
  },
  {
    id: 'no-tier',
    name: 'Signed in, no tier',
    description: 'They have an account but no membership yet.',
    condition: all(test('signed-in', 'is-yes'), not(test('tier', 'has-value'))),
  },
  {
    id: 'renewing',
    name: 'Renewal within 30 days',
    description: 'Staff renew by themselves.',
    condition: all(test('renewal', 'within-next', 30), not(test('roles', 'includes-any', 'staff'))),
  },
  {
    id: 'regulars-near-renewal',
    name: 'Regulars near renewal',
    description: 'For the renewal card and the December reminder.',
    condition: all(
      inAudience('renewing'),
      test('tier', 'is-one-of', 'dusk', 'twilight'),
      any(test('visits', 'at-least', 3), test('lists', 'includes-any', 'telescope-night-waitlist')),
    ),
  },
  {
    id: 'families-nearby',
    name: 'Families nearby',
    description: 'Within half an hour of the dome.',
    condition: all(
      test('tags', 'includes-any', 'family'),
      test('city', 'is-one-of', 'Larkhaven', 'Stonebarrow', 'Ashwold'),
    ),
  },
  {
    id: 'guide-readers',
    name: 'May read this guide',
    description: 'Signed-in members of a tier that the guide is for.',
    condition: all(test('signed-in', 'is-yes'), test('guides-tiers', 'includes-own', 'tier')),
  },
  {
    id: 'educators',
    name: 'Educators',
    description: 'Teachers and leaders of groups.',
    condition: all(test('roles', 'includes-any', 'educator')),
  },
  ...(
    [
      ['moon', 'Moon watchers'],
      ['planets', 'Planet watchers'],
      ['deep-sky', 'Deep sky watchers'],
      ['sun', 'Sun watchers'],
    ] as const
  ).map(
    ([tag, name]): Audience => ({
      id: name.toLowerCase().replaceAll(' ', '-'),
      name,
      description: 'By the answer to the survey.',
      condition: all(test('tags', 'includes-any', tag)),
    }),
  ),
];
