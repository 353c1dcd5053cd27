import {
  ancestorsOf,
  type Content,
  findNode,
  listsOf,
  mapLists,
  type Node,
  type RegionName,
  regionNames,
  type Slot,
  type Variant,
  walkContent,
} from './document.ts';

/** Makes ids for new nodes; passed in so that editing stays a pure function. */
export type NewId = () => string;

/**
 * A content with one node replaced by others (none removes it). Untouched parts are shared with the original;
 * when no node has the id, the same content is returned.
 */
export function replaceNode(content: Content, id: string, replace: (node: Node) => readonly Node[]): Content {
  return mapRegions(content, (nodes) => replaceIn(nodes, id, replace));
}

export function updateNode(content: Content, id: string, update: (node: Node) => Node): Content {
  return replaceNode(content, id, (node) => [update(node)]);
}

/** A content with one slot changed; anything but a slot of that id leaves it as it is. */
export function updateSlot(content: Content, id: string, update: (slot: Slot) => Slot): Content {
  return updateNode(content, id, (node) => (node.kind === 'slot' ? update(node) : node));
}

export function removeNode(content: Content, id: string): Content {
  return replaceNode(content, id, () => []);
}

/** Where a node goes: right before or after another node, or at the end of a list. */
export type Target =
  | { before: string }
  | { after: string }
  | { region: RegionName }
  | { section: string }
  | { slot: string; variant: string | null };

export function insertNode(content: Content, target: Target, node: Node): Content {
  if ('before' in target) return replaceNode(content, target.before, (found) => [node, found]);
  if ('after' in target) return replaceNode(content, target.after, (found) => [found, node]);
  if ('region' in target) return { ...content, [target.region]: [...content[target.region], node] };
  if ('section' in target)
    return updateNode(content, target.section, (found) =>
      found.kind === 'section' || found.kind === 'links'
        ? { ...found, children: [...found.children, node] }
        : found,
    );
  return updateSlot(content, target.slot, (slot) =>
    target.variant === null
      ? { ...slot, otherwise: [...slot.otherwise, node] }
      : {
          ...slot,
          variants: slot.variants.map((variant) =>
            variant.id === target.variant ? { ...variant, content: [...variant.content, node] } : variant,
          ),
        },
  );
}

/** A content with a node moved up (-1) or down (+1) among its neighbours; at an end nothing changes. */
export function moveNode(content: Content, id: string, by: -1 | 1): Content {
  const swap = (nodes: Node[]): Node[] => {
    const at = nodes.findIndex((node) => node.id === id);
    if (at < 0) return mapShared(nodes, (node) => mapLists(node, swap));
    const other = nodes[at + by];
    const node = nodes[at];
    if (!other || !node) return nodes;
    const moved = [...nodes];
    moved[at] = other;
    moved[at + by] = node;
    return moved;
  };
  return mapRegions(content, swap);
}

/**
 * Puts a slot around a block: the block becomes what everyone else sees, and a copy of it the first variant for
 * `audience`. Only a block is wrapped; a slot is left as it is.
 */
export function wrapInSlot(
  content: Content,
  id: string,
  name: string,
  audience: string,
  newId: NewId,
): Content {
  return replaceNode(content, id, (node) => {
    if (node.kind === 'slot') return [node];
    const variant: Variant = { id: newId(), audience, content: [copyNode(node, newId)] };
    return [{ kind: 'slot', id: newId(), name, variants: [variant], otherwise: [node] }];
  });
}

/** How a block is made to differ in one go. */
export type Gesture =
  /** Shown to an audience only. */
  | { kind: 'only'; audience: string }
  /** Hidden from an audience. */
  | { kind: 'hide'; audience: string }
  /** Three ways: who may, who is signed in and may not, who is signed out. */
  | { kind: 'access'; audience: string; signedIn: string };

/**
 * Puts a slot around some blocks that stand next to each other, as a gesture asks; they become one variant, and copies
 * of them stand where the others get something of their own. Nothing changes where they are not neighbours.
 */
export function wrapBy(
  content: Content,
  ids: readonly string[],
  name: string,
  gesture: Gesture,
  newId: NewId,
): Content {
  return mapRegions(content, (nodes) =>
    wrapIn(nodes, ids, (group) => {
      const copies = () => group.map((node) => copyNode(node, newId));
      const variant = (audience: string, shown: Node[]): Variant => ({
        id: newId(),
        audience,
        content: shown,
      });
      const slot = (variants: Variant[], otherwise: Node[]): Slot => ({
        kind: 'slot',
        id: newId(),
        name,
        variants,
        otherwise,
      });
      switch (gesture.kind) {
        case 'only':
          return slot([variant(gesture.audience, group)], []);
        case 'hide':
          return slot([variant(gesture.audience, [])], group);
        case 'access':
          return slot([variant(gesture.audience, group), variant(gesture.signedIn, copies())], copies());
      }
    }),
  );
}

