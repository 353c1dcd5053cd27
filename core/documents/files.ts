import { kindOf } from './blocks/blocks.ts';
import { type Content, mapLists, type Node, regionNames, walkContent } from './document.ts';

/** The files that a content shows, by their ids. */
export function filesIn(content: Content): Set<string> {
  const found = new Set<string>();
  for (const { node } of walkContent(content))
    if (node.kind !== 'slot') for (const file of kindOf(node).files?.(node) ?? []) found.add(file);
  return found;
}

/** A content that shows one file where it showed another; the same object where it did not. */
export function withFile(content: Content, before: string, after: string): Content {
  const changed = (nodes: Node[]): Node[] => {
    const next = nodes.map((node): Node => {
      if (node.kind === 'picture' || node.kind === 'video')
        return node.file === before ? { ...node, file: after } : node;
      return mapLists(node, changed);
    });
    return next.every((node, index) => node === nodes[index]) ? nodes : next;
  };
  let result = content;
  for (const region of regionNames) {
    const next = changed(content[region]);
    if (next !== content[region]) result = { ...result, [region]: next };
  }
  return result;
}
