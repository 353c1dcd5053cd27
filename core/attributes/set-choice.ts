import type { Attribute } from './attribute.ts';

/**
 * The choices of a set with one more, or one less; of an exclusive group one at most, so that a new one takes the place
 * of its fellows. The new one comes last.
 */
export function withChoice(
  attribute: Attribute,
  held: readonly string[],
  id: string,
  holds: boolean,
): string[] {
  const without = held.filter((other) => other !== id);
  if (!holds) return without;
  const groups = attribute.type === 'set' ? attribute.exclusiveGroups : [];
  const fellows = new Set(
    groups.filter(({ members }) => members.includes(id)).flatMap(({ members }) => members),
  );
  return [...without.filter((other) => !fellows.has(other)), id];
}

/** The choices of a set with more, one after another as {@link withChoice} adds them; those that are held stay in place. */
export function withChoices(
  attribute: Attribute,
  held: readonly string[],
  added: readonly string[],
): string[] {
  return added.reduce<string[]>(
    (now, id) => (now.includes(id) ? now : withChoice(attribute, now, id, true)),
    [...held],
  );
}
