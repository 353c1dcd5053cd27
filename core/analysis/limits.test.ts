import { describe, expect, it } from 'vitest';
import { attributes, instant, randomAudiences, randomPage } from '../../bench/crowd.ts';
import { Random } from '../../demo/random.ts';
import { demoSettings } from '../../demo/scenario.ts';
import type { Attribute } from '../attributes/attribute.ts';
import type { Audience } from '../audiences/audience.ts';
import { all, any, type Condition, inAudience, not, test } from '../conditions/condition.ts';
import type { Content, Document } from '../documents/document.ts';
import { analyseCondition } from './condition-analysis.ts';
import { analyseDocument } from './document-analysis.ts';

const contact = { source: 'contact', description: '' } as const;
const members = Array.from({ length: 200 }, (_, index) => `m${index}`);
const own: Attribute[] = [
  ...attributes,
  {
    ...contact,
    id: 'many',
    label: 'many',
    type: 'set',
    choices: members.map((id) => ({ id, label: id })),
    exclusiveGroups: [{ name: 'the first three', members: members.slice(0, 3) }],
  },
  { ...contact, id: 'ratio', label: 'ratio', type: 'number' },
  { ...contact, id: 'units', label: 'units', type: 'number', whole: true },
];
const settings = { ...demoSettings, zone: 'UTC' };
/** More than the studio gives, since a test may share its processor; what is proved takes a small part of it. */
const plenty = { time: 60_000 };
/** For what is meant to end before it is done. */
const limit = { time: 2000 };
const audience = (id: string, condition: Condition): Audience => ({
  id,
  name: id,
  description: '',
  condition,
});
const document = (content: Content): Document => ({ id: 'd', kind: 'page', name: 'd', slug: 'd', content });

const findings = (condition: Condition, audiences: readonly Audience[] = [], time = plenty) =>
  analyseCondition({ settings, attributes: own, audiences: [...audiences] }, condition, null, instant, time);

describe('a condition', () => {
  const numbered = (count: number, make: (index: number) => Condition) =>
    Array.from({ length: count }, (_, index) => make(index));
  it.each<[string, Condition, string[]]>([
    ['two hundred members of a set, any of them', test('many', 'includes-any', ...members), []],
    [
      'two hundred members at once, three of which exclude each other',
      all(...members.map((id) => test('many', 'includes-any', id))),
      ['never-true'],
    ],
    [
      'a hundred and ninety-eight members at once',
      all(...members.slice(2).map((id) => test('many', 'includes-any', id))),
      [],
    ],
    [
      'two hundred and fifty thresholds',
      any(
        ...numbered(250, (at) => all(test('ratio', 'more-than', at), test('ratio', 'fewer-than', at + 0.5))),
      ),
      [],
    ],
    [
      'one gap among two hundred and fifty whole numbers',
      any(
        test('units', 'has-no-value'),
        test('units', 'fewer-than', 0),
        test('units', 'more-than', 249),
        ...numbered(250, (at) => test('units', 'equals', at)),
      ),
      ['always-true'],
    ],
    [
      'five thousand texts',
      any(
        ...numbered(5, (of) =>
          test('city', 'is-one-of', ...Array.from({ length: 1000 }, (_, at) => `${of} ${at}`)),
        ),
      ),
      [],
    ],
    [
      'two hundred and sixty texts, one by one',
      any(...numbered(260, (at) => test('city', 'is-one-of', `Town ${at}`))),
      [],
    ],
    [
      'ten words that a text contains, none of which lies in another',
      any(
        ...['alpha', 'bravo', 'charlie', 'delta', 'echo', 'foxtrot', 'golf', 'hotel', 'india', 'juliett'].map(
          (word) => test('city', 'contains', word),
        ),
      ),
      [],
    ],
    [
      'a word within another of ten',
      all(
        ...['alpha', 'bravo', 'charlie', 'delta', 'echo', 'foxtrot', 'golf', 'hotel', 'india', 'otel'].map(
          (word) => test('city', 'contains', word),
        ),
      ),
      ['no-effect'],
    ],
    [
      'four hundred groups of four',
      any(
        ...numbered(400, (at) =>
          all(
            test('tier', 'is-one-of', `tier${at % 4}`),
            test('city', 'is-one-of', `Town ${at}`),
            test('visits', 'at-least', at % 30),
            test('plan', 'is-one-of', `plan${at % 3}`),
          ),
        ),
      ),
      [],
    ],
  ])('of %s is proved', (_name, condition, kinds) => {
    const { findings: found, refused } = findings(condition);
    expect(refused).toBeUndefined();
    expect(found.map(({ kind }) => kind)).toEqual(kinds);
  });

  it.each<[string, (parts: Condition[]) => Condition]>([
    ['any', (parts) => any(...parts)],
    ['all', (parts) => all(...parts)],
  ])('of four hundred unrelated groups of four, %s of them, says what was not proved', (kind, join) => {
    const tests = randomAudiences(200, 5).flatMap(({ condition }) =>
      condition.kind === 'all' || condition.kind === 'any'
        ? condition.of.filter((part) => part.kind === 'test')
        : [],
    );
    const random = new Random(4);
    const next = () => tests[random.between(0, tests.length - 1)] ?? all();
    const parts = Array.from({ length: 400 }, () =>
      (kind === 'any' ? all : any)(next(), next(), next(), next()),
    );
    const { findings: found } = findings(join(parts), [], limit);
    expect(found.map((one) => one.kind)).not.toContain('never-true');
    expect(found.map((one) => one.kind)).not.toContain('always-true');
  });

  it('that names an audience twice at each of thirty levels is proved', () => {
    const chain = [audience('c0', all(test('units', 'at-least', 3), test('vip', 'is-yes')))];
    for (let level = 1; level <= 30; level++) {
      const before = inAudience(`c${level - 1}`);
      chain.push(
        audience(
          `c${level}`,
          any(all(before, test('ratio', 'more-than', level)), all(not(before), not(before))),
        ),
      );
    }
    const { refused } = findings(inAudience('c30'), chain);
    expect(refused).toBeUndefined();
  });
});

describe('a document', () => {
  it('whose slot has a variant for each of twelve values of a set shows who gets which', () => {
    const audiences = members.slice(5, 17).map((id) => audience(id, test('many', 'includes-any', id)));
    const content: Content = {
      subject: [],
      preview: [],
      body: [
        {
          kind: 'slot',
          id: 's',
          name: 's',
          variants: audiences.map(({ id }) => ({ id: `v ${id}`, audience: id, content: [] })),
          otherwise: [],
        },
      ],
    };
    const { faces, complete } = analyseDocument(
      { settings, attributes: own, audiences },
      document(content),
      instant,
    );
    expect([faces.length, complete]).toEqual([13, true]);
    expect(faces.every(({ description }) => description !== undefined)).toBe(true);
  });

  it.each([
    [30, 40],
    [60, 80],
    [100, 80],
  ])('of %i slots over %i unrelated audiences says what it found and that there is more', (slots, count) => {
    const audiences = randomAudiences(count);
    const content = randomPage(slots, count);
    const analysis = analyseDocument({ settings, attributes, audiences }, document(content), instant, {
      time: 10_000,
    });
    expect(analysis.refused).toBeUndefined();
    expect(analysis.complete).toBe(false);
    expect(analysis.faces.length).toBeGreaterThan(100);
    expect(analysis.faces.slice(0, 100).every(({ description }) => description !== undefined)).toBe(true);
    // Whatever was not proved is said of its slot.
    expect(analysis.findings.every(({ sentence }) => sentence !== '')).toBe(true);
  });
});
