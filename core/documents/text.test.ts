import { describe, expect, it } from 'vitest';
import {
  type Inline,
  inlinesOf,
  mapInlines,
  mergeFieldsOf,
  plainInline,
  type TextBlock,
  textWith,
  words,
} from './text.ts';

const field = (attribute: string): Inline => ({ type: 'mergeField', attrs: { attribute, fallback: '' } });
const paragraph = (...content: Inline[]) => ({ type: 'paragraph' as const, content });
/** One field in each place that can hold one, named by its place, in reading order. */
const every: TextBlock[] = [
  paragraph(field('paragraph')),
  {
    type: 'bulletList',
    content: [
      { type: 'listItem', content: [paragraph(field('bullet-1')), paragraph(field('bullet-2'))] },
      { type: 'listItem', content: [paragraph(field('bullet-3'))] },
    ],
  },
  { type: 'orderedList', content: [{ type: 'listItem', content: [paragraph(field('ordered'))] }] },
  { type: 'blockquote', content: [paragraph(field('quote-1')), paragraph(field('quote-2'))] },
  {
    type: 'table',
    content: ['1', '2'].map((row) => ({
      type: 'tableRow' as const,
      content: ['a', 'b'].map((cell) => ({
        type: row === '1' ? ('tableHeader' as const) : ('tableCell' as const),
        content: [paragraph(field(`cell-${row}${cell}`))],
      })),
    })),
  },
];
const names = [
  'paragraph',
  'bullet-1',
  'bullet-2',
  'bullet-3',
  'ordered',
  'quote-1',
  'quote-2',
  'cell-1a',
  'cell-1b',
  'cell-2a',
  'cell-2b',
];

describe('text', () => {
  it('is read in every place that can hold words, in order', () => {
    expect([...mergeFieldsOf(every)].map(({ attrs }) => attrs.attribute)).toEqual(names);
    expect([...inlinesOf(every)]).toHaveLength(names.length);
  });

  it('is changed in each of these places, and in none but these', () => {
    const changed = mapInlines(every, (inline) =>
      inline.type === 'mergeField'
        ? [{ ...inline, attrs: { ...inline.attrs, fallback: inline.attrs.attribute } }, { type: 'hardBreak' }]
        : [inline],
    );
    expect([...mergeFieldsOf(changed)].map(({ attrs }) => attrs.fallback)).toEqual(names);
    expect([...inlinesOf(changed)].filter(({ type }) => type === 'hardBreak')).toHaveLength(names.length);
    const back = mapInlines(changed, (inline) =>
      inline.type === 'mergeField'
        ? [{ ...inline, attrs: { ...inline.attrs, fallback: '' } }]
        : inline.type === 'hardBreak'
          ? []
          : [inline],
    );
    expect(back).toEqual(every);
  });

  it('is one line in plain words: values as they are said, and of words that differ those for everyone else', () => {
    const alternatives: Inline = {
      type: 'alternatives',
      attrs: {
        id: 'x',
        name: 'greeting',
        variants: [{ id: 'v', audience: 'members', words: 'friend of the sky' }],
        otherwise: 'stranger',
      },
    };
    const content = [...words('Hello '), alternatives, { type: 'hardBreak' } as const, field('city')];
    expect(plainInline(content, ({ attribute }) => `{${attribute}}`)).toBe('Hello stranger {city}');
  });
});

describe('words behind a text', () => {
  const text = (words: string): Inline => ({ type: 'text', text: words });
  it('go on in its last paragraph, and each further line is a paragraph of its own', () => {
    const before = [paragraph(text('Come')), paragraph(text('and look'))];
    expect(textWith(before, ' up\n\ntonight', false)).toEqual([
      paragraph(text('Come')),
      paragraph(text('and look'), text(' up')),
      { type: 'paragraph' },
      paragraph(text('tonight')),
    ]);
  });

  it('are a paragraph of their own behind anything else, in an empty text, and instead of it', () => {
    const list = every.slice(1, 2);
    expect(textWith(list, 'up', false)).toEqual([...list, paragraph(text('up'))]);
    expect(textWith([], 'up', false)).toEqual([paragraph(text('up'))]);
    expect(textWith([{ type: 'paragraph' }], 'up', false)).toEqual([paragraph(text('up'))]);
    expect(textWith([paragraph(text('Come'))], 'up', true)).toEqual([paragraph(text('up'))]);
  });
});
