import type { BlockByKind } from '../../documents/blocks/blocks.ts';
import type { Block, Node, Slot } from '../../documents/document.ts';
import type { ChoicePoint, Markup, MarkupList } from '../markup.ts';
import type { SlotPlaces } from '../text-markup.ts';
import type { Drawing } from './drawing.ts';
import { html, shared } from './elsewhere.ts';
import { form } from './form.ts';
import { field, list } from './items.ts';
import { divider, section, spacer } from './layout.ts';
import { button, link, links } from './links.ts';
import { account, countdown, notice } from './people.ts';
import { picture, video } from './pictures.ts';
import { heading, line, quotation, text } from './words.ts';

/** How each kind of block is drawn. */
const drawings: { readonly [Kind in Block['kind']]: Drawing<BlockByKind[Kind]> } = {
  heading,
  text,
  line,
  quotation,
  picture,
  video,
  button,
  link,
  links,
  section,
  divider,
  spacer,
  list,
  field,
  form,
  account,
  notice,
  countdown,
  html,
  shared,
};

/** How a block is drawn. Throws for one of a kind that is not known here. */
export function drawingOf<Kind extends Block['kind']>(
  block: BlockByKind[Kind] & { readonly kind: Kind },
): Drawing<BlockByKind[Kind]> {
  const known: Drawing<BlockByKind[Kind]> | undefined = drawings[block.kind];
  if (!known) throw new Error(`there is no block “${String(block.kind)}”`);
  return known;
}

/** Draws one block, given how to draw what it holds. */
export type DrawBlock = (block: Block, inner: (nodes: readonly Node[]) => Markup[]) => Markup[];

/**
 * Nodes as markup. Slots become choice points numbered in reading order over the whole document, whatever region
 * they stand in, so that a choice means the same slot everywhere.
 */
export function nodesMarkup(nodes: readonly Node[], draw: DrawBlock, places: SlotPlaces): Markup[] {
  const inner = (children: readonly Node[]): Markup[] =>
    children.flatMap((node) => (node.kind === 'slot' ? [choicePoint(node)] : draw(node, inner)));
  const choicePoint = (slot: Slot): ChoicePoint<MarkupList> => ({
    kind: 'choice',
    slot: slot.id,
    index: places.get(slot.id) ?? -1,
    branches: [...slot.variants.map((variant) => inner(variant.content)), inner(slot.otherwise)],
  });
  return inner(nodes);
}
