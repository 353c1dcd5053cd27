import { LayoutPanelTop, type LucideIcon } from 'lucide-react';
import { type BlockByKind, blockKinds } from '../../../../core/documents/blocks/blocks.ts';
import type { Block, DocumentKind, NodeKind } from '../../../../core/documents/document.ts';
import { type EditedBlock, groups } from './block.ts';
import { html, shared } from './elsewhere.tsx';
import { field, list } from './items.tsx';
import { divider, section, spacer } from './layout.tsx';
import { button, link, links } from './links.tsx';
import { account, countdown, form, notice } from './people.tsx';
import { picture, video } from './pictures.tsx';
import { heading, line, quotation, text } from './words.tsx';

/** How every kind of block is edited, in the order in which they are offered. */
const blocks: { readonly [Kind in Block['kind']]: EditedBlock<Kind> } = {
  heading,
  text,
  line,
  quotation,
  button,
  picture,
  video,
  section,
  divider,
  spacer,
  links,
  link,
  list,
  field,
  form,
  account,
  notice,
  countdown,
  shared,
  html,
};

const isKind = (name: string): name is Block['kind'] => name in blocks;
const kinds = Object.keys(blocks).filter(isKind);

/** What can be set of a block besides its words; undefined where nothing can. */
export function settingsOf<Kind extends Block['kind']>(
  block: BlockByKind[Kind] & { readonly kind: Kind },
): EditedBlock<Kind>['Settings'] {
  return blocks[block.kind].Settings;
}

export function kindName(kind: NodeKind): string {
  return kind === 'slot' ? 'Slot' : blocks[kind].name;
}

export function kindIcon(kind: NodeKind): LucideIcon {
  return kind === 'slot' ? LayoutPanelTop : blocks[kind].icon;
}

/** The blocks that can be added to a document, by what they are for. */
export function addableTo(
  document: DocumentKind,
  isItemPage: boolean,
): { heading: string; options: { id: Block['kind']; label: string }[] }[] {
  const fits = (kind: Block['kind']) =>
    (document !== 'email' || blockKinds[kind].pageOnly === undefined) &&
    (isItemPage || !blocks[kind].onItemPages);
  return groups
    .map((heading) => ({
      heading,
      options: kinds
        .filter((kind) => blocks[kind].group === heading && fits(kind))
        .map((kind) => ({ id: kind, label: blocks[kind].name })),
    }))
    .filter(({ options }) => options.length > 0);
}
