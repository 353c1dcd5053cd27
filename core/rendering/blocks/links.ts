import type { BlockByKind } from '../../documents/blocks/blocks.ts';
import { font, leaf, row } from '../mail-style.ts';
import { element, type Markup } from '../markup.ts';
import { inlineMarkup, linkAddress, linkTarget } from '../text-markup.ts';
import type { AsLines, Drawing, InMail } from './drawing.ts';

type Leading = BlockByKind['button' | 'link'];

function mailLink({ id, label, address }: Leading, look: string, { base, style }: InMail): Markup {
  const href = linkTarget(address, base);
  return element(
    'a',
    href === undefined ? { style: look } : { style: look, href },
    inlineMarkup(label, style),
    id,
  );
}

function lines({ label, address }: Leading, { base, style, plain }: AsLines): Markup[] {
  const href = linkTarget(address, base) ?? '';
  const written: Markup = typeof href === 'string' ? href : { kind: 'address', address: href };
  return [...plain(inlineMarkup(label, style)), ': ', written, '\n\n'];
}

export const button: Drawing<BlockByKind['button']> = {
  page({ id, label, address }, { style }) {
    const href = linkAddress(address, '');
    const attributes = { class: 'button', ...(href !== undefined && { href }) };
    return [element('a', attributes, inlineMarkup(label, style), id)];
  },
  mail(block, on) {
    const look = `display: inline-block; padding: 12px 20px; border-radius: 8px; background: ${leaf}; color: #ffffff; font: bold 16px/20px ${font}; text-decoration: none`;
    return row('padding: 8px 32px 20px', [mailLink(block, look, on)]);
  },
  lines,
};

export const link: Drawing<BlockByKind['link']> = {
  page({ id, label, address }, { style }) {
    const href = linkAddress(address, '');
    const attributes = { class: 'link', ...(href !== undefined && { href }) };
    const shown = [element('a', attributes, inlineMarkup(label, style), id)];
    // An entry that leads to what is closed tells that it is there; a button may lead to the way in.
    return href?.startsWith('/site/') ? [{ kind: 'open', mayOpen: href, shown }] : shown;
  },
  mail: (block, on) =>
    row('padding: 2px 32px', [mailLink(block, `color: ${leaf}; font: 16px/24px ${font}`, on)]),
  lines,
};

export const links: Drawing<BlockByKind['links']> = {
  page: ({ id, look, name, children }, { inner }) => [
    element('nav', { class: `links look-${look}`, 'aria-label': name || 'Links' }, inner(children), id),
  ],
  mail: ({ children }, { inner }) => inner(children),
  lines: ({ children }, { inner }) => inner(children),
};
