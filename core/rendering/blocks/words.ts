import type { BlockByKind } from '../../documents/blocks/blocks.ts';
import { font, ink, leaf, row } from '../mail-style.ts';
import { element } from '../markup.ts';
import { inlineMarkup, textMarkup } from '../text-markup.ts';
import type { Drawing } from './drawing.ts';

const headingSizes = { 1: '28px/34px', 2: '22px/28px', 3: '18px/24px' };

export const heading: Drawing<BlockByKind['heading']> = {
  page: ({ id, level, content }, { style }) => [
    element(`h${level}`, { class: 'heading' }, inlineMarkup(content, style), id),
  ],
  mail({ id, level, content }, { style }) {
    const look = `margin: 0; color: ${ink}; font: bold ${headingSizes[level]} ${font}`;
    return row('padding: 8px 32px', [
      element(`h${level}`, { style: look }, inlineMarkup(content, style), id),
    ]);
  },
  lines: ({ content }, { style, plain }) => [...plain(inlineMarkup(content, style)), '\n\n'],
};

export const text: Drawing<BlockByKind['text']> = {
  page: ({ id, content }, { style }) => [element('div', { class: 'text' }, textMarkup(content, style), id)],
  mail: ({ id, content }, { style }) =>
    row('padding: 4px 32px', [element('div', { style: `color: ${ink}` }, textMarkup(content, style), id)]),
  lines: ({ content }, { style, plain }) => plain(textMarkup(content, style)),
};

/** Lines are titles, subjects and preview lines, never a part of what stands in a body. */
export const line: Drawing<BlockByKind['line']> = {
  page: () => [],
  lines: ({ content }, { style, plain }) => plain(inlineMarkup(content, style)),
};

export const quotation: Drawing<BlockByKind['quotation']> = {
  page: ({ id, content, by }, { style }) => [
    element(
      'figure',
      { class: 'quotation' },
      [
        element('blockquote', {}, [element('p', {}, inlineMarkup(content, style))]),
        ...(by === '' ? [] : [element('figcaption', {}, [by])]),
      ],
      id,
    ),
  ],
  mail({ id, content, by }, { style }) {
    const look = `margin: 0; padding-left: 16px; border-left: 3px solid ${leaf}; color: ${ink}; font: italic 18px/26px ${font}`;
    const said = [
      element('span', {}, inlineMarkup(content, style)),
      ...(by === '' ? [] : [element('br', {}, []), `— ${by}`]),
    ];
    return row('padding: 8px 32px', [element('p', { style: look }, said, id)]);
  },
  lines: ({ content, by }, { style, plain }) => [
    '“',
    ...plain(inlineMarkup(content, style)),
    '”',
    ...(by === '' ? [] : [` — ${by}`]),
    '\n\n',
  ],
};
