import { describe, expect, it } from 'vitest';
import { demoAttributes, demoAudiences, demoSettings } from '../../demo/scenario.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import type { Audience } from '../audiences/audience.ts';
import { all, any, type Condition, inAudience, not, test } from '../conditions/condition.ts';
import { Membership } from '../deciding/membership.ts';
import type { Content, Document, DocumentKind, Node } from '../documents/document.ts';
import { words } from '../documents/text.ts';
import { analyseCondition } from './condition-analysis.ts';
import { conditionFindings } from './condition-findings.ts';
import { analyseDocument } from './document-analysis.ts';
import type { ConditionFinding, DocumentFinding } from './finding.ts';
import { World } from './world.ts';

const instant = Date.parse('2026-11-24T12:00:00Z');
const audience = (id: string, condition: Condition): Audience => ({
  id,
  name: id,
  description: '',
  condition,
});
const audiences: Audience[] = [
  ...demoAudiences,
  audience(
    'two tiers at once',
    all(test('tier', 'is-one-of', 'dusk'), test('tier', 'is-one-of', 'midnight')),
  ),
  audience(
    'summer offer',
    all(test('tier', 'has-value'), test('moment', 'between', '2026-06-01T00:00', '2026-09-01T00:00')),
  ),
  audience('on a phone', test('visit-device', 'is-one-of', 'phone')),
  audience('with a tier or without', any(test('tier', 'has-value'), test('tier', 'has-no-value'))),
  audience('without a tier', not(inAudience('any-member'))),
  audience('at christmas', test('moment', 'between', '2026-12-24T18:00', '2026-12-27T00:00')),
  audience('android', test('visit-system', 'is-one-of', 'android')),
  audience('apple', test('visit-system', 'is-one-of', 'ios', 'macos')),
  audience('midnight', test('tier', 'is-one-of', 'midnight')),
  audience('not midnight', not(inAudience('midnight'))),
  audience('egg', inAudience('hen')),
  audience('hen', all(inAudience('egg'), test('tier', 'has-value'))),
];
const drafts = { settings: demoSettings, attributes: demoAttributes, audiences };

const heading = (id: string): Node => ({ kind: 'heading', id, level: 2, content: words(id) });
const slot = (id: string, of: readonly string[], otherwise: Node[] = [heading(`${id} else`)]): Node => ({
  kind: 'slot',
  id,
  name: id,
  variants: of.map((one, index) => ({
    id: `${id} ${index}`,
    audience: one,
    content: [heading(`${id} ${index}.`)],
  })),
  otherwise,
});
const greeting: Node = {
  kind: 'heading',
  id: 'greeting',
  level: 2,
  content: [
    { type: 'text', text: 'Hello, ' },
    { type: 'mergeField', attrs: { attribute: 'first-name', fallback: '' } },
  ],
};

const showing = (id: string, of: string): Node => slot(id, [of], []);
/** Something between slots, so that they are no neighbours. */
const apart = (id: string): Node => ({ kind: 'divider', id });

/** A page, another whose slots are set to be for the same, and an email, built to contain every kind of finding. */
const page: Content = {
  subject: [],
  preview: [],
  body: [
    greeting,
    slot('Never', ['two tiers at once', 'dusk-members']),
    slot('Over', ['summer offer', 'dusk-members']),
    slot('Shadowed', ['any-member', 'dusk-members']),
    slot('Everybody', ['with a tier or without']),
    slot('Hole', ['dusk-members', 'midnight-members'], []),
    slot('Nobody left', ['any-member', 'without a tier']),
    slot('One order', ['renewing', 'twilight-members']),
    slot('Other order', ['twilight-members', 'renewing']),
    slot('Christmas', ['at christmas', 'dusk-members']),
    showing('Midnight', 'midnight'),
    showing('Others', 'not midnight'),
    apart('between'),
    showing('For Android', 'android'),
    showing('For Apple', 'apple'),
    slot('Circle', ['egg', 'dusk-members']),
    {
      kind: 'slot',
      id: 'Outer',
      name: 'Outer',
      variants: [
        {
          id: 'Outer 0',
          audience: 'dusk-members',
          content: [slot('Inner', ['midnight-members', 'renewing'])],
        },
      ],
      otherwise: [heading('Outer else')],
    },
  ],
};
const alike: Content = {
  subject: [],
  preview: [],
  body: [
    slot('As set', ['midnight-members', 'dusk-members']),
    slot('Lacking one', ['midnight-members']),
    slot('One too many', ['midnight-members', 'dusk-members', 'twilight-members']),
    slot('Turned round', ['dusk-members', 'midnight-members']),
    slot('One lacking and one too many', ['dusk-members', 'twilight-members']),
  ],
  audiences: ['midnight-members', 'dusk-members'],
};
const email: Content = {
  subject: [{ kind: 'line', id: 'subject', content: words('Hello') }],
  preview: [],
  body: [slot('By device', ['on a phone', 'dusk-members']), slot('Signed in', ['no-tier', 'dusk-members'])],
};

