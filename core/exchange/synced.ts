import type { Attribute } from '../attributes/attribute.ts';
import { parseValue } from '../attributes/parse.ts';
import { type Fields, type Merged, mergeIncoming, type Stored } from './merge.ts';
import type { Incoming } from './reading.ts';

export type ConflictRule = 'theirs' | 'ours' | 'newer';

/** A record of another system that could be read. */
export interface Synced {
  readonly incoming: Incoming & { readonly externalId: string };
  /** When it changed over there, in milliseconds since 1970 UTC. */
  readonly updatedAt: number;
}

/**
 * Reads a record of another system: `id`, `email`, `updated_at`, and the fields that attributes are filled from; lists
 * become sets, what lies in an inner object has the name `outer.inner`.
 *
 * @returns what it says of a person, or why it can't be taken
 */
export function readSynced(
  record: unknown,
  fields: { readonly [field: string]: string },
  attributeOf: (id: string) => Attribute | undefined,
): Synced | { readonly id: string; readonly reason: string } {
  if (typeof record !== 'object' || record === null || Array.isArray(record))
    return { id: '', reason: 'is no record' };
  const all = record as { [field: string]: unknown };
  const id = typeof all.id === 'string' ? all.id.slice(0, 190) : '';
  if (id === '') return { id: String(all.id ?? '').slice(0, 80), reason: 'has no id' };
  const email = typeof all.email === 'string' ? all.email.trim() : '';
  if (!/^[^\s@]+@[^\s@.,]+(\.[^\s@.,]+)+$/.test(email) || email.length > 254)
    return { id, reason: `“${email.slice(0, 60)}” is not an email address` };
  const updatedAt = typeof all.updated_at === 'string' ? Date.parse(all.updated_at) : Number.NaN;
  if (Number.isNaN(updatedAt)) return { id, reason: 'does not say when it changed' };
  const values: { [attribute: string]: Incoming['values'][string] } = {};
  for (const [field, attributeId] of Object.entries(fields)) {
    const attribute = attributeOf(attributeId);
    if (attribute?.source !== 'contact' || attribute.id === 'email') continue;
    const parsed = parseValue(attribute, textOf(fieldOf(all, field)));
    if (!parsed.ok) return { id, reason: `${field}: ${parsed.reason}` };
    values[attribute.id] = parsed.value;
  }
  return { incoming: { row: 0, email, externalId: id, values }, updatedAt };
}

/**
 * What a record makes of the contact it belongs to, who is known by its id, or else by its address while no other record
 * has taken that.
 *
 * @param here when each attribute changed here by hand since the last sync, in milliseconds since 1970 UTC
 * @returns with the attributes whose value here was kept
 */
export function mergeSynced(
  { incoming, updatedAt }: Synced,
  byAddress: Stored | undefined,
  byId: Stored | undefined,
  here: ReadonlyMap<string, number>,
  rule: ConflictRule,
): { merged: Merged; stored: Stored | undefined; kept: string[] } {
  const adopts = byId === undefined && byAddress !== undefined && byAddress.externalId === null;
  const stored = adopts ? byAddress : byId;
  const kept: string[] = [];
  const values = { ...incoming.values };
  for (const [attribute, at] of here) {
    if (!(attribute in values) || rule === 'theirs' || (rule === 'newer' && updatedAt > at)) continue;
    delete values[attribute];
    kept.push(attribute);
  }
  const merged = mergeIncoming({ ...incoming, values }, byAddress, byId, {
    matchBy: adopts ? 'email' : 'external-id',
    known: 'overwrite',
    blank: 'clear',
  });
  return { merged, stored, kept };
}

/** The attributes that a change is about, without the address and the like. */
export function attributesOf(fields: Fields): string[] {
  return Object.keys(fields).filter((field) => !field.startsWith('@') && field !== 'email');
}

function fieldOf(record: { [field: string]: unknown }, field: string): unknown {
  let value: unknown = record;
  for (const step of field.split('.'))
    value =
      typeof value === 'object' && value !== null && Object.hasOwn(value, step)
        ? (value as { [step: string]: unknown })[step]
        : undefined;
  return value;
}

function textOf(value: unknown): string {
  if (value === null || value === undefined) return '';
  return Array.isArray(value) ? value.map(String).join(';') : String(value);
}
