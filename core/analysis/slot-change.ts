import { stringify } from 'safe-stable-stringify';
import { any, type Condition, not } from '../conditions/condition.ts';
import { everyoneElse } from '../deciding/decide.ts';
import { mapLists, type Node, type Slot } from '../documents/document.ts';
import { allOf, type PlacedSlot, whoGets } from './placed.ts';
import type { World } from './world.ts';

/** What a slot shows, as who gets what: its variants from the top, then everyone else. */
interface Shows {
  readonly audiences: readonly string[];
  readonly contents: readonly string[];
  readonly otherwise: string;
}

/**
 * Who gets something else where a slot was than before it was edited, as a condition; null where that is proved to be
 * nobody. Contents are the same where nothing but their ids differs.
 *
 * @param after the slot after the edit, or what replaced it
 */
export function whoSeesChange(
  { slot, meets, reach }: PlacedSlot,
  after: Slot | readonly Node[],
  world: World,
): Condition | null {
  const [before, next] = [showsOf(slot), showsOf(after)];
  const { diagrams } = world;
  const ways: Condition[] = [];
  for (const one of choicesOf(before))
    for (const two of choicesOf(next)) {
      if (contentOf(before, one) === contentOf(next, two)) continue;
      const way = withoutRepeats([...whoGets(before.audiences, one), ...whoGets(next.audiences, two)]);
      if (diagrams.meets(reach, world.condition({ kind: 'all', of: way }))) ways.push(allOf(way));
    }
  const [only] = ways;
  if (!only) return null;
  return allOf([...meets, ways.length === 1 ? only : any(...ways)]);
}

function showsOf(of: Slot | readonly Node[]): Shows {
  if (!('kind' in of)) return { audiences: [], contents: [], otherwise: wordsOf(of) };
  return {
    audiences: of.variants.map(({ audience }) => audience),
    contents: of.variants.map(({ content }) => wordsOf(content)),
    otherwise: wordsOf(of.otherwise),
  };
}

function choicesOf({ audiences }: Shows): number[] {
  return [...audiences.keys(), everyoneElse];
}

function contentOf({ contents, otherwise }: Shows, choice: number): string {
  return contents[choice] ?? otherwise;
}

/** Nodes as a text that is the same for the same content, whatever its ids. */
function wordsOf(nodes: readonly Node[]): string {
  return stringify(nodes.map(withoutIds));
}

function withoutIds(node: Node): Node {
  const bare = mapLists(node, (nodes) => nodes.map(withoutIds));
  return bare.kind === 'slot'
    ? { ...bare, id: '', name: '', variants: bare.variants.map((variant) => ({ ...variant, id: '' })) }
    : { ...bare, id: '' };
}

/** Parts of an "all of" without those that are there already, or that say the opposite of nothing new. */
function withoutRepeats(parts: readonly Condition[]): Condition[] {
  const seen = new Set<string>();
  return parts.filter((part) => {
    const key = stringify(part);
    if (seen.has(key)) return false;
    seen.add(key);
    return true;
  });
}

/** Those who meet a slot and are in no audience of some. */
export function everyoneOutside(meets: readonly Condition[], audiences: readonly string[]): Condition {
  const inAny = any(...audiences.map((audience): Condition => ({ kind: 'audience', audience })));
  return allOf([...meets, not(inAny)]);
}
