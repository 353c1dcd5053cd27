import { describe, expect, it } from 'vitest';
import { demoAttributes, demoSettings } from '../../demo/scenario.ts';
import type { Audience } from '../audiences/audience.ts';
import { all, any, type Condition, inAudience, not, test } from '../conditions/condition.ts';
import type { Access, Content, Document, DocumentKind, Node } from '../documents/document.ts';
import { words } from '../documents/text.ts';
import { analyseCondition } from './condition-analysis.ts';
import { analyseDocument } from './document-analysis.ts';

const instant = Date.parse('2026-11-24T12:00:00Z');
const audience = (id: string, condition: Condition): Audience => ({
  id,
  name: id,
  description: '',
  condition,
});
const tier = (...ids: string[]) => test('tier', 'is-one-of', ...ids);
const audiences = [
  audience('dusk', tier('dusk')),
  audience('midnight', tier('midnight')),
  audience('not midnight', not(inAudience('midnight'))),
  audience('members', test('tier', 'has-value')),
  audience('regulars', test('visits', 'at-least', 3)),
  audience('android', test('visit-system', 'is-one-of', 'android')),
  audience('apple', test('visit-system', 'is-one-of', 'ios', 'macos')),
  audience('christmas', test('moment', 'between', '2026-12-01T09:00', '2026-12-27T00:00')),
  audience('named', test('first-name', 'has-value')),
];
const heading = (id: string, text = id): Node => ({ kind: 'heading', id, level: 2, content: words(text) });
const greeting = (id: string): Node => ({
  kind: 'heading',
  id,
  level: 2,
  content: [{ type: 'mergeField', attrs: { attribute: 'first-name', fallback: '' } }],
});
/** A slot of variants by audience, each with a heading or what is given. */
function slot(
  id: string,
  variants: { [of: string]: Node[] },
  otherwise: Node[] = [heading(`${id} else`)],
): Node {
  return {
    kind: 'slot',
    id,
    name: id,
    variants: Object.entries(variants).map(([of, content]) => ({
      id: `${id} ${of}`,
      audience: of,
      content: content.length > 0 ? content : [heading(`${id} for ${of}`)],
    })),
    otherwise,
  };
}
const body = (...nodes: Node[]): Content => ({ subject: [], preview: [], body: nodes });

function analyse(
  content: Content,
  { access, kind = 'page', own = audiences }: { access?: Access; kind?: DocumentKind; own?: Audience[] } = {},
) {
  const document: Document = { id: 'd', kind, name: 'd', slug: 'd', content, access: access ?? null };
  const analysis = analyseDocument(
    { settings: demoSettings, attributes: demoAttributes, audiences: own },
    document,
    instant,
  );
  expect(analysis.refused).toBeUndefined();
  return analysis;
}
const onlyMembers: Access = { audience: 'members', otherwise: 'not-found' };

describe('a slot inside a variant', () => {
  it('is judged among those who get the variant', () => {
    // Of members in the variant for Dusk everybody is in Dusk: B is never reached there, though it would be elsewhere.
    const inner = slot('inner', { members: [], regulars: [] });
    expect(analyse(body(inner)).findings).toEqual([]);
    const { findings } = analyse(body(slot('outer', { dusk: [inner] })));
    expect(findings.map(({ kind, slot: of, variant }) => [kind, of, variant])).toEqual([
      ['shadowed', 'inner', 'inner regulars'],
      ['always-true', 'inner', 'inner members'],
    ]);
    expect(findings[0]?.sentence).toBe(
      'inner: nobody gets variant B, since everybody here who is in “regulars” is in “members” above it.',
    );
  });

  it('for an audience that is shut out there is said to be so, and not to be impossible', () => {
    const { findings } = analyse(
      body(slot('outer', { dusk: [slot('inner', { midnight: [], regulars: [] })] })),
    );
    expect(findings.map(({ kind }) => kind)).toEqual(['not-here']);
    expect(findings[0]?.sentence).toBe(
      'inner: nobody gets variant A, since “midnight” excludes everybody who can come here: it stands in the variant of outer for “dusk”.',
    );
  });

  it('has an order of its own: who never comes to both slots sees no difference', () => {
    const one = slot('one', { regulars: [], named: [] });
    const two = slot('two', { named: [], regulars: [] });
    const apart = body(slot('outer', { dusk: [one], midnight: [two] }));
    expect(analyse(apart).findings).toEqual([]);
    expect(analyse(body(one, heading('between'), two)).findings.map(({ kind }) => kind)).toEqual(['order']);
  });

  it('and on a page that some may open, counts those who can meet what is wrong', () => {
    const { findings } = analyse(
      body(slot('outer', { dusk: [greeting('hello'), slot('inner', { regulars: [], named: [] }, [])] })),
      { access: onlyMembers },
    );
    const here = [inAudience('members'), inAudience('dusk')];
    expect(findings.map(({ kind, people }) => [kind, people])).toEqual([
      ['gap', all(...here, not(any(inAudience('regulars'), inAudience('named'))))],
      ['no-fallback', all(...here, test('first-name', 'has-no-value'))],
    ]);
  });

  it('has no hole where everybody who comes to it has a value', () => {
    expect(analyse(body(slot('outer', { named: [greeting('hello')] }))).findings).toEqual([]);
  });
});

