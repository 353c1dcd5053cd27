import type { Attribute } from '../attributes/attribute.ts';
import type { Audience } from '../audiences/audience.ts';
import { attributesIn, audiencesIn } from '../conditions/condition.ts';
import { areAlike } from '../deciding/alike.ts';
import type { Snapshot } from '../deciding/release.ts';

/**
 * The audiences of two snapshots that may have other people in one than in the other: their own condition, an attribute
 * that they ask for, the time zone or an audience that they build on differs, or they are in one of the two only. All
 * others have the same people in both, whoever there is.
 */
export function changedAudiences(before: Snapshot, after: Snapshot): ReadonlySet<string> {
  const old = new Map(before.audiences.map((audience) => [audience.id, audience]));
  const ids = new Set([...old.keys(), ...after.audiences.map(({ id }) => id)]);
  if (before.settings.zone !== after.settings.zone) return ids;
  const isOther = otherAttributes(before.attributes, after.attributes);
  const changed = new Set(ids);
  for (const { id, condition } of after.audiences) {
    const was = old.get(id);
    if (was && areAlike(was.condition, condition) && ![...attributesIn(condition)].some(isOther))
      changed.delete(id);
  }
  for (let spread = true; spread; ) {
    spread = false;
    for (const { id, condition } of after.audiences) {
      if (changed.has(id) || !buildsOn(condition, changed)) continue;
      changed.add(id);
      spread = true;
    }
  }
  return changed;
}

function buildsOn(condition: Audience['condition'], audiences: ReadonlySet<string>): boolean {
  return [...audiencesIn(condition)].some((id) => audiences.has(id));
}

/** Whether an attribute is defined otherwise in one of two catalogues; those that the program brings never are. */
function otherAttributes(
  before: readonly Attribute[],
  after: readonly Attribute[],
): (attribute: string) => boolean {
  const old = new Map(before.map((attribute) => [attribute.id, attribute]));
  const next = new Map(after.map((attribute) => [attribute.id, attribute]));
  return (id) => {
    const [was, is] = [old.get(id), next.get(id)];
    return was && is ? !areAlike(was, is) : was !== is;
  };
}
