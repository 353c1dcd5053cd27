import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoAudiences, demoDocuments, demoSettings, demoSnapshot } from '../../demo/scenario.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { factsOf } from '../attributes/viewer.ts';
import type { Audience } from '../audiences/audience.ts';
import { all, any, type Condition, inAudience, not, test } from '../conditions/condition.ts';
import { compile } from '../conditions/evaluate.ts';
import { type Content, type Document, type DocumentKind, type Node, slotsOf } from '../documents/document.ts';
import { words } from '../documents/text.ts';
import { analyseCondition } from './condition-analysis.ts';
import { analyseDocument } from './document-analysis.ts';

const instant = Date.parse('2026-11-24T12:00:00Z');
const catalogue = new Catalogue(demoSnapshot.attributes, 'UTC');
const audience = (id: string, condition: Condition): Audience => ({
  id,
  name: id,
  description: '',
  condition,
});

const settings = { ...demoSettings, zone: 'UTC' };
const findIn = (condition: Condition, others: readonly Audience[] = []) =>
  analyseCondition(
    { settings, attributes: demoSnapshot.attributes, audiences: [...others] },
    condition,
    null,
    instant,
  ).findings;

describe('findings about a condition', () => {
  it('says which two parts exclude each other, and repairs it as it was meant', () => {
    const condition = all(test('tier', 'is-one-of', 'dusk'), test('tier', 'is-one-of', 'twilight'));
    const [finding] = findIn(condition);
    expect(finding?.kind).toBe('never-true');
    expect(finding?.sentence).toBe(
      'Nobody can ever be in it: “membership tier is Dusk” and “membership tier is Twilight” exclude each other.',
    );
    expect(finding?.repairs[0]?.condition).toEqual(all(test('tier', 'is-one-of', 'dusk', 'twilight')));
    expect(findIn(finding?.repairs[0]?.condition ?? condition)).toEqual([]);
  });

  it.each([
    [
      'whole numbers with nothing between',
      all(test('orders', 'more-than', 2), test('orders', 'fewer-than', 3)),
    ],
    ['an exclusive group', all(test('tags', 'includes-all', 'moon', 'sun'))],
    [
      'somebody signed in without a contact',
      all(test('signed-in', 'is-yes'), not(test('signed-in', 'is-yes'))),
    ],
    [
      'a day before and after',
      all(test('renewal', 'before', '2026-12-01'), test('renewal', 'after', '2026-11-30')),
    ],
    ['a window and its outside', all(test('renewal', 'within-next', 5), test('renewal', 'has-no-value'))],
    ['an empty any', all(any())],
  ])('finds what can never be true: %s', (_name, condition) => {
    expect(findIn(condition).map(({ kind }) => kind)).toContain('never-true');
  });

  it.each([
    ['a tier and its opposite', any(test('tier', 'has-value'), test('tier', 'has-no-value'))],
    [
      'not of a contradiction',
      not(all(test('tier', 'is-one-of', 'dusk'), test('tier', 'is-one-of', 'midnight'))),
    ],
  ])('finds what is always true: %s', (_name, condition) => {
    expect(findIn(condition)[0]?.kind).toBe('always-true');
  });

  it('does not call “is none of” and its gap always true: fractions and missing values count', () => {
    expect(findIn(all(test('last-gift', 'more-than', 2), test('last-gift', 'fewer-than', 3)))).toEqual([]);
    expect(findIn(any(test('visits', 'at-least', 3), test('visits', 'fewer-than', 3)))).toEqual([]);
  });

  it('finds a part that changes nothing, and taking it out removes the finding', () => {
    const condition = all(
      test('tier', 'has-value'),
      test('tier', 'is-one-of', 'dusk'),
      test('visits', 'at-least', 3),
    );
    const [finding] = findIn(condition);
    expect(finding?.kind).toBe('no-effect');
    expect(finding?.sentence).toContain('membership tier has a value');
    expect(findIn(finding?.repairs[0]?.condition ?? condition)).toEqual([]);
  });

  it('finds the same and the wider audience by proof', () => {
    const others = [
      audience('Any tier', test('tier', 'at-least', 'dusk')),
      audience('Midnight', test('tier', 'is-one-of', 'midnight')),
    ];
    expect(findIn(all(test('tier', 'has-value')), others).map(({ kind }) => kind)).toEqual(['same']);
    const [wider, same] = findIn(
      not(any(test('tier', 'at-most', 'twilight'), test('tier', 'has-no-value'))),
      others,
    );
    expect(wider?.sentence).toContain('Always part of “Any tier”');
    expect(same?.sentence).toContain('The same people as “Midnight”');
  });

  it('never takes a part out that matters: the repaired condition decides the same for random people', () => {
    const part = fc.constantFrom<Condition>(
      test('tier', 'at-least', 'dusk'),
      test('tier', 'is-one-of', 'dusk', 'midnight'),
      test('tier', 'has-value'),
      test('visits', 'at-least', 3),
      test('visits', 'more-than', 2),
      test('tags', 'includes-any', 'moon'),
      not(test('tags', 'includes-any', 'sun')),
      test('signed-in', 'is-yes'),
    );
    const group = fc
      .tuple(fc.constantFrom('all' as const, 'any' as const), fc.array(part, { minLength: 1, maxLength: 4 }))
      .map(([kind, of]): Condition => ({ kind, of }));
    const person = fc.record(
      {
        tier: fc.constantFrom('dusk', 'twilight', 'midnight'),
        visits: fc.integer({ min: 0, max: 5 }),
        tags: fc.constantFrom(['moon'], ['sun'], ['family']),
      },
      { requiredKeys: [] },
    );
    fc.assert(
      fc.property(
        fc.tuple(group, group).map(([one, two]) => all(one, two)),
        fc.array(person),
        (condition, people) => {
          for (const { repairs, kind } of findIn(condition))
            for (const repair of kind === 'no-effect' ? repairs : [])
              for (const values of people) {
                const facts = factsOf(catalogue, {
                  contact: values,
                  signedIn: true,
                  visit: { 'visit-device': 'phone' },
                  item: null,
                  instant: 0,
                });
                const holds = (of: Condition) => compile(of, catalogue)(facts);
                expect(holds(repair.condition)).toBe(holds(condition));
              }
        },
      ),
    );
  });
});