describe('a page that some may open', () => {
  it('says which part its access asks for already', () => {
    const { findings } = analyse(body(slot('s', { members: [] })), { access: onlyMembers });
    expect(findings[0]?.sentence).toContain('“members” is always true here');
    const { findings: shut } = analyse(body(slot('s', { dusk: [] })), {
      access: { audience: 'midnight', otherwise: 'not-found' },
    });
    expect(shut[0]?.sentence).toBe(
      's: nobody gets variant A, since “dusk” excludes everybody who can come here: the page is open to “midnight” only.',
    );
  });
});

describe('slots next to each other', () => {
  const show = (id: string, of: string): Node => slot(id, { [of]: [] }, []);

  it('of which everybody sees exactly one are one slot, and every face stays', () => {
    const content = body(
      heading('top'),
      show('for midnight', 'midnight'),
      show('for others', 'not midnight'),
    );
    const { findings, faces } = analyse(content);
    expect(findings.map(({ kind }) => kind)).toEqual(['one-slot']);
    expect(findings[0]?.sentence).toBe(
      'Everybody sees either for midnight (“midnight”) or for others (“not midnight”): these two are one slot.',
    );
    const [repair] = findings[0]?.repairs ?? [];
    expect(repair?.changes).toBeNull();
    expect(repair?.content.body.map(({ id }) => id)).toEqual(['top', 'for midnight']);
    const after = analyse(repair?.content ?? content);
    expect([after.findings, after.faces.length]).toEqual([[], faces.length]);
  });

  it('that never show together leave some with none, who are named by what they have', () => {
    const { findings } = analyse(body(show('for Android', 'android'), show('for Apple', 'apple')));
    expect(findings.map(({ kind }) => kind)).toEqual(['gap-between']);
    expect(findings[0]?.sentence).toBe(
      'Whoever is in none of “android” or “apple” sees none of for Android and for Apple (operating system is ChromeOS, Linux, Windows or another system, or has no value).',
    );
    const [repair] = findings[0]?.repairs ?? [];
    expect(analyse(repair?.content ?? body()).findings).toEqual([]);
    expect(repair?.changes).toEqual(not(any(inAudience('android'), inAudience('apple'))));
  });

  it('are told apart into groups, wherever in a row each begins, and each can be mended', () => {
    const pair = [show('for midnight', 'midnight'), show('for others', 'not midnight')];
    const buttons = [show('for Android', 'android'), show('for Apple', 'apple')];
    for (const nodes of [
      [...pair, ...buttons],
      [...buttons, ...pair],
      [show('for dusk', 'dusk'), ...buttons, ...pair],
    ]) {
      const { findings } = analyse(body(...nodes));
      const kinds = findings.map(({ kind, repairs }) => [kind, repairs.length]);
      expect(kinds.sort()).toEqual([
        ['gap-between', 1],
        ['one-slot', 1],
      ]);
      const gap = findings.find(({ kind }) => kind === 'gap-between');
      expect(gap?.sentence).toContain('sees none of for Android and for Apple (');
    }
  });

  it.each<[string, Node[]]>([
    ['with something between them', [show('a', 'android'), heading('between'), show('b', 'apple')]],
    ['about different things', [show('a', 'android'), show('b', 'midnight')]],
    ['that can show together', [show('a', 'members'), show('b', 'dusk')]],
    ['the last of which shows the rest', [show('a', 'midnight'), show('b', 'not midnight'), heading('end')]],
  ])('%s leave nobody out that anybody would have thought of', (_name, nodes) => {
    expect(analyse(body(...nodes)).findings.map(({ kind }) => kind)).not.toContain('gap-between');
  });
});

describe('people who match two variants', () => {
  it('are known for each two of a slot, those of variants above left out', () => {
    const { overlaps } = analyse(body(slot('s', { midnight: [], regulars: [], members: [], dusk: [] })));
    expect(overlaps?.map(({ first, second }) => [first, second])).toEqual([
      [0, 1],
      [0, 2],
      [1, 2],
      [1, 3],
      [2, 3],
    ]);
    expect(overlaps?.[3]?.people).toEqual(
      all(inAudience('regulars'), inAudience('dusk'), not(inAudience('midnight'))),
    );
  });

  it('are none where audiences exclude each other', () => {
    expect(analyse(body(slot('s', { midnight: [], dusk: [] }))).overlaps).toEqual([]);
  });
});

