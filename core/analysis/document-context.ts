import { type Audience, audiencesBehind, findCircle } from '../audiences/audience.ts';
import type { Condition } from '../conditions/condition.ts';
import type { Membership } from '../deciding/membership.ts';
import { type Access, type Content, type Slot, walkContent } from '../documents/document.ts';
import type { NewId } from '../documents/edit.ts';
import type { DocumentFinding, DocumentRepair, Names } from './finding.ts';
import type { World } from './world.ts';

/** A finding before its words and repairs are worked out, which only those that are shown need. */
export interface Draft extends Omit<DocumentFinding, 'sentence' | 'repairs'> {
  readonly sentence: () => string;
  /** Repairs that have still to be tried. */
  readonly candidates: () => DocumentRepair[];
}

/** What is needed to look at a document and at what it becomes by an edit. */
export interface DocumentContext {
  /** Made for the document's audiences, those that are set for it and who may open it. */
  readonly world: World;
  readonly names: Names;
  readonly access: Access | null | undefined;
  readonly conditionOf: (audience: string) => Condition | undefined;
  /** What keeps an audience from being evaluated. */
  readonly problemOf: (audience: string) => string | undefined;
  /** The audiences along a circle that one builds on, the first repeated at the end. */
  readonly circleOf: (audience: string) => string[] | undefined;
  readonly newIds: (content: Content) => NewId;
  /** What was found about a slot among those who come to it, so that one that an edit leaves alone is looked at once. */
  readonly found: WeakMap<Slot, Map<string, readonly Draft[]>>;
}

/** What a document is looked at with. */
export function documentContext(
  world: World,
  names: Names,
  access: Access | null | undefined,
  audiences: readonly Audience[],
  membership: Membership,
): DocumentContext {
  const byId = new Map(audiences.map((audience) => [audience.id, audience]));
  return {
    world,
    names,
    access,
    conditionOf: (id) => byId.get(id)?.condition,
    problemOf: (id) => membership.problems.get(id)?.[0]?.message,
    circleOf: (id) => findCircle(audiencesBehind(id, byId)),
    newIds: freshIds,
    found: new WeakMap(),
  };
}

/** Ids that nothing in a document has yet. */
function freshIds(content: Content): NewId {
  const taken = new Set<string>();
  for (const { node } of walkContent(content)) {
    taken.add(node.id);
    if (node.kind === 'slot') for (const { id } of node.variants) taken.add(id);
  }
  let number = 0;
  return () => {
    do number++;
    while (taken.has(`copy${number}`));
    return `copy${number}`;
  };
}