describe('findings about a document', () => {
  const heading = (id: string): Node => ({ kind: 'heading', id, level: 2, content: words(id) });
  const slot = (id: string, audiences: string[], otherwise: Node[] = [heading(`${id}-else`)]): Node => ({
    kind: 'slot',
    id,
    name: id,
    variants: audiences.map((of, index) => ({
      id: `${id}${index}`,
      audience: of,
      content: [heading(`${id}-${index}`)],
    })),
    otherwise,
  });
  const findings = (content: Content, kind: DocumentKind, audiences: readonly Audience[] = demoAudiences) => {
    const document: Document = { id: 'd', kind, name: 'd', slug: 'd', content };
    const drafts = { settings, attributes: demoSnapshot.attributes, audiences: [...audiences] };
    return analyseDocument(drafts, document, instant).findings;
  };
  const body = (...nodes: Node[]): Content => ({ subject: [], preview: [], body: nodes });

  it('are none on the demo', () => {
    for (const { content, kind } of demoDocuments) expect(findings(content, kind)).toEqual([]);
  });

  it.each([
    [
      'shadowed',
      body(slot('s', ['any-member', 'dusk-members'])),
      'page',
      'in “Members of any tier” above it',
    ],
    [
      'shadowed',
      body(slot('s', ['dusk-members', 'twilight-members', 'midnight-members', 'any-member'])),
      'page',
      '“Dusk members”, “Twilight members” or “Midnight members” above it',
    ],
    ['needs-sign-in', body(slot('s', ['no-tier'])), 'email', 'nobody is while reading an email'],
    ['gap', body(slot('s', ['dusk-members', 'midnight-members'], [])), 'page', 'gets nothing'],
    [
      'order',
      body(slot('one', ['dusk-members', 'renewing']), slot('two', ['renewing', 'dusk-members'])),
      'page',
      'the other way round',
    ],
  ] as const)('%s', (kind, content, channel, sentence) => {
    const found = findings(content, channel);
    expect(found.map((finding) => finding.kind)).toEqual([kind]);
    expect(found[0]?.sentence).toContain(sentence);
    for (const repair of found[0]?.repairs ?? [])
      expect(findings(repair.content, channel).filter((finding) => finding.kind === kind)).toEqual([]);
  });

  it('names the variants that between them leave nobody for one, and none besides', () => {
    const tier = (...ids: string[]) => test('tier', 'is-one-of', ...ids);
    const audiences = [
      audience('dusk', tier('dusk')),
      audience('regular', test('visits', 'at-least', 3)),
      audience('the others', tier('twilight', 'midnight')),
      audience('any tier', test('tier', 'has-value')),
      audience('staff', test('roles', 'includes-any', 'staff')),
    ];
    const shadowed = (...ids: string[]) =>
      findings(body(slot('s', ids)), 'page', audiences)
        .filter(({ kind }) => kind === 'shadowed')
        .map(({ sentence }) => sentence.replace(/^.*is in /, ''));
    expect(shadowed('dusk', 'regular', 'the others', 'any tier')).toEqual([
      '“dusk” or “the others” above it.',
    ]);
    expect(shadowed('staff', 'any tier', 'dusk')).toEqual(['“any tier” above it.']);
    expect(shadowed('any tier', 'dusk')).toEqual(['“any tier” above it.']);
    expect(shadowed('dusk', 'regular', 'any tier')).toEqual([]);
  });

  it('finds a variant for whom nobody can be, and everyone else for whom nobody is left', () => {
    const audiences = [
      audience('never', all(test('tier', 'is-one-of', 'dusk'), test('tier', 'is-one-of', 'midnight'))),
      audience('signed in', test('signed-in', 'is-yes')),
      audience('not signed in', not(inAudience('signed in'))),
    ];
    const content = body(slot('s', ['never', 'signed in', 'not signed in']));
    const found = findings(content, 'page', audiences);
    expect(found.map((finding) => finding.kind)).toEqual(['never-true', 'everyone-else-unreached']);
    const [first, second] = found;
    expect(slotsOf(first?.repairs[0]?.content ?? content)[0]?.variants).toHaveLength(2);
    expect(
      findings(second?.repairs[0]?.content ?? content, 'page', audiences).map(({ kind }) => kind),
    ).toEqual(['never-true']);
  });
});

it('keeps the demo free of findings about its audiences but for those that build on each other by name', () => {
  const found = demoAudiences.flatMap((own) =>
    findIn(
      own.condition,
      demoAudiences.filter((other) => other.id !== own.id),
    ).map(({ kind }) => kind),
  );
  expect(new Set(found)).toEqual(new Set(['contained']));
  expect(demoSettings.zone).toBe('Europe/London');
});