describe('a gap', () => {
  it('says in words of attributes who falls into it', () => {
    const { findings } = analyse(body(slot('s', { dusk: [], midnight: [] }, [])));
    expect(findings[0]?.sentence).toBe(
      's: whoever is in none of “dusk” or “midnight” gets nothing (membership tier is Twilight, or has no value).',
    );
  });
});

describe('a window', () => {
  it('that opens later is said on its slot, as one that is over is', () => {
    const { findings } = analyse(body(slot('s', { christmas: [], dusk: [] })));
    expect(findings.map(({ kind, sentence }) => [kind, sentence])).toEqual([
      ['coming', 's: variant A starts on 1 December 2026 at 09:00.'],
    ]);
    const later = Date.parse('2027-01-02T12:00:00Z');
    const document: Document = {
      id: 'd',
      kind: 'page',
      name: 'd',
      slug: 'd',
      content: body(slot('s', { christmas: [], dusk: [] })),
    };
    const over = analyseDocument(
      { settings: demoSettings, attributes: demoAttributes, audiences },
      document,
      later,
    );
    expect(over.findings.map(({ kind, sentence }) => [kind, sentence])).toEqual([
      ['over', 's: variant A is over. “christmas” ended on 27 December 2026 at 00:00.'],
    ]);
  });
});

describe('what contradicts is named by the smallest set of parts', () => {
  const outcome = (op: string, ...ids: string[]) => test('tags', op, ...ids);
  const findings = (condition: Condition, own: Audience[] = audiences) =>
    analyseCondition(
      { settings: demoSettings, attributes: demoAttributes, audiences: own },
      condition,
      null,
      instant,
    ).findings;

  it('of three, none of which excludes another', () => {
    const condition = all(
      test('visits', 'at-least', 3),
      test('city', 'has-value'),
      any(tier('dusk'), test('orders', 'at-least', 2)),
      not(tier('dusk')),
      test('orders', 'fewer-than', 2),
    );
    const [found] = findings(condition);
    expect(found?.sentence).toBe(
      'Nobody can ever be in it: “membership tier is Dusk or orders is at least 2”, “not (membership tier is Dusk)” and “orders is less than 2” can’t all be true.',
    );
    // Any of the three may go.
    expect(found?.repairs.map(({ label }) => label)).toEqual([
      'Remove “orders is less than 2”',
      'Remove “not (membership tier is Dusk)”',
      'Remove “membership tier is Dusk or orders is at least 2”',
    ]);
    for (const { condition: repaired, joins, leaves } of found?.repairs ?? []) {
      expect(findings(repaired).map(({ kind }) => kind)).not.toContain('never-true');
      expect([joins === null, leaves]).toEqual([false, null]);
    }
  });

  it('within one test, with the exclusive group that keeps them apart', () => {
    const [found] = findings(all(outcome('includes-all', 'moon', 'sun'), test('visits', 'at-least', 3)));
    expect(found?.sentence).toMatch(
      /^Nobody can ever be in it: “tags include Moon and Sun” can never be true: of “.+” nobody has more than one of Moon or Sun\.$/,
    );
    expect(found?.repairs.length).toBeGreaterThan(0);
  });

  it('of two tests, with the exclusive group', () => {
    const [found] = findings(all(outcome('includes-any', 'moon'), outcome('includes-any', 'sun')));
    expect(found?.sentence).toContain('exclude each other: of “');
  });

  it('through audiences that are named, and through audiences that these name', () => {
    const own = [
      ...audiences,
      audience('inner', all(tier('dusk'), test('visits', 'at-least', 2))),
      audience('outer', all(inAudience('inner'), test('city', 'has-value'))),
    ];
    const [found] = findings(all(inAudience('outer'), test('orders', 'has-value'), tier('midnight')), own);
    expect(found?.sentence).toBe(
      'Nobody can ever be in it: “membership tier is Dusk” (asked by “inner”) and “membership tier is Midnight” exclude each other.',
    );
    expect(found?.repairs.map(({ label }) => label)).toEqual([
      'Remove “membership tier is Midnight”',
      'Remove “outer”',
    ]);
  });

  it('on a slot, and a circle of audiences is called one', () => {
    const own = [
      ...audiences,
      audience('impossible', all(tier('dusk'), tier('midnight'))),
      audience('hen', all(inAudience('egg'), tier('dusk'))),
      audience('egg', inAudience('hen')),
      audience('chick', inAudience('egg')),
    ];
    const { findings: found } = analyse(
      body(slot('s', { impossible: [], dusk: [] }), slot('t', { chick: [], dusk: [] })),
      { own },
    );
    expect(found.map(({ kind, sentence }) => [kind, sentence])).toEqual([
      [
        'never-true',
        's: nobody can ever get variant A, since “impossible” can never be true: “membership tier is Dusk” and “membership tier is Midnight” exclude each other.',
      ],
      [
        'circle',
        't: nobody gets variant A, since “chick” builds on a circle: “egg” builds on “hen”, which builds on “egg”.',
      ],
    ]);
  });
});
