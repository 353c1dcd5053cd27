import type { BlockByKind } from '../../documents/blocks/blocks.ts';
import { element } from '../markup.ts';
import type { Drawing } from './drawing.ts';

export const html: Drawing<BlockByKind['html']> = {
  page: ({ id, html: raw }) => [element('div', { class: 'html' }, [{ kind: 'raw', raw }], id)],
};

/** Shared content is put in its place before anything is drawn. */
export const shared: Drawing<BlockByKind['shared']> = { page: () => [] };
