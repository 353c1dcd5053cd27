import type { Catalogue } from '../attributes/catalogue.ts';
import { safeAddress } from '../documents/address.ts';
import { slotOf } from '../documents/document.ts';
import type { Inline, Mark, TextBlock } from '../documents/text.ts';
import { type Element, element, type Markup } from './markup.ts';

/** The place of each slot among the choices, by its id. */
export type SlotPlaces = ReadonlyMap<string, number>;

export interface TextStyle {
  readonly catalogue: Catalogue;
  /** The language that personal values are written in. */
  readonly locale: string;
  /** Where relative addresses lead; empty on the site itself. */
  readonly base: string;
  readonly places: SlotPlaces;
  /** Attributes of each element that text is made of. */
  readonly attributes: (tag: TextTag) => Element['attributes'];
}
export type TextTag = 'a' | 'p' | 'ul' | 'ol' | 'li' | 'blockquote' | 'table' | 'th' | 'td';

export function inlineMarkup(content: readonly Inline[], style: TextStyle): Markup[] {
  return content.map((inline) => oneInline(inline, style));
}

function oneInline(inline: Inline, style: TextStyle): Markup {
  switch (inline.type) {
    case 'hardBreak':
      return element('br', {}, []);
    case 'text':
      return (inline.marks ?? []).reduceRight(marked(style), inline.text as Markup);
    case 'alternatives': {
      const slot = slotOf(inline);
      const words = (text: string): Markup[] => (text === '' ? [] : [text]);
      return {
        kind: 'choice',
        slot: slot.id,
        index: style.places.get(slot.id) ?? -1,
        branches: [
          ...inline.attrs.variants.map((variant) => words(variant.words)),
          words(inline.attrs.otherwise),
        ],
      };
    }
    case 'mergeField': {
      const { attribute, fallback, look } = inline.attrs;
      const merge = style.catalogue.get(attribute);
      return { kind: 'merge', merge, attribute, fallback, look, locale: style.locale };
    }
  }
}

const marked =
  (style: TextStyle) =>
  (inner: Markup, mark: Mark): Markup => {
    if (mark.type === 'bold') return element('strong', {}, [inner]);
    if (mark.type === 'italic') return element('em', {}, [inner]);
    const href = linkTarget(mark.attrs.href, style.base);
    return href === undefined ? inner : element('a', { ...style.attributes('a'), href }, [inner]);
  };

/** A safe address, absolute where a base is given; undefined where it may not be linked to. */
export function linkAddress(raw: string, base: string): string | undefined {
  const address = safeAddress(raw);
  return address?.startsWith('/') ? base + address : address;
}

/** What a link leads to: on the site itself an address; from mail to the site one that the reader is recognised by. */
export function linkTarget(raw: string, base: string): string | { known: string } | undefined {
  const address = linkAddress(raw, base);
  return base !== '' && address?.startsWith(`${base}/site/`) ? { known: address } : address;
}

export function textMarkup(blocks: readonly TextBlock[], style: TextStyle): Markup[] {
  return blocks.map((block) => oneTextBlock(block, style));
}

function oneTextBlock(block: TextBlock, style: TextStyle): Markup {
  switch (block.type) {
    case 'paragraph':
      return element('p', style.attributes('p'), inlineMarkup(block.content ?? [], style));
    case 'blockquote':
      return element('blockquote', style.attributes('blockquote'), textMarkup(block.content, style));
    case 'table': {
      const rows = block.content.map((row) =>
        element(
          'tr',
          {},
          row.content.map((cell) => {
            const tag = cell.type === 'tableHeader' ? 'th' : 'td';
            return element(tag, style.attributes(tag), textMarkup(cell.content, style));
          }),
        ),
      );
      return element('table', style.attributes('table'), [element('tbody', {}, rows)]);
    }
    default: {
      const tag = block.type === 'bulletList' ? 'ul' : 'ol';
      const items = block.content.map((item) =>
        element('li', style.attributes('li'), textMarkup(item.content, style)),
      );
      return element(tag, style.attributes(tag), items);
    }
  }
}
