import { type Content, type Document, mapLists, type Node, regionNames } from './document.ts';

/** Most pieces within pieces; more is a circle or might as well be one. */
const deepest = 8;

/**
 * A content with each piece of shared content in its place, as a plain section with the block's own id. Ids inside are
 * made the block's own, so that one piece can stand in many places. A piece that holds itself is empty.
 */
export function withShared(content: Content, pieces: ReadonlyMap<string, Content>): Content {
  const expand = (nodes: Node[], path: readonly string[]): Node[] => {
    let changed = false;
    const mapped = nodes.map((node): Node => {
      const after =
        node.kind === 'shared' ? pieceOf(node, path) : mapLists(node, (inner) => expand(inner, path));
      changed ||= after !== node;
      return after;
    });
    return changed ? mapped : nodes;
  };
  const pieceOf = (node: Node & { kind: 'shared' }, path: readonly string[]): Node => {
    const { id, document, screens } = node;
    const piece = pieces.get(document);
    // What is gone stays named, so that it is told before a release.
    if (!piece) return node;
    const open = !path.includes(document) && path.length < deepest;
    const inside = open ? expand(piece.body, [...path, document]) : [];
    return {
      kind: 'section',
      id,
      ...(screens && { screens }),
      name: '',
      tone: 'plain',
      layout: 'stack',
      children: inside.map((node) => underId(node, id)),
    };
  };
  let expanded = content;
  for (const region of regionNames) {
    const after = expand(content[region], []);
    if (after !== content[region]) expanded = { ...expanded, [region]: after };
  }
  return expanded;
}

/** The pieces of shared content that a content names itself. */
export function piecesIn(content: Content): Set<string> {
  const found = new Set<string>();
  const walk = (nodes: Node[]): Node[] => {
    for (const node of nodes) {
      if (node.kind === 'shared') found.add(node.document);
      else mapLists(node, walk);
    }
    return nodes;
  };
  for (const region of regionNames) walk(content[region]);
  return found;
}

/** Pieces that hold each other in a circle, as the ids along it; undefined where there is none. */
export function circleOfPieces(pieces: ReadonlyMap<string, Content>): string[] | undefined {
  const done = new Set<string>();
  const visit = (id: string, path: readonly string[]): string[] | undefined => {
    const at = path.indexOf(id);
    if (at >= 0) return [...path.slice(at), id];
    const piece = pieces.get(id);
    if (done.has(id) || !piece) return undefined;
    for (const next of piecesIn(piece)) {
      const circle = visit(next, [...path, id]);
      if (circle) return circle;
    }
    done.add(id);
    return undefined;
  };
  for (const id of pieces.keys()) {
    const circle = visit(id, []);
    if (circle) return circle;
  }
  return undefined;
}

/** The pieces of shared content among some documents, by their ids. */
export function piecesOf(
  documents: readonly Pick<Document, 'id' | 'kind' | 'content'>[],
): Map<string, Content> {
  return new Map(documents.filter(({ kind }) => kind === 'shared').map(({ id, content }) => [id, content]));
}

function underId<Kind extends Node>(node: Kind, above: string): Kind;
function underId(node: Node, above: string): Node {
  const own = (id: string) => `${above}/${id}`;
  const inner = mapLists(node, (nodes) => nodes.map((child) => underId(child, above)));
  if (inner.kind === 'slot')
    return {
      ...inner,
      id: own(inner.id),
      variants: inner.variants.map((variant) => ({ ...variant, id: own(variant.id) })),
    };
  return { ...inner, id: own(inner.id) };
}
