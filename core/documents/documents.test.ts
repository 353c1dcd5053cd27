import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Catalogue } from '../attributes/catalogue.ts';
import type { Condition } from '../conditions/condition.ts';
import { safeAddress } from './address.ts';
import { newBlock } from './blocks/blocks.ts';
import {
  ancestorsOf,
  type Content,
  contentSchema,
  findNode,
  firstWords,
  type Node,
  slotsOf,
  walkContent,
} from './document.ts';
import * as edit from './edit.ts';
import { withShared } from './shared.ts';
import { words } from './text.ts';
import { audiencesOf, listConditions, mergedAttributes } from './uses.ts';
import { fieldsWithoutFallback, placesLinkedTo, unreleasable, unsavable } from './validate.ts';

const text = (id: string, said: string): Node => ({
  kind: 'text',
  id,
  content: [{ type: 'paragraph', content: words(said) }],
});
const content: Content = {
  subject: [],
  preview: [],
  body: [
    text('intro', 'Hello'),
    {
      kind: 'slot',
      id: 'slot',
      name: 'Offer',
      variants: [
        { id: 'v1', audience: 'members', content: [text('m', 'For members')] },
        {
          id: 'v2',
          audience: 'staff',
          content: [
            {
              kind: 'section',
              id: 's',
              name: '',
              tone: 'plain',
              layout: 'stack',
              children: [text('inner', 'Staff')],
            },
          ],
        },
      ],
      otherwise: [text('else', 'For all')],
    },
    { kind: 'button', id: 'b', label: words('Go'), address: '/site/' },
  ],
};
let made = 0;
const newId = () => `new${++made}`;
const ids = (of: Content) => [...walkContent(of)].map(({ node }) => node.id);

describe('reading a document', () => {
  it('walks in reading order, through every variant', () => {
    expect(ids(content)).toEqual(['intro', 'slot', 'm', 's', 'inner', 'else', 'b']);
    expect(slotsOf(content).map((slot) => slot.id)).toEqual(['slot']);
    expect([...audiencesOf(content)]).toEqual(['members', 'staff']);
    expect(ancestorsOf(content, 'inner').map((node) => node.id)).toEqual(['slot', 's']);
    expect(ancestorsOf(content, 'nowhere')).toEqual([]);
  });

  it('finds the first words, before a picture’s', () => {
    const picture: Node = { kind: 'picture', id: 'p', picture: 'moon', alt: 'The Moon' };
    const say = ({ fallback }: { fallback: string }) => fallback;
    expect(firstWords([picture, text('t', 'Words')], say)).toBe('Words');
    expect(firstWords([text('t', '  Words  ')], say)).toBe('Words');
    expect(firstWords([text('t', '   '), text('u', 'Others')], say)).toBe('Others');
    const heading = (words: string): Node => ({
      kind: 'heading',
      id: 'h',
      level: 2,
      content: [{ type: 'text', text: words }],
    });
    expect(firstWords([heading(' Moon '), text('t', 'Words')], say)).toBe('Moon');
    expect(firstWords([heading('  '), text('t', 'Words')], say)).toBe('Words');
    expect(firstWords([picture], say)).toBe('The Moon');
    expect(firstWords([], say)).toBe('');
  });

  it('refuses two parts with one id', () => {
    expect(contentSchema.safeParse({ ...content, body: [text('x', 'a'), text('x', 'b')] }).success).toBe(
      false,
    );
  });
});

