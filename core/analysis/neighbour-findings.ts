import type { Condition } from '../conditions/condition.ts';
import { type Content, listsOf, type Node, regionNames, type Slot } from '../documents/document.ts';
import { copyNode, removeNode, updateNode } from '../documents/edit.ts';
import { type Diagram, never } from './diagrams/diagrams.ts';
import type { DocumentContext, Draft } from './document-context.ts';
import { either, listed, quoteAudience } from './finding.ts';
import { allOf, noneOf, type PlacedSlot } from './placed.ts';
import { sayWho } from './slot-findings.ts';

/** A slot that shows something to one audience and nothing to everyone else. */
function isShowOrHide({ variants, otherwise }: Slot): boolean {
  return variants.length === 1 && otherwise.length === 0 && (variants[0]?.content.length ?? 0) > 0;
}

/**
 * What is proved about slots that stand next to each other, each showing something to one audience only: two of which
 * everybody sees exactly one are one slot, and of several that never show together some viewers may see none.
 */
export function neighbourFindings(
  content: Content,
  placed: readonly PlacedSlot[],
  context: DocumentContext,
): Draft[] {
  const byId = new Map(placed.map((one) => [one.slot.id, one]));
  const found: Draft[] = [];
  const walk = (nodes: readonly Node[]): void => {
    for (const run of runsOf(nodes))
      found.push(
        ...aboutRun(
          content,
          run.flatMap(({ id }) => byId.get(id) ?? []),
          context,
        ),
      );
    for (const node of nodes) for (const list of listsOf(node)) walk(list);
  };
  for (const region of regionNames) walk(content[region]);
  return found;
}

/** Neighbours in a list that are all show-or-hide, two and more. */
function runsOf(nodes: readonly Node[]): Slot[][] {
  const runs: Slot[][] = [[]];
  for (const node of nodes) {
    if (node.kind === 'slot' && isShowOrHide(node)) runs.at(-1)?.push(node);
    else runs.push([]);
  }
  return runs.filter((run) => run.length > 1);
}

function aboutRun(content: Content, run: readonly PlacedSlot[], context: DocumentContext): Draft[] {
  const { world, names } = context;
  const { diagrams } = world;
  const [first] = run;
  if (!first || first.reach === never) return [];
  const shown = run.map(({ diagram, reach }) => diagrams.and(reach, diagrams.where(diagram, 0)));
  const found: Draft[] = [];
  const paired = new Set<number>();
  for (let at = 0; at + 1 < run.length; at++) {
    const [one, two] = [run[at], run[at + 1]];
    const [left = never, right = never] = [shown[at], shown[at + 1]];
    if (!one || !two || paired.has(at) || left === never || right === never) continue;
    if (!diagrams.excludes(left, right) || diagrams.or(left, right) !== first.reach) continue;
    paired.add(at).add(at + 1);
    found.push(oneSlot(content, one, two, names));
  }
  for (const group of exclusiveGroups(shown, paired, context)) {
    const none = diagrams.and(first.reach, diagrams.not(diagrams.any(group.map((at) => shown[at] ?? never))));
    const members = group.flatMap((at) => run[at] ?? []);
    if (none !== never && !shown.includes(none)) found.push(gapBetween(content, members, none, context));
  }
  return found;
}

/**
 * Neighbours of which no two are ever shown together and which are about the same attributes, by their places: two and more,
 * as many as follow each other. Slots that are about different things exclude each other by chance at most.
 */
function exclusiveGroups(
  shown: readonly Diagram[],
  paired: ReadonlySet<number>,
  { world }: DocumentContext,
): number[][] {
  const { diagrams } = world;
  const about = shown.map((who) => attributeLevels(who, world));
  const fits = (group: readonly number[], at: number): boolean =>
    group.every((other) => {
      const levels = about[other] ?? new Set();
      return (
        diagrams.excludes(shown[other] ?? never, shown[at] ?? never) &&
        [...(about[at] ?? [])].some((level) => levels.has(level))
      );
    });
  const groups: number[][] = [];
  let group: number[] = [];
  for (const [at, own] of shown.entries()) {
    if (own === never || paired.has(at)) group = [];
    else if (group.length > 0 && fits(group, at)) group.push(at);
    else group = [at];
    if (group.length === 2) groups.push(group);
  }
  return groups;
}

/** The variables other than the state of knowing that some viewers are told apart by. */
function attributeLevels(who: Diagram, { diagrams }: DocumentContext['world']): Set<number> {
  const levels = diagrams.support(who);
  if (levels.size > 1) levels.delete(0);
  return levels;
}

function oneSlot(
  content: Content,
  { slot: one }: PlacedSlot,
  { slot: two }: PlacedSlot,
  names: DocumentContext['names'],
): Draft {
  const [shown, other] = [one.variants[0], two.variants[0]];
  return {
    slot: one.id,
    variant: null,
    block: undefined,
    kind: 'one-slot',
    severity: 'careful',
    people: undefined,
    sentence: () =>
      `Everybody sees either ${one.name} (${quoteAudience(shown?.audience ?? '', names)}) or ${two.name} (${quoteAudience(other?.audience ?? '', names)}): these two are one slot.`,
    candidates: () => [
      {
        label: `Make them one slot`,
        content: removeNode(
          updateNode(content, one.id, (node) =>
            node.kind === 'slot' ? { ...node, otherwise: other?.content ?? [] } : node,
          ),
          two.id,
        ),
        // Everyone who saw either slot sees the same content in the merged one.
        changes: null,
      },
    ],
  };
}

function gapBetween(
  content: Content,
  members: readonly PlacedSlot[],
  none: Diagram,
  context: DocumentContext,
): Draft {
  const { names } = context;
  const [first] = members;
  const slots = members.map(({ slot }) => slot);
  const audiences = slots.flatMap(({ variants }) => variants.map(({ audience }) => audience));
  const last = slots.at(-1)?.variants[0];
  const who: Condition = allOf([...(first?.meets ?? []), ...noneOf(audiences)]);
  return {
    slot: first?.slot.id,
    variant: null,
    block: undefined,
    kind: 'gap-between',
    severity: 'careful',
    people: who,
    sentence: () =>
      `Whoever is in none of ${either(audiences.map((id) => quoteAudience(id, names)))} sees none of ${listed(slots.map(({ name }) => name))}${sayWho(() => none, first?.reach ?? none, context)}.`,
    candidates: () => {
      const [head, ...rest] = slots;
      if (!head || !last) return [];
      const newId = context.newIds(content);
      const joined = updateNode(content, head.id, (node) =>
        node.kind === 'slot'
          ? {
              ...node,
              variants: slots.flatMap(({ variants }) => variants),
              otherwise: last.content.map((inner) => copyNode(inner, newId)),
            }
          : node,
      );
      return [
        {
          label: `Make them one slot and show the others what ${slots.at(-1)?.name} shows`,
          content: rest.reduce((made, { id }) => removeNode(made, id), joined),
          changes: who,
        },
      ];
    },
  };
}
