const day = 24 * 3600 * 1000;
/** For how many days every release is kept. */
export const keptDays = 90;

/**
 * The releases that are no longer kept: of those older than 90 days all but the last of each week, which begins on a
 * Monday in UTC.
 *
 * @param releases in any order
 * @param needed those that are kept whatever their age
 * @param now an instant
 */
export function outdated(
  releases: readonly { readonly id: number; readonly createdAt: Date }[],
  needed: ReadonlySet<number>,
  now: number,
): number[] {
  const old = releases
    .filter(({ createdAt }) => now - createdAt.getTime() > keptDays * day)
    .sort((one, other) => other.id - one.id);
  const weeks = new Set<number>();
  return old.flatMap(({ id, createdAt }) => {
    // The first day of 1970 was a Thursday.
    const week = Math.floor((Math.floor(createdAt.getTime() / day) + 3) / 7);
    const isLast = !weeks.has(week);
    weeks.add(week);
    return isLast || needed.has(id) ? [] : [id];
  });
}