describe('editing', () => {
  it('shares what did not change, and gives the same content back when nothing did', () => {
    expect(edit.removeNode(content, 'nowhere')).toBe(content);
    const changed = edit.updateNode(content, 'inner', () => text('inner', 'Changed'));
    expect(changed).not.toBe(content);
    expect(changed.body[0]).toBe(content.body[0]);
    expect(changed.body[2]).toBe(content.body[2]);
    expect(ids(content)).toContain('inner');
  });

  it('puts a slot around a block as a copy for the audience, and takes it away again', () => {
    const wrapped = edit.wrapInSlot(content, 'intro', 'Intro', 'members', newId);
    const [slot] = slotsOf(wrapped);
    expect(slot?.variants[0]?.audience).toBe('members');
    expect(slot?.otherwise.map((node) => node.id)).toEqual(['intro']);
    expect(slot?.variants[0]?.content[0]?.id).not.toBe('intro');
    expect(edit.dissolveSlot(wrapped, slot?.id ?? '', null)).toEqual(content);
    expect(edit.wrapInSlot(content, 'slot', 'Again', 'staff', newId)).toEqual(content);
  });

  it('adds, moves and removes variants without disturbing the others', () => {
    const added = edit.addVariant(content, 'slot', 'everybody', 'v1', newId);
    const audiences = (of: Content) => slotsOf(of)[0]?.variants.map((variant) => variant.audience);
    expect(audiences(added)).toEqual(['members', 'staff', 'everybody']);
    const third = slotsOf(added)[0]?.variants[2]?.id ?? '';
    const moved = edit.moveVariant(added, 'slot', third, 0);
    expect(audiences(moved)).toEqual(['everybody', 'members', 'staff']);
    expect(audiences(edit.moveVariant(moved, 'slot', third, 99))).toEqual(['members', 'staff', 'everybody']);
    expect(audiences(edit.removeVariant(moved, 'slot', third))).toEqual(['members', 'staff']);
    expect(audiences(edit.setVariantAudience(content, 'slot', 'v2', 'guides'))).toEqual([
      'members',
      'guides',
    ]);
  });

  it('inserts after a block, into a section, a variant, everyone else, or at the end', () => {
    const at = (target: edit.Target) => ids(edit.insertNode(content, target, text('x', 'New')));
    expect(at({ after: 'intro' }).indexOf('x')).toBe(1);
    expect(at({ section: 's' })).toEqual(['intro', 'slot', 'm', 's', 'inner', 'x', 'else', 'b']);
    expect(at({ slot: 'slot', variant: 'v1' })).toEqual([
      'intro',
      'slot',
      'm',
      'x',
      's',
      'inner',
      'else',
      'b',
    ]);
    expect(at({ slot: 'slot', variant: null })).toEqual([
      'intro',
      'slot',
      'm',
      's',
      'inner',
      'else',
      'x',
      'b',
    ]);
    expect(at({ region: 'body' }).at(-1)).toBe('x');
  });

  it('moves a block among its neighbours and stops at the ends', () => {
    expect(edit.moveNode(content, 'b', -1).body.map((node) => node.id)).toEqual(['intro', 'b', 'slot']);
    expect(edit.moveNode(content, 'intro', -1)).toEqual(content);
    expect(edit.moveNode(content, 'inner', 1)).toEqual(content);
  });

  it('copies with new ids throughout, and the copy is a sound document', () => {
    const slot = findNode(content, 'slot');
    if (!slot) throw new Error('no slot');
    const copy = edit.copyNode(slot, newId);
    const both = { ...content, body: [...content.body, copy] };
    expect(contentSchema.safeParse(both).success).toBe(true);
  });

  it('keeps documents sound through any series of edits', () => {
    const step = fc.constantFrom<(of: Content, id: string) => Content>(
      (of, id) => edit.wrapInSlot(of, id, 'Slot', 'members', newId),
      (of, id) => edit.moveNode(of, id, 1),
      (of, id) => edit.moveNode(of, id, -1),
      (of, id) => edit.removeNode(of, id),
      (of, id) => edit.dissolveSlot(of, id, null),
      (of, id) => edit.addVariant(of, id, 'staff', null, newId),
      (of, id) => edit.insertNode(of, { after: id }, newBlock('section', newId)),
    );
    fc.assert(
      fc.property(fc.array(fc.tuple(step, fc.nat()), { maxLength: 12 }), (steps) => {
        let edited = content;
        for (const [change, at] of steps) {
          const all = ids(edited);
          edited = change(edited, all[at % Math.max(1, all.length)] ?? '');
        }
        expect(contentSchema.safeParse(edited).error).toBeUndefined();
      }),
    );
  });
});

