import { z } from 'zod';
import {
  type Block,
  kindOf,
  type Links,
  type Node,
  plainBlockSchemas,
  type Section,
  type Slot,
} from './blocks/blocks.ts';
import { blockFields, blockIdSchema as id } from './blocks/kind.ts';
import { tones } from './blocks/layout.ts';
import { type Alternatives, type Inline, inlinesOf, type SayMerge, type TextBlock } from './text.ts';

export type { Block, Links, Node, NodeKind, Section, Slot, Variant } from './blocks/blocks.ts';
export { tones } from './blocks/layout.ts';

export const documentKinds = ['page', 'email', 'shared'] as const;
/** Shared content is written once and shown in many pages and emails. */
export type DocumentKind = (typeof documentKinds)[number];

/** Where a document is read. */
export type Channel = 'page' | 'email';

/** Shared content is proved as on a page, which can do more than mail. */
export function channelOf(kind: DocumentKind): Channel {
  return kind === 'email' ? 'email' : 'page';
}

const sectionSchema: z.ZodType<Section> = z.lazy(() =>
  z.object({
    kind: z.literal('section'),
    ...blockFields,
    name: z.string().max(120),
    tone: z.enum(tones),
    layout: z.enum(['stack', 'row']),
    children: z.array(nodeSchema).max(200),
  }),
);
const linksSchema: z.ZodType<Links> = z.lazy(() =>
  z.object({
    kind: z.literal('links'),
    ...blockFields,
    name: z.string().max(120),
    look: z.enum(['list', 'menu']),
    children: z.array(nodeSchema).max(200),
  }),
);

const slotSchema: z.ZodType<Slot> = z.lazy(() =>
  z.object({
    kind: z.literal('slot'),
    id,
    name: z.string().min(1).max(120),
    variants: z
      .array(z.object({ id, audience: z.string().max(64), content: z.array(nodeSchema).max(200) }))
      .max(26),
    otherwise: z.array(nodeSchema).max(200),
  }),
);
export const nodeSchema: z.ZodType<Node> = z.lazy(() =>
  z.union([z.discriminatedUnion('kind', [...plainBlockSchemas]), sectionSchema, linksSchema, slotSchema]),
);

/** The parts of a document: pages have a title (in `subject`) and a body, emails a subject, a preview line and a body. */
export const regionNames = ['subject', 'preview', 'body'] as const;
export type RegionName = (typeof regionNames)[number];

export const contentSchema = z
  .object({
    subject: z.array(nodeSchema).max(1),
    preview: z.array(nodeSchema).max(1),
    body: z.array(nodeSchema).max(500),
    /** The audiences that its slots are for, in their order, where that is set for all of them at once. */
    audiences: z.array(z.string().min(1).max(64)).min(1).max(26).optional(),
  })
  .superRefine((content, context) => {
    const seen = new Set<string>();
    for (const { node } of walkContent(content)) {
      if (seen.has(node.id))
        context.addIssue({ code: 'custom', message: `two parts share the id ${node.id}` });
      seen.add(node.id);
    }
  });
export type Content = z.infer<typeof contentSchema>;

export const slugSchema = z
  .string()
  .regex(/^([a-z0-9]+(-[a-z0-9]+)*)?$/, 'lower-case letters, digits and single hyphens')
  .max(80);

/** What the others get in the place of a page: the way to sign in, nothing at all, or another page by its id. */
export const accessSchema = z.object({
  audience: z.string().min(1).max(64),
  otherwise: z.union([z.enum(['sign-in', 'not-found']), z.object({ page: z.string().min(1).max(64) })]),
});
export type Access = z.infer<typeof accessSchema>;

export const documentSchema = z.object({
  id: z.string().min(1).max(64),
  kind: z.enum(documentKinds),
  name: z.string().trim().min(1, 'A name is needed').max(120),
  /** The page's address on the site, without the leading slash; empty for the home page. */
  slug: slugSchema,
  content: contentSchema,
  /** Who may open it; everybody where there is none. Enforced, unlike what a slot chooses. */
  access: accessSchema.nullable().optional(),
  /** The collection whose items it shows, each at its own address; then `slug` is of no effect. */
  collection: z.string().max(64).nullable().optional(),
});
export type Document = z.infer<typeof documentSchema>;

/** A few words that differ, as the slot they are: each variant one line. */
export function slotOf({ attrs }: Alternatives): Slot {
  const line = (of: string, text: string): Node[] =>
    text === '' ? [] : [{ kind: 'line', id: `${of}.`, content: [{ type: 'text', text }] }];
  return {
    kind: 'slot',
    id: attrs.id,
    name: attrs.name,
    variants: attrs.variants.map(({ id: variant, audience, words }) => ({
      id: variant,
      audience,
      content: line(variant, words),
    })),
    otherwise: line(attrs.id, attrs.otherwise),
  };
}

/** A slot of lines as a few words that differ; the other way of {@link slotOf}. */
function alternativesOf({ id: slot, name, variants, otherwise }: Slot): Alternatives {
  const plain = (nodes: readonly Node[]) => firstWords(nodes, ({ fallback }) => fallback);
  return {
    type: 'alternatives',
    attrs: {
      id: slot,
      name,
      variants: variants.map(({ id: variant, audience, content }) => ({
        id: variant,
        audience,
        words: plain(content),
      })),
      otherwise: plain(otherwise),
    },
  };
}