function findingsIn(content: Content, kind: DocumentKind): readonly DocumentFinding[] {
  const document: Document = { id: 'd', kind, name: 'd', slug: 'd', content };
  const { findings, refused } = analyseDocument(drafts, document, instant);
  expect(refused).toBeUndefined();
  return findings;
}

/** Takes the first repair of the first finding until there is nothing left to repair. */
function repaired(content: Content, kind: DocumentKind): string[] {
  const kinds: string[] = [];
  let now = content;
  for (let step = 0; step < 30; step++) {
    const findings = findingsIn(now, kind);
    const [first] = findings.filter(({ kind: found }) => found !== 'coming');
    if (!first) return kinds;
    const [repair] = first.repairs;
    if (!repair) throw new Error(`${first.kind} has no repair`);
    kinds.push(first.kind);
    now = repair.content;
    // The repair removes this finding and brings none of another kind.
    const after = findingsIn(now, kind);
    expect(after.length).toBe(findings.length - 1);
    expect(after.map(({ sentence }) => sentence)).not.toContain(first.sentence);
  }
  throw new Error('repairing does not end');
}

describe('documents built to contain every kind of finding', () => {
  it('show them all, each removed by its repair', () => {
    const alikeKinds = repaired(alike, 'page');
    expect(alikeKinds).toEqual(['deviates', 'deviates', 'deviates', 'deviates']);
    const kinds = [...repaired(page, 'page'), ...new Set(alikeKinds), ...repaired(email, 'email')];
    const every: Record<DocumentFinding['kind'], true> = {
      'never-true': true,
      over: true,
      'needs-sign-in': true,
      'needs-visit': true,
      shadowed: true,
      'always-true': true,
      gap: true,
      'everyone-else-unreached': true,
      order: true,
      deviates: true,
      'no-fallback': true,
      'not-here': true,
      circle: true,
      'one-slot': true,
      'gap-between': true,
      // Nothing is wrong with what comes later, and what was not proved has nothing to repair.
      coming: true,
      'not-proved': true,
    };
    expect([...new Set(kinds), 'coming', 'not-proved'].sort()).toEqual(Object.keys(every).sort());
  });

  it('say in words what is so, and who is meant', () => {
    const said = new Map(
      [...findingsIn(page, 'page'), ...findingsIn(email, 'email')].map((finding) => [finding.kind, finding]),
    );
    expect(said.get('never-true')?.sentence).toContain(
      'can never be true: “membership tier is Dusk” and “membership tier is Midnight” exclude each other.',
    );
    expect(said.get('over')?.sentence).toContain('“summer offer” ended on 1 September 2026');
    expect(said.get('needs-visit')?.sentence).toContain(
      'asks for device, which nobody knows while an email is read',
    );
    expect(said.get('no-fallback')?.people).toEqual(test('first-name', 'has-no-value'));
    expect(said.get('gap')?.people).toEqual(
      not(any(inAudience('dusk-members'), inAudience('midnight-members'))),
    );
  });
});