it('dissolving what is no slot changes nothing', () => {
  const content = { subject: [], preview: [], body: [newBlock('divider', () => 'd')] };
  expect(edit.dissolveSlot(content, 'd', null)).toEqual(content);
});

it('the conditions of a document are those of its lists', () => {
  const list = newBlock('list', () => 'l');
  const where: Condition = { kind: 'test', attribute: 'tier', op: 'has-value', values: [] };
  const content = {
    subject: [],
    preview: [],
    body: [newBlock('divider', () => 'd'), list, list.kind === 'list' ? { ...list, id: 'm', where } : list],
  };
  expect(listConditions(content)).toEqual([where]);
});

describe('addresses', () => {
  it.each([
    ['https://example.org/a?b#c', 'https://example.org/a?b#c'],
    ['mailto:ines@example.org', 'mailto:ines@example.org'],
    ['tel:+441632960001', 'tel:+441632960001'],
    ['/site/membership', '/site/membership'],
    ['#top', '#top'],
  ])('lets %j through', (raw, safe) => expect(safeAddress(raw)).toBe(safe));

  // OWASP XSS filter evasion cheat sheet: schemes hidden by case, control characters and entities' remains.
  it.each([
    'javascript:alert(1)',
    'JaVaScRiPt:alert(1)',
    ' javascript:alert(1)',
    'java\nscript:alert(1)',
    'java\tscript:alert(1)',
    '\u0001javascript:alert(1)',
    'data:text/html,<script>alert(1)</script>',
    'vbscript:msgbox(1)',
    'file:///etc/passwd',
    '//evil.example/x',
    '/\\evil.example/x',
    'blob:https://example.org/1',
    'example',
    '',
  ])('refuses %j', (raw) => expect(safeAddress(raw)).toBeUndefined());
});