/** Puts a slot around neighbours: they become what everyone else sees, and a copy of them the variant for an audience. */
export function wrapGroup(
  content: Content,
  ids: readonly string[],
  name: string,
  audience: string,
  newId: NewId,
): Content {
  return mapRegions(content, (nodes) =>
    wrapIn(nodes, ids, (group) => ({
      kind: 'slot',
      id: newId(),
      name,
      variants: [{ id: newId(), audience, content: group.map((node) => copyNode(node, newId)) }],
      otherwise: group,
    })),
  );
}

function wrapIn(nodes: Node[], ids: readonly string[], wrap: (group: Node[]) => Slot): Node[] {
  const at = nodes.findIndex((node) => ids.includes(node.id));
  if (at < 0) return mapShared(nodes, (node) => mapLists(node, (list) => wrapIn(list, ids, wrap)));
  const group = nodes.slice(at, at + ids.length);
  if (group.length < ids.length || !group.every((node) => ids.includes(node.id))) return nodes;
  return [...nodes.slice(0, at), wrap(group), ...nodes.slice(at + ids.length)];
}

/** Whether nodes stand next to each other in one list, so that a slot can be put around them. */
export function areNeighbours(content: Content, ids: readonly string[]): boolean {
  const isRun = (nodes: readonly Node[]): boolean => {
    const at = nodes.findIndex((node) => ids.includes(node.id));
    if (at < 0) return nodes.some((node) => listsOf(node).some(isRun));
    return nodes.slice(at, at + ids.length).filter((node) => ids.includes(node.id)).length === ids.length;
  };
  return regionNames.some((region) => isRun(content[region]));
}

/**
 * Puts a copy of one slot's variant (null: everyone else) into another slot: at the end of its precedence, or in the place
 * of what the audience gets there. Nothing is
 * copied between slots that hold different things, see {@link heldBy}.
 */
export function copyVariant(
  content: Content,
  from: { slot: string; variant: string | null },
  into: string,
  newId: NewId,
): Content {
  const source = findNode(content, from.slot);
  if (source?.kind !== 'slot' || heldBy(content, from.slot) !== heldBy(content, into)) return content;
  const variant = source.variants.find(({ id }) => id === from.variant);
  const copy = (variant?.content ?? source.otherwise).map((node) => copyNode(node, newId));
  return updateSlot(content, into, (slot) => {
    if (!variant) return { ...slot, otherwise: copy };
    const { audience } = variant;
    // An audience gets one variant of a slot.
    const variants = slot.variants.some((one) => one.audience === audience)
      ? slot.variants.map((one) => (one.audience === audience ? { ...one, content: copy } : one))
      : [...slot.variants, { id: newId(), audience, content: copy }];
    return { ...slot, variants };
  });
}

/**
 * What a node is, or holds if it is a slot: blocks, the one line of a subject, preview line or title, or some words of a
 * text. Each stands among its like only.
 */
export function heldBy(content: Content, id: string): 'blocks' | 'line' | 'words' {
  for (const { node, region, within } of walkContent(content))
    if (node.id === id) return within ? 'words' : region === 'body' ? 'blocks' : 'line';
  return 'blocks';
}

/** Where blocks go that are added beside a node: after it, after the block whose words it is among, or to the end. */
export function beside(content: Content, id: string): Target {
  const block = [...ancestorsOf(content, id).map((above) => above.id), id].findLast(
    (one) => heldBy(content, one) === 'blocks',
  );
  return block === undefined ? { region: 'body' } : { after: block };
}

/** Whether a node is a line, or a slot of lines. */
export function isOfLines(node: Node): boolean {
  if (node.kind !== 'slot') return node.kind === 'line';
  return [...node.variants.flatMap(({ content }) => content), ...node.otherwise].some(isOfLines);
}

/**
 * Gives a slot the audiences of another in that order: variants keep their content where the audience was there before,
 * new ones begin as a copy of everyone else, and those for other audiences go to the end.
 */
export function takeAudiences(
  content: Content,
  slotId: string,
  audiences: readonly string[],
  newId: NewId,
): Content {
  return updateSlot(content, slotId, (slot) => {
    const first = [...new Set(audiences)].map(
      (audience): Variant =>
        slot.variants.find((variant) => variant.audience === audience) ?? {
          id: newId(),
          audience,
          content: slot.otherwise.map((node) => copyNode(node, newId)),
        },
    );
    const rest = slot.variants.filter((variant) => !audiences.includes(variant.audience));
    return { ...slot, variants: [...first, ...rest] };
  });
}

/** How a node moves by keyboard: among its neighbours, into the section above it, out of what holds it. */
export type NodeStep = 'up' | 'down' | 'in' | 'out';

/** A content with a node moved one step; nothing changes where there is nowhere to go. */
export function stepNode(content: Content, id: string, step: NodeStep): Content {
  if (step === 'up' || step === 'down') return moveNode(content, id, step === 'up' ? -1 : 1);
  const moved = findNode(content, id);
  if (!moved) return content;
  if (step === 'out') {
    const holder = ancestorsOf(content, id).findLast(({ kind }) => kind === 'section' || kind === 'links');
    return holder ? insertNode(removeNode(content, id), { after: holder.id }, moved) : content;
  }
  const above = neighbourAbove(content, id);
  return above?.kind === 'section' || above?.kind === 'links'
    ? insertNode(removeNode(content, id), { section: above.id }, moved)
    : content;
}

