import { z } from 'zod';
import {
  type Inline,
  inlinesSchema,
  mergeFieldsOf,
  plainInline,
  type SayMerge,
  type TextBlock,
  textBlockSchema,
} from './text.ts';

export const documentKinds = ['page', 'email'] as const;
export type DocumentKind = (typeof documentKinds)[number];

const id = z.string().min(1).max(40);

export const headingSchema = z.object({
  kind: z.literal('heading'),
  id,
  level: z.union([z.literal(1), z.literal(2), z.literal(3)]),
  content: inlinesSchema,
});
export const textSchema = z.object({
  kind: z.literal('text'),
  id,
  content: z.array(textBlockSchema).max(2000),
});
export const pictureSchema = z.object({
  kind: z.literal('picture'),
  id,
  /** The name of a drawing of the library. */
  picture: z.string().regex(/^[a-z0-9-]{1,60}$/),
  alt: z.string().max(300),
});
export const buttonSchema = z.object({
  kind: z.literal('button'),
  id,
  label: inlinesSchema,
  address: z.string().max(2000),
});
/** One line of text without marks: an email's subject or preview line. */
export const lineSchema = z.object({ kind: z.literal('line'), id, content: inlinesSchema });

export const tones = ['plain', 'panel', 'accent', 'warm'] as const;

export type Section = {
  kind: 'section';
  id: string;
  name: string;
  tone: (typeof tones)[number];
  layout: 'stack' | 'row';
  children: Node[];
};

export type Variant = { id: string; audience: string; content: Node[] };

/** A place that can differ: the first variant whose audience contains the viewer, otherwise `otherwise`. */
export type Slot = { kind: 'slot'; id: string; name: string; variants: Variant[]; otherwise: Node[] };

export type Block =
  | z.infer<typeof headingSchema>
  | z.infer<typeof textSchema>
  | z.infer<typeof pictureSchema>
  | z.infer<typeof buttonSchema>
  | z.infer<typeof lineSchema>
  | Section;
export type Node = Block | Slot;
export type NodeKind = Node['kind'];

const sectionSchema: z.ZodType<Section> = z.lazy(() =>
  z.object({
    kind: z.literal('section'),
    id,
    name: z.string().max(120),
    tone: z.enum(tones),
    layout: z.enum(['stack', 'row']),
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
  z.union([headingSchema, textSchema, pictureSchema, buttonSchema, lineSchema, sectionSchema, slotSchema]),
);

/** The parts of a document: pages have a body, emails a subject, a preview line and a body. */
export const regionNames = ['subject', 'preview', 'body'] as const;
export type RegionName = (typeof regionNames)[number];

export const contentSchema = z
  .object({
    subject: z.array(nodeSchema).max(1),
    preview: z.array(nodeSchema).max(1),
    body: z.array(nodeSchema).max(500),
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

export const documentSchema = z.object({
  id: z.string().min(1).max(64),
  kind: z.enum(documentKinds),
  name: z.string().trim().min(1, 'A name is needed').max(120),
  /** The page's address on the site, without the leading slash; empty for the home page. */
  slug: slugSchema,
  content: contentSchema,
});
export type Document = z.infer<typeof documentSchema>;

/** The lists of nodes directly inside a node: a section's children, a slot's variants and everyone else. */
export function listsOf(node: Node): Node[][] {
  if (node.kind === 'section') return [node.children];
  if (node.kind === 'slot') return [...node.variants.map((variant) => variant.content), node.otherwise];
  return [];
}

export interface Visited {
  node: Node;
  region: RegionName;
  depth: number;
}

/** Every node of a document in reading order, nodes before what they hold. */
export function* walkContent(content: Content): Generator<Visited> {
  function* walk(nodes: readonly Node[], region: RegionName, depth: number): Generator<Visited> {
    for (const node of nodes) {
      yield { node, region, depth };
      for (const list of listsOf(node)) yield* walk(list, region, depth + 1);
    }
  }
  for (const region of regionNames) yield* walk(content[region], region, 0);
}

/** All slots in reading order, which is the order of choices in a decision. */
export function slotsOf(content: Content): Slot[] {
  const slots: Slot[] = [];
  for (const { node } of walkContent(content)) if (node.kind === 'slot') slots.push(node);
  return slots;
}

export function findNode(content: Content, nodeId: string): Node | undefined {
  for (const { node } of walkContent(content)) if (node.id === nodeId) return node;
  return undefined;
}

/** The nodes that a node stands in, outermost first; empty where it stands in none or does not exist. */
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

export function audiencesOf(content: Content): Set<string> {
  const used = new Set<string>();
  for (const slot of slotsOf(content)) for (const variant of slot.variants) used.add(variant.audience);
  return used;
}

/** The text that stands in a node itself, not in what it holds. */
export function textOf(node: Node): readonly (TextBlock | Inline)[] {
  if (node.kind === 'button') return node.label;
  return node.kind === 'heading' || node.kind === 'text' || node.kind === 'line' ? node.content : [];
}

/** Attributes that merge fields of a document print. */
export function mergedAttributes(content: Content): Set<string> {
  const used = new Set<string>();
  for (const { node } of walkContent(content))
    for (const field of mergeFieldsOf(textOf(node))) used.add(field.attrs.attribute);
  return used;
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
    case 'heading':
    case 'line':
      return plainInline(node.content, sayMerge).trim();
    case 'button':
      return plainInline(node.label, sayMerge).trim();
    case 'picture':
      return node.alt.trim();
    case 'text': {
      const [first] = node.content.flatMap((block): Inline[][] =>
        block.type === 'paragraph'
          ? [block.content ?? []]
          : block.content.flatMap((item) => item.content.map((paragraph) => paragraph.content ?? [])),
      );
      return plainInline(first ?? [], sayMerge).trim();
    }
    case 'section':
      return firstWords(node.children, sayMerge);
    case 'slot':
      return firstWords(node.otherwise, sayMerge) || firstWords(node.variants[0]?.content ?? [], sayMerge);
  }
}

/** The letter that marks a variant by its place: A, B, C … */
export function variantLetter(index: number): string {
  return String.fromCharCode(65 + index);
}
