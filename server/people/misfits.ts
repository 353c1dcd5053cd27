import type { Attribute } from '../../core/attributes/attribute.ts';
import { parseValue, unstorable } from '../../core/attributes/parse.ts';
import { valueText } from '../../core/exchange/value-text.ts';
import { Refusal } from '../refusal.ts';
import type { Connection } from '../store/connection.ts';
import { storedValues } from './bulk-rows.ts';

/** How values of one attribute become values of another; undefined for those that don't. */
export function converter(before: Attribute, now: Attribute): (value: unknown) => unknown {
  return (value) => {
    const parsed = parseValue(now, valueText(before, value));
    return parsed.ok ? parsed.value : undefined;
  };
}

/** Whether the values of an attribute have to be converted when it changes, which may lose some of them. */
export function needsConversion(before: Attribute, now: Attribute): boolean {
  return before.type !== now.type || (isWhole(now) && !isWhole(before));
}

export function isWhole(attribute: Attribute): boolean {
  return attribute.type === 'number' && attribute.whole === true;
}

/**
 * Refuses a change of an attribute after which contacts would have values that it does not allow: proofs count on it that
 * nobody has one.
 *
 * @param change what becomes of a value
 */
export async function refuseMisfits(
  connection: Connection,
  before: Attribute,
  now: Attribute,
  change: (value: unknown) => unknown = (value) => value,
): Promise<void> {
  let [people, example, reason] = [0, '', ''];
  for (const { value, count } of await storedValues(connection, before.id)) {
    // What could not be stored before is not what this change is about.
    if (unstorable(before, value) !== undefined) continue;
    const problem = unstorable(now, change(value));
    if (problem === undefined) continue;
    people += count;
    example ||= valueText(before, value);
    reason ||= problem;
  }
  if (people > 0)
    throw new Refusal(
      422,
      `${people === 1 ? 'One person has' : `${people} people have`} a value that would not be allowed any more: “${example}” ${reason}. Change the people first.`,
    );
}