describe('what is wrong with a document', () => {
  const catalogue = new Catalogue([], 'UTC');
  const surroundings = {
    catalogue,
    hasAudience: () => true,
    hasPicture: () => true,
    hasCollection: () => true,
    hasPiece: () => true,
  };
  const withBody = (...body: Node[]): Content => ({ subject: [], preview: [], body });

  it('is refused at saving: addresses that run scripts, in buttons and in text', () => {
    const link: Node = {
      kind: 'text',
      id: 't',
      content: [
        {
          type: 'paragraph',
          content: [{ type: 'text', text: 'x', marks: [{ type: 'link', attrs: { href: 'javascript:1' } }] }],
        },
      ],
    };
    const button: Node = { kind: 'button', id: 'b', label: [], address: 'javascript:1' };
    expect(unsavable('page', withBody(link, button)).map((problem) => problem.block)).toEqual(['t', 'b']);
  });

  it('is refused at saving: pictures of other servers in HTML, which would not be shown', () => {
    const problems = (html: string) =>
      unsavable('page', { subject: [], preview: [], body: [{ kind: 'html', id: 'h', html }] });
    for (const html of [
      '<p>A <img alt="x" src="https://pictures.example.org/moon.png"></p>',
      "<img src='//pictures.example.org/moon.png'>",
      '<IMG SRC=http://pictures.example.org/moon.png>',
      '<picture><source srcset="https://pictures.example.org/moon.png 2x"></picture>',
    ])
      expect([html, problems(html)]).toEqual([
        html,
        [
          {
            block: 'h',
            message: expect.stringContaining('pictures.example.org/moon.png is on another server'),
          },
        ],
      ]);
    for (const html of [
      '<img src="/site/files/abc">',
      '<img src="data:image/png;base64,AA">',
      '<a href="https://example.org/">src="https://example.org/"</a>',
    ])
      expect([html, problems(html)]).toEqual([html, []]);
  });

  it('is refused at saving: preview lines on pages, lines in bodies, what mail can’t do', () => {
    const line: Node = { kind: 'line', id: 'l', content: [] };
    expect(unsavable('page', { subject: [line], preview: [], body: [] })).toEqual([]);
    expect(unsavable('page', { subject: [], preview: [line], body: [] })).not.toEqual([]);
    const account: Node = { kind: 'account', id: 'a' };
    expect(unsavable('page', withBody(account))).toEqual([]);
    expect(unsavable('email', { ...withBody(account), subject: [line] })).toEqual([
      { block: 'a', message: 'A sign-in box needs a page; mail can’t show it' },
    ]);
    expect(unsavable('email', { subject: [line], preview: [], body: [] })).toEqual([]);
    expect(unsavable('email', withBody(line))).not.toEqual([]);
  });

  it('is refused at release: deleted audiences, missing pictures, gone attributes, no subject', () => {
    const picture: Node = { kind: 'picture', id: 'p', picture: 'none', alt: '' };
    const field: Node = {
      kind: 'heading',
      id: 'h',
      level: 1,
      content: [{ type: 'mergeField', attrs: { attribute: 'gone', fallback: '' } }],
    };
    const found = unreleasable(
      'email',
      { ...content, body: [...content.body, picture, field] },
      {
        catalogue,
        hasAudience: () => false,
        hasPicture: () => false,
        hasCollection: () => false,
        hasPiece: () => false,
      },
    ).map((problem) => problem.message);
    expect(found).toHaveLength(5);
    expect(found.join()).toMatch(/deleted audience.*no picture.*attribute that is gone.*no subject/s);
    expect(unreleasable('page', content, surroundings)).toEqual([]);
    const list: Node = {
      ...(newBlock('list', () => 'l') as Node & { kind: 'list' }),
      remarks: {
        variants: [{ audience: 'gone', words: 'x', field: null }],
        otherwise: { words: '', field: 'gone-field' },
      },
    };
    expect(
      unreleasable(
        'page',
        { ...content, body: [list] },
        { ...surroundings, hasAudience: () => false, hasCollection: () => true },
      ).map(({ message }) => message),
    ).toEqual([
      'The entries of a list say something to a deleted audience',
      'The entries of a list name a field that is gone: “gone-field”',
    ]);
  });

  it('names the places on the site that links lead to, in every kind of block', () => {
    const link = (href: string): Node => ({
      kind: 'text',
      id: href,
      content: [
        {
          type: 'blockquote',
          content: [
            {
              type: 'paragraph',
              content: [{ type: 'text', text: 'x', marks: [{ type: 'link', attrs: { href } }] }],
            },
          ],
        },
      ],
    });
    const body: Node[] = [
      link('/site/a?b=c#d'),
      link('https://example.org/site/x'),
      { kind: 'button', id: 'b', label: [], address: '/site/guides/moon' },
      {
        kind: 'links',
        id: 'l',
        name: '',
        look: 'list',
        children: [{ kind: 'link', id: 'k', label: [], address: '/site/' }],
      },
    ];
    expect(placesLinkedTo({ subject: [], preview: [], body })).toEqual([
      { block: '/site/a?b=c#d', place: 'a' },
      { block: 'b', place: 'guides/moon' },
      { block: 'k', place: '' },
    ]);
  });

  it('names merge fields without a fallback', () => {
    const body = withBody({
      kind: 'heading',
      id: 'h',
      level: 1,
      content: [
        { type: 'mergeField', attrs: { attribute: 'first-name', fallback: ' ' } },
        { type: 'mergeField', attrs: { attribute: 'city', fallback: 'town' } },
      ],
    });
    expect(fieldsWithoutFallback(body)).toEqual([{ block: 'h', attribute: 'first-name' }]);
    expect([...mergedAttributes(body)]).toEqual(['first-name', 'city']);
  });
});

it('leaves a block of a kind that is not known here as it is', () => {
  const content = JSON.parse(
    '{"subject":[],"preview":[],"body":[{"kind":"hologram","id":"h"},{"kind":"slot","id":"s","name":"S","variants":[],"otherwise":[{"kind":"hologram","id":"i"}]}]}',
  );
  expect([...walkContent(content)].map(({ node }) => node.id)).toEqual(['h', 's', 'i']);
  expect(withShared(content, new Map())).toEqual(content);
  expect(firstWords(content.body, () => '')).toBe('');
});
