import { dayLength, instantsOf, localDay, offsetsOfYear } from './calendar.ts';

/** A change of a zone's offset from UTC: clocks put forward or back, or a move to another zone. */
export interface ClockChange {
  /** The first instant of the new offset, in milliseconds since 1970 UTC. */
  readonly at: number;
  /** How far local clocks were ahead of UTC before and are from then on, in milliseconds. */
  readonly before: number;
  readonly after: number;
}

/** Every change of a zone's clocks between two instants, the last excluded, in order. */
export function clockChanges(from: number, until: number, zone: string): ClockChange[] {
  const found: ClockChange[] = [];
  const [first, last] = [new Date(from).getUTCFullYear(), new Date(until).getUTCFullYear()];
  let before = offsetsOfYear(first - 1, zone).at(-1)?.offset ?? 0;
  for (let year = first; year <= last; year++)
    for (const { from: at, offset } of offsetsOfYear(year, zone)) {
      if (offset !== before && at >= from && at < until) found.push({ at, before, after: offset });
      before = offset;
    }
  return found;
}

/**
 * The stretches of time in which local calendars show one of some days, in order and their ends excluded. Mostly that is
 * one; where clocks are put back over midnight a day is left and entered again.
 *
 * @param first and `last` are day numbers, both included
 */
export function instantsOfDays(
  first: number,
  last: number,
  zone: string,
): { readonly from: number; readonly until: number }[] {
  const bounds = new Set<number>();
  for (const day of [first, last + 1]) {
    for (const instant of instantsOf({ day, minute: 0 }, zone)) bounds.add(instant);
    // Local clocks are less than a day from UTC.
    const near = day * dayLength;
    for (const { at } of clockChanges(near - 2 * dayLength, near + 2 * dayLength, zone)) bounds.add(at);
  }
  const sorted = [...bounds].sort((left, right) => left - right);
  const found: { from: number; until: number }[] = [];
  for (const [index, from] of sorted.entries()) {
    const until = sorted[index + 1];
    const day = localDay(from, zone);
    if (until === undefined || day < first || day > last) continue;
    const before = found.at(-1);
    if (before?.until === from) before.until = until;
    else found.push({ from, until });
  }
  return found;
}
