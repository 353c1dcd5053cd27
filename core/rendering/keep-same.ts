import { dequal } from 'dequal/lite';
import type { Resolved } from './resolve.ts';

/**
 * A resolved tree in which every part that says the same as in an earlier one is the very same object, so that whoever draws
 * it sees at a glance what is to be drawn again.
 */
export function keepSame(before: readonly Resolved[], after: readonly Resolved[]): Resolved[] {
  const blocks = before.length === after.length ? undefined : byBlock(before);
  return after.map((node, at) => {
    // Where one came or went, the others are found by the blocks that they are.
    const block = blocks && blockOf(node);
    return sameOf(block === undefined ? before[at] : blocks?.get(block), node);
  });
}

function sameOf(before: Resolved | undefined, after: Resolved): Resolved {
  if (before === undefined || typeof before === 'string' || typeof after === 'string') return after;
  if (!('children' in before) || !('children' in after)) return dequal(before, after) ? before : after;
  const children = keepSame(before.children, after.children);
  const areSame =
    children.length === before.children.length &&
    children.every((child, at) => child === before.children[at]);
  return areSame && dequal({ ...before, children: null }, { ...after, children: null })
    ? before
    : { ...after, children };
}

function byBlock(nodes: readonly Resolved[]): Map<string, Resolved> {
  const found = new Map<string, Resolved>();
  for (const node of nodes) {
    const block = blockOf(node);
    if (block !== undefined) found.set(block, node);
  }
  return found;
}

function blockOf(node: Resolved): string | undefined {
  if (typeof node === 'string') return undefined;
  if ('slot' in node) return `slot ${node.slot}`;
  return 'tag' in node ? node.block : undefined;
}

const known = new WeakMap<object, ReadonlySet<string>>();

/** The blocks that a part of a resolved tree is or holds; worked out once for each part. */
export function blocksIn(node: Resolved): ReadonlySet<string> {
  if (typeof node === 'string' || !('children' in node)) return none;
  let blocks = known.get(node);
  if (!blocks) {
    const found = new Set<string>();
    if ('tag' in node && node.block !== undefined) found.add(node.block);
    for (const child of node.children) for (const block of blocksIn(child)) found.add(block);
    blocks = found;
    known.set(node, blocks);
  }
  return blocks;
}

const none: ReadonlySet<string> = new Set();
