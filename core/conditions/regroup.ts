import { all, any, type Condition } from './condition.ts';

/** Which way a part of a condition goes: among its fellows, into the group before it, or out of its own. */
export type Step = 'up' | 'down' | 'in' | 'out';

/** A place among the parts of a group, by the group's path. */
export interface Place {
  readonly group: string;
  /** Before the part that is now at this index; the number of parts for the end. */
  readonly at: number;
}

type Group = Extract<Condition, { kind: 'all' | 'any' }>;

/**
 * Moves a part of a condition to another place; a group that is empty afterwards goes, but for the outermost.
 *
 * @param path of the part, as in problems: `of.1.of.0`
 * @returns undefined where the part would have to hold itself, or there is no such part or group
 */
export function movePart(root: Condition, path: string, place: Place): Condition | undefined {
  const part = partAt(root, path);
  const group = partAt(root, place.group);
  if (!part || !isGroup(group)) return undefined;
  if (place.group === path || place.group.startsWith(`${path}.`)) return undefined;
  const rebuild = (node: Condition, at: string): Condition | undefined => {
    if (node.kind === 'not') {
      const inner = rebuild(node.of, join(at, 'of'));
      return inner && { ...node, of: inner };
    }
    if (!isGroup(node)) return node;
    const of: Condition[] = [];
    for (let index = 0; index <= node.of.length; index++) {
      if (at === place.group && index === place.at) of.push(part);
      const child = node.of[index];
      const childPath = join(at, `of.${index}`);
      if (!child || childPath === path) continue;
      const built = rebuild(child, childPath);
      if (built) of.push(built);
    }
    return of.length === 0 && node.of.length > 0 && at !== '' ? undefined : { ...node, of };
  };
  return rebuild(root, '');
}

/** Moves a part one step; undefined where there is no such step from there. */
export function stepPart(root: Condition, path: string, step: Step): Condition | undefined {
  const { group, index } = placeOf(path);
  const fellows = partAt(root, group);
  if (!isGroup(fellows) || index < 0) return undefined;
  switch (step) {
    case 'up':
      return index > 0 ? movePart(root, path, { group, at: index - 1 }) : undefined;
    case 'down':
      return index < fellows.of.length - 1 ? movePart(root, path, { group, at: index + 2 }) : undefined;
    case 'out': {
      // The group may stand under a “not”, which belongs to it.
      const outer = placeOf(group.replace(/(\.of)+$/, ''));
      return group === '' || outer.index < 0
        ? undefined
        : movePart(root, path, { group: outer.group, at: outer.index + 1 });
    }
    case 'in':
      return index > 0 ? intoPrevious(root, path, group, index) : undefined;
  }
}

function intoPrevious(root: Condition, path: string, group: string, index: number): Condition | undefined {
  let beforePath = join(group, `of.${index - 1}`);
  let before = partAt(root, beforePath);
  while (before?.kind === 'not' && before.of.kind !== 'test' && before.of.kind !== 'audience') {
    beforePath = join(beforePath, 'of');
    before = before.of;
  }
  if (isGroup(before)) return movePart(root, path, { group: beforePath, at: before.of.length });
  const part = partAt(root, path);
  const fellows = partAt(root, group);
  if (!before || !part || !isGroup(fellows)) return undefined;
  // Two single parts become a group of the other kind, which is why one would put them together.
  const together = fellows.kind === 'all' ? any(before, part) : all(before, part);
  return replaceAt(root, group, {
    ...fellows,
    of: [...fellows.of.slice(0, index - 1), together, ...fellows.of.slice(index + 1)],
  });
}

/** The path of a part that is there, by its identity; undefined where it is not. */
export function pathOf(root: Condition, part: Condition, at = ''): string | undefined {
  if (root === part) return at;
  if (root.kind === 'not') return pathOf(root.of, part, join(at, 'of'));
  if (!isGroup(root)) return undefined;
  for (const [index, child] of root.of.entries()) {
    const found = pathOf(child, part, join(at, `of.${index}`));
    if (found !== undefined) return found;
  }
  return undefined;
}

/** The part at a path; undefined where there is none. */
export function partAt(root: Condition, path: string): Condition | undefined {
  let node: Condition | undefined = root;
  for (const step of path === '' ? [] : path.replaceAll(/\.(\d+)/g, '#$1').split('.')) {
    const index = /^of#(\d+)$/.exec(step)?.[1];
    if (index !== undefined) node = isGroup(node) ? node.of[Number(index)] : undefined;
    else node = node?.kind === 'not' ? node.of : undefined;
  }
  return node;
}

/** A condition with another part at a path; the same where there is none. */
export function replaceAt(root: Condition, path: string, made: Condition, at = ''): Condition {
  if (at === path) return made;
  if (root.kind === 'not') return { ...root, of: replaceAt(root.of, path, made, join(at, 'of')) };
  if (!isGroup(root)) return root;
  return {
    ...root,
    of: root.of.map((child, index) => replaceAt(child, path, made, join(at, `of.${index}`))),
  };
}

/** A condition without the part at a path, and without groups that are empty then; undefined for the whole of it. */
export function withoutPart(root: Condition, path: string): Condition | undefined {
  if (path === '') return undefined;
  const rebuild = (node: Condition, at: string): Condition | undefined => {
    if (at === path) return undefined;
    if (node.kind === 'not') {
      const inner = rebuild(node.of, join(at, 'of'));
      return inner && (inner === node.of ? node : { ...node, of: inner });
    }
    if (!isGroup(node)) return node;
    const of = node.of.flatMap((child, index) => rebuild(child, join(at, `of.${index}`)) ?? []);
    const isSame = of.length === node.of.length && of.every((child, index) => child === node.of[index]);
    if (isSame) return node;
    return of.length === 0 && at !== '' ? undefined : { ...node, of };
  };
  return rebuild(root, '');
}

function placeOf(path: string): { group: string; index: number } {
  const [, group = '', index] = /^(?:(.*)\.)?of\.(\d+)$/.exec(path) ?? [];
  return { group, index: index === undefined ? -1 : Number(index) };
}

function isGroup(node: Condition | undefined): node is Group {
  return node?.kind === 'all' || node?.kind === 'any';
}

function join(path: string, step: string): string {
  return path === '' ? step : `${path}.${step}`;
}
