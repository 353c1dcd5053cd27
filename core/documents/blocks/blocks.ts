import type { z } from 'zod';
import { html, htmlSchema, shared, sharedSchema } from './elsewhere.ts';
import { field, fieldSchema, list, listSchema } from './items.ts';
import type { BlockKind, ScreenWidth } from './kind.ts';
import { divider, dividerSchema, section, spacer, spacerSchema, type tones } from './layout.ts';
import { button, buttonSchema, link, linkSchema, links } from './links.ts';
import {
  account,
  accountSchema,
  countdown,
  countdownSchema,
  form,
  formSchema,
  notice,
  noticeSchema,
} from './people.ts';
import { picture, pictureSchema, video, videoSchema } from './pictures.ts';
import {
  heading,
  headingSchema,
  line,
  lineSchema,
  quotation,
  quotationSchema,
  text,
  textSchema,
} from './words.ts';

// Every kind of block there is. How each is drawn stands in rendering/blocks/, how it is edited in the studio.

/** Blocks that hold no other blocks, one schema a kind; see document.ts for those that do. */
export const plainBlockSchemas = [
  headingSchema,
  textSchema,
  pictureSchema,
  buttonSchema,
  lineSchema,
  dividerSchema,
  spacerSchema,
  videoSchema,
  quotationSchema,
  linkSchema,
  listSchema,
  fieldSchema,
  formSchema,
  accountSchema,
  noticeSchema,
  countdownSchema,
  htmlSchema,
  sharedSchema,
] as const;
export type PlainBlock = z.infer<(typeof plainBlockSchemas)[number]>;

// What holds others holds any of them, so that the tree of a document is one type with the kinds of blocks.

export type Section = {
  kind: 'section';
  id: string;
  screens?: ScreenWidth | undefined;
  name: string;
  tone: (typeof tones)[number];
  layout: 'stack' | 'row';
  children: Node[];
};

export type Variant = { id: string; audience: string; content: Node[] };

/** A place that can differ: the first variant whose audience contains the viewer, otherwise `otherwise`. */
export type Slot = { kind: 'slot'; id: string; name: string; variants: Variant[]; otherwise: Node[] };

/** Links one below the other, or side by side as a menu; its entries are links, or slots of links. */
export type Links = {
  kind: 'links';
  id: string;
  screens?: ScreenWidth | undefined;
  name: string;
  look: 'list' | 'menu';
  children: Node[];
};

export type Block = PlainBlock | Section | Links;
export type Node = Block | Slot;
export type NodeKind = Node['kind'];

/** The block of each kind. */
export type BlockByKind = { [Kind in Block['kind']]: Extract<Block, { kind: Kind }> };

export const blockKinds: { readonly [Kind in Block['kind']]: BlockKind<BlockByKind[Kind]> } = {
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

/** What there is to know of a kind that another version of the program may have stored: nothing. */
const unknownKind: BlockKind<never> = {
  fresh() {
    throw new Error('there is no such kind of block');
  },
};

/** What there is to know of the kind of a block; of one that is not known here, nothing but that it is there. */
export function kindOf<Kind extends Block['kind']>(
  block: BlockByKind[Kind] & { readonly kind: Kind },
): BlockKind<BlockByKind[Kind]> {
  const known: BlockKind<BlockByKind[Kind]> | undefined = blockKinds[block.kind];
  return known ?? unknownKind;
}

/** Whether a part of a document is words that are written where they stand. */
export function hasText(node: Node): node is Block {
  return node.kind !== 'slot' && kindOf(node).text !== undefined;
}

/** An empty block of a kind, ready to be filled in. */
export function newBlock(kind: Block['kind'], newId: () => string): Block {
  return blockKinds[kind].fresh(newId);
}