describe('conditions built to contain every kind of finding', () => {
  const findingsOf = (condition: Condition): readonly ConditionFinding[] =>
    analyseCondition(drafts, condition, null, instant).findings;
  it.each<[ConditionFinding['kind'], Condition]>([
    ['never-true', all(test('tier', 'is-one-of', 'dusk'), test('tier', 'is-one-of', 'midnight'))],
    ['always-true', any(test('tier', 'has-value'), test('tier', 'has-no-value'))],
    [
      'no-effect',
      all(test('tier', 'has-value'), test('tier', 'is-one-of', 'dusk'), test('visits', 'at-least', 3)),
    ],
    ['empty-group', all(test('visits', 'at-least', 3), any())],
    ['over', all(test('visits', 'at-least', 3), test('moment', 'before', '2026-09-01T00:00'))],
  ])('%s is removed by its repair', (kind, condition) => {
    const finding = findingsOf(condition).find((one) => one.kind === kind);
    const [repair] = finding?.repairs ?? [];
    if (!finding || !repair) throw new Error(`no ${kind} with a repair`);
    expect(findingsOf(repair.condition).map(({ sentence }) => sentence)).not.toContain(finding.sentence);
    expect(findingsOf(repair.condition).map((one) => one.kind)).not.toContain(kind);
  });

  it.each<[ConditionFinding['kind'], Condition]>([
    ['same', test('tier', 'has-value')],
    ['contained', all(test('tier', 'is-one-of', 'dusk'), test('visits', 'at-least', 3))],
    ['needs-visit', all(inAudience('on a phone'), test('visits', 'at-least', 3))],
    ['empty-group', all()],
  ])('%s is said', (kind, condition) => {
    expect(findingsOf(condition).map((one) => one.kind)).toContain(kind);
  });

  it('does not say of an audience that it is part of another where its condition asks for just that', () => {
    const sentence = 'Always part of “on a phone”.';
    const asked = all(inAudience('on a phone'), test('visits', 'at-least', 3));
    expect(findingsOf(asked).map((one) => one.sentence)).not.toContain(sentence);
    const within = all(any(inAudience('on a phone')), test('visits', 'at-least', 3));
    expect(findingsOf(within).map((one) => one.sentence)).toContain(sentence);
  });
});

describe('more parts than anybody reads', () => {
  it.each<[string, Condition]>([
    ['5,000 numbers', any(...Array.from({ length: 4990 }, (_, number) => test('visits', 'equals', number)))],
    [
      '500 cities, none of them',
      all(...Array.from({ length: 500 }, (_, number) => not(test('city', 'is-one-of', `Town ${number}`)))),
    ],
    [
      'a thousand that exclude each other',
      all(...Array.from({ length: 1000 }, (_, number) => test('orders', 'equals', number))),
    ],
  ])('%s are answered or refused, and never hang', (_name, condition) => {
    const { findings, refused } = analyseCondition(drafts, condition, null, instant, { time: 60_000 });
    expect(findings.length > 0 || refused !== undefined || condition.kind !== 'all').toBe(true);
  });
});

describe('what is given', () => {
  it('makes a part say nothing that the page’s access asks already', () => {
    const catalogue = new Catalogue(demoAttributes, 'UTC');
    const condition = all(test('tier', 'has-value'), test('visits', 'at-least', 3));
    const found = (given: Condition[]) => {
      const membership = new Membership(catalogue, []);
      const worldOf = (conditions: readonly Condition[]) =>
        new World({
          catalogue,
          membership,
          audiences: [],
          used: [],
          channel: 'page',
          instant,
          conditions,
          given,
        });
      const world = worldOf([condition]);
      const context = { others: [], names: { catalogue, audience: () => undefined }, worldOf };
      return conditionFindings(condition, world, context).findings;
    };
    expect(found([])).toEqual([]);
    // Only members get to this page, so that asking for a tier again changes nothing there.
    const [finding] = found([test('tier', 'at-least', 'dusk')]);
    expect(finding?.kind).toBe('no-effect');
    expect(finding?.repairs[0]?.condition).toEqual(all(test('visits', 'at-least', 3)));
  });
});
