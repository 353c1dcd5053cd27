import type { Catalogue } from '../attributes/catalogue.ts';
import { safeAddress } from '../documents/address.ts';
import type { Block, Node, Slot } from '../documents/document.ts';
import type { Inline, Mark, TextBlock } from '../documents/text.ts';
import { type ChoicePoint, type Element, element, type Markup } from './markup.ts';

/** How one channel draws its blocks. */
export interface Channel {
  block(block: Block, inner: (nodes: readonly Node[]) => Markup[]): Markup[];
}

/**
 * Nodes as markup. Slots become choice points numbered in reading order over the whole document, whatever region
 * they stand in, so that a choice means the same slot everywhere.
 */
export function nodesMarkup(
  nodes: readonly Node[],
  channel: Channel,
  slotIndex: ReadonlyMap<string, number>,
): Markup[] {
  const inner = (children: readonly Node[]): Markup[] =>
    children.flatMap((node) => (node.kind === 'slot' ? [choicePoint(node)] : channel.block(node, inner)));
  const choicePoint = (slot: Slot): ChoicePoint => ({
    slot: slot.id,
    index: slotIndex.get(slot.id) ?? -1,
    branches: [...slot.variants.map((variant) => inner(variant.content)), inner(slot.otherwise)],
  });
  return inner(nodes);
}

export interface TextStyle {
  readonly catalogue: Catalogue;
  /** Where relative addresses lead; empty on the site itself. */
  readonly base: string;
  /** Attributes of each element that text is made of. */
  readonly attributes: (tag: 'a' | 'p' | 'ul' | 'ol' | 'li') => Element['attributes'];
}

export function inlineMarkup(content: readonly Inline[], style: TextStyle): Markup[] {
  return content.map((inline): Markup => {
    if (inline.type === 'hardBreak') return element('br', {}, []);
    if (inline.type === 'text') return (inline.marks ?? []).reduceRight(marked(style), inline.text as Markup);
    const { attribute, fallback } = inline.attrs;
    return { merge: style.catalogue.get(attribute), attribute, fallback };
  });
}

const marked =
  (style: TextStyle) =>
  (inner: Markup, mark: Mark): Markup => {
    if (mark.type === 'bold') return element('strong', {}, [inner]);
    if (mark.type === 'italic') return element('em', {}, [inner]);
    const href = linkAddress(mark.attrs.href, style.base);
    return href === undefined ? inner : element('a', { ...style.attributes('a'), href }, [inner]);
  };

/** A safe address, absolute where a base is given; undefined where it may not be linked to. */
export function linkAddress(raw: string, base: string): string | undefined {
  const address = safeAddress(raw);
  return address?.startsWith('/') ? base + address : address;
}

export function textMarkup(blocks: readonly TextBlock[], style: TextStyle): Markup[] {
  return blocks.map((block): Markup => {
    if (block.type === 'paragraph')
      return element('p', style.attributes('p'), inlineMarkup(block.content ?? [], style));
    const tag = block.type === 'bulletList' ? 'ul' : 'ol';
    return element(
      tag,
      style.attributes(tag),
      block.content.map((item) => element('li', style.attributes('li'), textMarkup(item.content, style))),
    );
  });
}
