import { describe, expect, it } from 'vitest';
import { demoAttributes, demoAudiences, demoDocuments, demoSettings } from '../../demo/scenario.ts';
import type { Audience } from '../audiences/audience.ts';
import { all, inAudience, not, test } from '../conditions/condition.ts';
import type { Document } from '../documents/document.ts';
import { changesBetween } from './changes.ts';
import { Decider } from './decide.ts';
import type { Snapshot } from './release.ts';

const snapshot: Snapshot = {
  settings: demoSettings,
  attributes: demoAttributes,
  audiences: demoAudiences,
  documents: demoDocuments,
};
const audience = (id: string, condition: Audience['condition']): Audience => ({
  id,
  name: id,
  description: '',
  condition,
});
const viewer = (contact: Record<string, unknown> | null, signedIn = contact !== null) => ({
  contact,
  signedIn,
  visit: { 'visit-device': 'computer' },
  item: null,
  instant: Date.parse('2026-11-24T12:00:00Z'),
});

describe('deciding', () => {
  const decider = new Decider(snapshot);
  const choices = (contact: Record<string, unknown> | null, signedIn?: boolean) => [
    ...decider.decide('home', decider.facts(viewer(contact, signedIn))),
  ];

  it('shows the first match of each slot, else everyone else', () => {
    expect(choices(null)).toEqual([-1, -1, -1]);
    expect(choices({ tier: 'midnight' })).toEqual([0, 0, 2]);
    expect(choices({ tier: 'dusk' })).toEqual([2, 0, 1]);
    expect(choices({})).toEqual([3, -1, -1]);
    expect(choices({}, false)).toEqual([-1, -1, -1]);
  });

  it('takes precedence from the order of variants', () => {
    const renewing = { tier: 'dusk', renewal: '2026-12-04', visits: 5 };
    expect(choices(renewing)).toEqual([2, 0, 0]);
    expect(choices({ ...renewing, roles: ['staff'] })).toEqual([2, 0, 1]);
  });

  it('never throws on bad data', () => {
    for (const tier of [7, null, {}, [], 'x'.repeat(1_000_000), Number.NaN])
      expect(choices({ tier, renewal: tier, visits: tier, roles: tier }, false)).toEqual([-1, -1, -1]);
  });

  it('says why, down to the variant that matched', () => {
    const facts = decider.facts(viewer({ tier: 'twilight' }));
    const [slot] = decider.preparedSlots('home').slots;
    if (!slot) throw new Error('no slot');
    const trace = decider.trace(slot, facts);
    expect(trace.map((step) => [step.audience, step.holds])).toEqual([
      ['midnight-members', false],
      ['twilight-members', true],
    ]);
    expect(trace[0]?.explanation).toMatchObject({
      parts: [{ words: 'membership tier is Midnight', met: 'Twilight', holds: false }],
    });
  });
});

describe('audiences that can’t be evaluated', () => {
  const broken = [
    audience('gone', test('nothing', 'has-value')),
    audience('on-gone', not(inAudience('gone'))),
    audience('circle-a', inAudience('circle-b')),
    audience('circle-b', not(inAudience('circle-a'))),
    audience('fine', all()),
  ];
  const document: Document = {
    id: 'd',
    kind: 'page',
    name: 'D',
    slug: 'd',
    content: {
      subject: [],
      preview: [],
      body: [
        {
          kind: 'slot',
          id: 's',
          name: 'S',
          variants: [...broken.map(({ id }) => id), 'deleted'].map((id) => ({
            id,
            audience: id,
            content: [],
          })),
          otherwise: [],
        },
      ],
    },
  };
  const decider = new Decider({ ...snapshot, audiences: broken, documents: [document] });

  it('are skipped and reported, also under a not, and the next variant stands', () => {
    const facts = decider.facts(viewer({}));
    expect([...decider.decide('d', facts)]).toEqual([4]);
    expect([...decider.membership.problems.keys()].sort()).toEqual([
      'circle-a',
      'circle-b',
      'gone',
      'on-gone',
    ]);
    const [slot] = decider.preparedSlots('d').slots;
    const problems = slot && decider.trace(slot, facts).map((step) => step.problem);
    expect(problems?.[0]).toContain('attribute that is gone');
    expect(problems?.[1]).toContain('builds on an audience that has an error');
    expect(problems?.[4]).toBeUndefined();
  });
});

describe('changes between what is live and the drafts', () => {
  it('finds nothing where only the order of keys differs', () => {
    const shuffled: Snapshot = JSON.parse(JSON.stringify(snapshot), (_key, value) =>
      value && typeof value === 'object' && !Array.isArray(value)
        ? Object.fromEntries(Object.entries(value).reverse())
        : value,
    );
    expect(changesBetween(snapshot, shuffled)).toEqual([]);
  });

  it('says in words what changed', () => {
    const drafts: Snapshot = JSON.parse(JSON.stringify(snapshot));
    const [home] = drafts.documents;
    const slot = home?.content.body.find((node) => node.kind === 'slot');
    const [first] = slot?.kind === 'slot' ? slot.variants : [];
    if (!home || !first || slot?.kind !== 'slot') throw new Error('the demo changed');
    first.content = [];
    slot.variants.reverse();
    slot.otherwise = [];
    home.content.body.pop();
    const [member] = drafts.audiences;
    if (member) member.condition = all();
    drafts.documents.pop();
    expect(changesBetween(snapshot, drafts)).toMatchObject([
      {
        what: 'page',
        name: 'Home',
        change: 'changed',
        details: [
          'Welcome banner: variant A was D',
          'Welcome banner: variant B was C',
          'Welcome banner: variant C was B',
          'Welcome banner: variant D reads differently',
          'Welcome banner: variant D was A',
          'Welcome banner: everyone else sees something else',
          'Offer card: no longer differs',
          'what everyone sees',
        ],
      },
      { what: 'email', name: 'Comet announcement', change: 'removed' },
      { what: 'audience', change: 'changed', details: ['who is in it'] },
    ]);
  });

  it('calls everything new before the first release', () => {
    const changes = changesBetween(undefined, snapshot);
    expect(new Set(changes.map((change) => change.change))).toEqual(new Set(['new']));
    // Pages and emails, and audiences; attributes are used by these.
    expect(changes).toHaveLength(12 + 14);
  });
});