function neighbourAbove(content: Content, id: string): Node | undefined {
  const find = (nodes: readonly Node[]): Node | undefined => {
    const at = nodes.findIndex((node) => node.id === id);
    if (at >= 0) return nodes[at - 1];
    for (const node of nodes)
      for (const list of listsOf(node)) {
        const found = find(list);
        if (found) return found;
      }
    return undefined;
  };
  for (const region of regionNames) {
    const found = find(content[region]);
    if (found) return found;
  }
  return undefined;
}

/**
 * Moves a block right before or after another one, wherever that stands; nothing changes where it would go into itself, or
 * where either is no block, see {@link heldBy}.
 */
export function moveBeside(
  content: Content,
  id: string,
  to: { before: string } | { after: string },
): Content {
  const moved = findNode(content, id);
  const other = 'before' in to ? to.before : to.after;
  if (!moved || id === other || holds(moved, other)) return content;
  if (heldBy(content, id) !== 'blocks' || heldBy(content, other) !== 'blocks') return content;
  return insertNode(removeNode(content, id), to, moved);
}

function holds(node: Node, id: string): boolean {
  return listsOf(node).some((list) => list.some((inner) => inner.id === id || holds(inner, id)));
}

/**
 * Adds a variant at the end of the precedence, as a copy of what `from` shows (null: everyone else). An audience that has one
 * in the slot gets no second.
 */
export function addVariant(
  content: Content,
  slotId: string,
  audience: string,
  from: string | null,
  newId: NewId,
): Content {
  return updateSlot(content, slotId, (slot) => {
    if (slot.variants.some((variant) => variant.audience === audience)) return slot;
    const source = slot.variants.find((variant) => variant.id === from)?.content ?? slot.otherwise;
    const copy = source.map((node) => copyNode(node, newId));
    return { ...slot, variants: [...slot.variants, { id: newId(), audience, content: copy }] };
  });
}

/** Moves a variant to another place in the precedence, other variants keeping their order. */
export function moveVariant(content: Content, slotId: string, variantId: string, to: number): Content {
  return updateSlot(content, slotId, (slot) => {
    const moved = slot.variants.find((variant) => variant.id === variantId);
    if (!moved) return slot;
    const variants = slot.variants.filter((variant) => variant !== moved);
    variants.splice(Math.max(0, Math.min(to, variants.length)), 0, moved);
    return { ...slot, variants };
  });
}

export function removeVariant(content: Content, slotId: string, variantId: string): Content {
  return updateSlot(content, slotId, (slot) => ({
    ...slot,
    variants: slot.variants.filter((variant) => variant.id !== variantId),
  }));
}

/** Gives a variant another audience; one that has a variant in the slot takes over that of this one. */
export function setVariantAudience(
  content: Content,
  slotId: string,
  variantId: string,
  audience: string,
): Content {
  return updateSlot(content, slotId, (slot) => {
    const before = slot.variants.find(({ id }) => id === variantId)?.audience;
    if (before === undefined || before === audience) return slot;
    return {
      ...slot,
      variants: slot.variants.map((variant) =>
        variant.id === variantId
          ? { ...variant, audience }
          : variant.audience === audience
            ? { ...variant, audience: before }
            : variant,
      ),
    };
  });
}

/** Replaces a slot by the content of one variant (null: everyone else). */
export function dissolveSlot(content: Content, slotId: string, keep: string | null): Content {
  return replaceNode(content, slotId, (node) => {
    if (node.kind !== 'slot') return [node];
    return node.variants.find((variant) => variant.id === keep)?.content ?? node.otherwise;
  });
}

/** A deep copy with new ids throughout. */
export function copyNode<Kind extends Node>(node: Kind, newId: NewId): Kind;
export function copyNode(node: Node, newId: NewId): Node {
  const copied = mapLists(node, (nodes) => nodes.map((child) => copyNode(child, newId)));
  if (copied.kind !== 'slot') return { ...copied, id: newId() };
  return {
    ...copied,
    id: newId(),
    variants: copied.variants.map((variant) => ({ ...variant, id: newId() })),
  };
}

function mapRegions(content: Content, map: (nodes: Node[]) => Node[]): Content {
  let changed = content;
  for (const region of regionNames) {
    const before = content[region];
    const after = map(before);
    if (after !== before) changed = { ...changed, [region]: after };
  }
  return changed;
}

function replaceIn(nodes: Node[], id: string, replace: (node: Node) => readonly Node[]): Node[] {
  const at = nodes.findIndex((node) => node.id === id);
  const found = nodes[at];
  if (found) return [...nodes.slice(0, at), ...replace(found), ...nodes.slice(at + 1)];
  return mapShared(nodes, (node) => mapLists(node, (inner) => replaceIn(inner, id, replace)));
}

/** Maps a list, giving back the same list when no element changed. */
function mapShared<Item>(items: Item[], map: (item: Item) => Item): Item[] {
  let changed = false;
  const mapped = items.map((item) => {
    const after = map(item);
    changed ||= after !== item;
    return after;
  });
  return changed ? mapped : items;
}