/**
 * The lists of nodes directly inside a node: what a section or a list of links holds, a slot's variants and everyone
 * else, and the places in its text that differ, each as a slot.
 */
export function listsOf(node: Node): Node[][] {
  if (node.kind === 'section' || node.kind === 'links') return [node.children];
  if (node.kind === 'slot') return [...node.variants.map((variant) => variant.content), node.otherwise];
  const lists: Node[][] = [];
  for (const inline of inlinesOf(textOf(node)))
    if (inline.type === 'alternatives') lists.push([slotOf(inline)]);
  return lists;
}

/** The same node with each list inside it put through a change; the same object where nothing changed. */
export function mapLists(node: Node, map: (nodes: Node[]) => Node[]): Node {
  if (node.kind === 'section' || node.kind === 'links') {
    const children = map(node.children);
    return children === node.children ? node : { ...node, children };
  }
  if (node.kind === 'slot') {
    let changed = false;
    const variants = node.variants.map((variant) => {
      const content = map(variant.content);
      if (content === variant.content) return variant;
      changed = true;
      return { ...variant, content };
    });
    const otherwise = map(node.otherwise);
    return changed || otherwise !== node.otherwise ? { ...node, variants, otherwise } : node;
  }
  return withAlternatives(node, map);
}

function withAlternatives(node: Block, map: (nodes: Node[]) => Node[]): Block {
  let changed = false;
  const change = (inline: Inline): readonly Inline[] => {
    if (inline.type !== 'alternatives') return [inline];
    const before: Node[] = [slotOf(inline)];
    const after = map(before);
    if (after === before) return [inline];
    changed = true;
    return after.flatMap((made): Inline[] => {
      if (made.kind === 'slot') return [alternativesOf(made)];
      // What differed no longer does: its words stay as plain ones.
      return made.kind === 'line' ? made.content : [];
    });
  };
  const mapped = withText(node, change);
  return changed ? mapped : node;
}

/** A block with each inline of its text put through a change. */
export function withText(node: Block, change: (inline: Inline) => readonly Inline[]): Block {
  return kindOf(node).text?.map(node, change) ?? node;
}

export interface Visited {
  node: Node;
  region: RegionName;
  depth: number;
  /** Whether the node is inline: varying words within a text, or their content. */
  within: boolean;
}

/** Every node of a document in reading order, nodes before what they hold. */
export function* walkContent(content: Content): Generator<Visited> {
  function* walk(
    nodes: readonly Node[],
    region: RegionName,
    depth: number,
    within: boolean,
  ): Generator<Visited> {
    for (const node of nodes) {
      yield { node, region, depth, within };
      const among = within || !['slot', 'section', 'links'].includes(node.kind);
      for (const list of listsOf(node)) yield* walk(list, region, depth + 1, among);
    }
  }
  for (const region of regionNames) yield* walk(content[region], region, 0, false);
}

const slotsKnown = new WeakMap<Content, readonly Slot[]>();

/**
 * All slots in reading order, which is the order of choices in a decision. Found once for a content, which is never
 * changed in place.
 */
export function slotsOf(content: Content): readonly Slot[] {
  let slots = slotsKnown.get(content);
  if (!slots) {
    const found: Slot[] = [];
    for (const { node } of walkContent(content)) if (node.kind === 'slot') found.push(node);
    slots = found;
    slotsKnown.set(content, slots);
  }
  return slots;
}

export function findNode(content: Content, nodeId: string): Node | undefined {
  for (const { node } of walkContent(content)) if (node.id === nodeId) return node;
  return undefined;
}

/** The ancestors of a node, outermost first; empty for a top-level node or an unknown id. */
export function ancestorsOf(content: Content, nodeId: string): Node[] {
  const find = (nodes: readonly Node[], above: Node[]): Node[] | undefined => {
    for (const node of nodes) {
      if (node.id === nodeId) return above;
      for (const list of listsOf(node)) {
        const found = find(list, [...above, node]);
        if (found) return found;
      }
    }
    return undefined;
  };
  for (const region of regionNames) {
    const found = find(content[region], []);
    if (found) return found;
  }
  return [];
}

/** The text of a node without that of its children. */
export function textOf(node: Node): readonly (TextBlock | Inline)[] {
  return node.kind === 'slot' ? [] : (kindOf(node).text?.of(node) ?? []);
}

/** The first words of what nodes show, a picture's own only where there are no others; empty for nothing. */
export function firstWords(nodes: readonly Node[], sayMerge: SayMerge): string {
  let described = '';
  for (const node of nodes) {
    const found = wordsOf(node, sayMerge);
    if (found !== '' && node.kind !== 'picture') return found;
    described ||= found;
  }
  return described;
}

function wordsOf(node: Node, sayMerge: SayMerge): string {
  switch (node.kind) {
    case 'section':
    case 'links':
      return firstWords(node.children, sayMerge);
    case 'slot':
      return firstWords(node.otherwise, sayMerge) || firstWords(node.variants[0]?.content ?? [], sayMerge);
    default:
      return kindOf(node).words?.(node, sayMerge).trim() ?? '';
  }
}

/** The letter that marks a variant by its place: A, B, C … */
export function variantLetter(index: number): string {
  return String.fromCharCode(65 + index);
}
