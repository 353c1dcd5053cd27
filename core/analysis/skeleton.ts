import { type Content, type Document, type Node, regionNames, textOf, tones } from '../documents/document.ts';
import { type Inline, inlinesOf } from '../documents/text.ts';

/** A document as proofs look at it, and a text that is the same for all that are alike to them. */
export interface Skeleton {
  readonly document: Document;
  readonly key: string;
}

interface Bare {
  readonly node: Node;
  readonly key: string;
}

/** A node is never changed in place, so that what did not change is looked at once. */
const known = new WeakMap<Node, Bare>();

/**
 * A document without what no proof asks for: its name and address, its words, and what its blocks look like. Left are the
 * slots, where they stand, and the merge fields in text. What is found of it is what is found of the document.
 */
export function skeletonOf({ id, kind, access, collection, content }: Document): Skeleton {
  const bare: Content = { subject: [], preview: [], body: [] };
  const keys: string[] = [];
  for (const region of regionNames)
    for (const node of content[region]) {
      const one = bareOf(node);
      bare[region].push(one.node);
      keys.push(`${region} ${one.key}`);
    }
  if (content.audiences) bare.audiences = content.audiences;
  return {
    document: { id, kind, name: '', slug: '', access, collection, content: bare },
    key: JSON.stringify([id, kind, access, collection, content.audiences]) + keys.join('\n'),
  };
}

function bareOf(node: Node): Bare {
  let found = known.get(node);
  if (!found) {
    found = made(node);
    known.set(node, found);
  }
  return found;
}

function made(node: Node): Bare {
  switch (node.kind) {
    case 'slot': {
      const variants = node.variants.map((variant) => ({ ...variant, content: listOf(variant.content) }));
      const otherwise = listOf(node.otherwise);
      const own = [node.id, node.name, ...variants.flatMap(({ id, audience }) => [id, audience])];
      const lists = [...variants.map(({ content }) => content), otherwise];
      return {
        node: {
          ...node,
          variants: variants.map(({ content, ...variant }) => ({ ...variant, content: nodesOf(content) })),
          otherwise: nodesOf(otherwise),
        },
        key: keyOf('slot', own, lists),
      };
    }
    case 'section': {
      const children = listOf(node.children);
      const { kind, id } = node;
      return {
        node: { kind, id, name: '', tone: tones[0], layout: 'stack', children: nodesOf(children) },
        key: keyOf('section', [id], [children]),
      };
    }
    case 'links': {
      const children = listOf(node.children);
      const { kind, id } = node;
      return {
        node: { kind, id, name: '', look: 'list', children: nodesOf(children) },
        key: keyOf('links', [id], [children]),
      };
    }
    default: {
      const content = [...inlinesOf(textOf(node))].flatMap(withoutWords);
      const { id } = node;
      return {
        node: content.length === 0 ? { kind: 'divider', id } : { kind: 'line', id, content },
        key: JSON.stringify([id, ...content]),
      };
    }
  }
}

/** The part of a text that proofs depend on: whether it has words, not which. */
function withoutWords(inline: Inline): Inline[] {
  const some = (words: string) => (words.trim() === '' ? '' : '…');
  if (inline.type === 'mergeField')
    return [
      { ...inline, attrs: { attribute: inline.attrs.attribute, fallback: some(inline.attrs.fallback) } },
    ];
  if (inline.type !== 'alternatives') return [];
  const { attrs } = inline;
  const variants = attrs.variants.map((variant) => ({ ...variant, words: variant.words === '' ? '' : '…' }));
  return [{ ...inline, attrs: { ...attrs, variants, otherwise: attrs.otherwise === '' ? '' : '…' } }];
}

const listOf = (nodes: readonly Node[]): Bare[] => nodes.map(bareOf);
const nodesOf = (list: readonly Bare[]): Node[] => list.map(({ node }) => node);

function keyOf(kind: string, own: readonly string[], lists: readonly (readonly Bare[])[]): string {
  return `${kind} ${JSON.stringify(own)}${lists.map((list) => `{${list.map(({ key }) => key).join('\n')}}`).join('')}`;
}
