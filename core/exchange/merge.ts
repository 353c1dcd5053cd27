import type { Value } from '../attributes/attribute.ts';
import { withChoices } from '../attributes/set-choice.ts';
import { addressKey } from './address-key.ts';
import type { ImportPlan } from './plan.ts';
import type { Given, Incoming } from './reading.ts';

/** A contact as it is stored. */
export interface Stored {
  readonly id: number;
  readonly email: string;
  readonly externalId: string | null;
  readonly values: { readonly [attribute: string]: unknown };
}

/** The names of what is no attribute in {@link Fields}. */
export const emailField = 'email';
export const externalIdField = '@id';
/** Whether mail may be sent. */
export const mailField = '@mail';

/** What changes of a contact: by attribute what was there and what is there now; null is a missing value. */
export type Fields = { readonly [field: string]: readonly [before: unknown, now: unknown] };

export type Merged =
  | { readonly kind: 'added' | 'changed'; readonly person: Omit<Stored, 'id'>; readonly fields: Fields }
  | { readonly kind: 'unchanged' }
  | { readonly kind: 'rejected'; readonly reason: string };

/**
 * What an incoming person makes of a stored one, or of nobody.
 *
 * @param byAddress who has the incoming address, who may be another than the one that is matched
 * @param byId who has the incoming id
 * @param given lists and tags that everybody in the file gets, even where known people are left as they are
 */
export function mergeIncoming(
  incoming: Incoming,
  byAddress: Stored | undefined,
  byId: Stored | undefined,
  { matchBy, known, blank }: Pick<ImportPlan, 'matchBy' | 'known' | 'blank'>,
  given: readonly Given[] = [],
): Merged {
  const stored = matchBy === 'email' ? byAddress : byId;
  const other = matchBy === 'email' ? byId : byAddress;
  if (!stored && incoming.email === undefined)
    return { kind: 'rejected', reason: 'has no email address, and nobody is known by this id' };
  const isLeft = stored !== undefined && known === 'leave';
  if (!isLeft && other && other.id !== stored?.id)
    return {
      kind: 'rejected',
      reason:
        matchBy === 'email'
          ? 'has an id that belongs to somebody with another address'
          : 'has an address that belongs to somebody with another id',
    };
  const before = stored?.values ?? {};
  const values: { [attribute: string]: unknown } = { ...before };
  const fields: { [field: string]: [unknown, unknown] } = {};
  for (const [attribute, value] of isLeft ? [] : Object.entries(incoming.values)) {
    const was = before[attribute];
    if (value === undefined) {
      if (blank === 'keep' || known === 'fill' || was === undefined) continue;
      delete values[attribute];
      fields[attribute] = [was, null];
    } else if ((known === 'overwrite' || was === undefined || !stored) && !sameValue(was, value)) {
      values[attribute] = value;
      fields[attribute] = [was ?? null, value];
    }
  }
  for (const { attribute, members } of given) {
    const held = values[attribute.id];
    const now = withChoices(attribute, Array.isArray(held) ? held : [], members);
    if (sameValue(held, now)) continue;
    values[attribute.id] = now;
    fields[attribute.id] = [before[attribute.id] ?? null, now];
  }
  const renew = (field: string, was: string | null, now: string | undefined, alike = was === now) => {
    if (isLeft || now === undefined || alike || (was !== null && known !== 'overwrite')) return was;
    fields[field] = [was, now];
    return now;
  };
  // An address with the same key is the same one; it stays as it is.
  const alike =
    stored !== undefined &&
    incoming.email !== undefined &&
    addressKey(stored.email) === addressKey(incoming.email);
  const email = renew(emailField, stored?.email ?? null, incoming.email, alike);
  const externalId = renew(externalIdField, stored?.externalId ?? null, incoming.externalId);
  if (stored && Object.keys(fields).length === 0) return { kind: 'unchanged' };
  return { kind: stored ? 'changed' : 'added', person: { email: email ?? '', externalId, values }, fields };
}

/** Whether a stored value is this one; sets are the same in any order. */
export function sameValue(stored: unknown, value: Value | null | undefined): boolean {
  if (Array.isArray(stored) && Array.isArray(value))
    return value.every((one) => stored.includes(one)) && stored.every((one) => value.includes(one));
  return stored === value || (stored === undefined && value === null);
}

/**
 * A contact as it was before some fields changed, as far as they are still what the change made of them; what was changed
 * again since is kept, and named.
 *
 * @param mayHold whether a value that was there before is still one that the field may have
 */
export function undoFields(
  now: Stored,
  fields: Fields,
  mayHold: (field: string, value: unknown) => boolean = () => true,
): { person: Omit<Stored, 'id'>; kept: string[] } {
  const values: { [attribute: string]: unknown } = { ...now.values };
  let { email, externalId } = now;
  const kept: string[] = [];
  for (const [field, [before, after]] of Object.entries(fields)) {
    const current = field === emailField ? email : field === externalIdField ? externalId : values[field];
    const isRestored =
      sameValue(current ?? null, after as Value | null) && (before === null || mayHold(field, before));
    if (!isRestored) kept.push(field);
    else if (field === emailField) email = String(before);
    else if (field === externalIdField) externalId = before === null ? null : String(before);
    else if (before === null) delete values[field];
    else values[field] = before;
  }
  return { person: { email, externalId, values }, kept };
}
