import type { BlockByKind } from '../../documents/blocks/blocks.ts';
import { row, table } from '../mail-style.ts';
import { element } from '../markup.ts';
import type { Drawing } from './drawing.ts';

const grounds: Record<BlockByKind['section']['tone'], string> = {
  plain: '#fffdf8',
  panel: '#eef2ea',
  accent: '#dfe9f3',
  warm: '#f6ead0',
};

export const section: Drawing<BlockByKind['section']> = {
  page: ({ id, tone, layout, children }, { inner }) => [
    element('section', { class: `section tone-${tone} layout-${layout}` }, inner(children), id),
  ],
  mail({ id, tone, children }, { inner }) {
    const ground = grounds[tone];
    const attributes = { ...table, style: `background: ${ground}`, bgcolor: ground };
    return row('padding: 0', [element('table', attributes, [element('tbody', {}, inner(children))], id)]);
  },
  lines: ({ children }, { inner }) => inner(children),
};

export const divider: Drawing<BlockByKind['divider']> = {
  page: ({ id }) => [element('hr', { class: 'divider' }, [], id)],
  mail: ({ id }) =>
    row('padding: 12px 32px', [
      element('div', { style: 'border-top: 1px solid #e1d9c9; font-size: 0; line-height: 0' }, [], id),
    ]),
  lines: () => ['----\n\n'],
};

const heights = { small: 12, medium: 28, large: 56 };

export const spacer: Drawing<BlockByKind['spacer']> = {
  page: ({ id, size }) => [element('div', { class: `spacer size-${size}` }, [], id)],
  mail: ({ id, size }) => [
    element('tr', {}, [
      element('td', { style: `height: ${heights[size]}px; font-size: 0; line-height: 0` }, ['\u00a0'], id),
    ]),
  ],
};
