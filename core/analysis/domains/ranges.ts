/** Ranges of whole numbers, both ends included, put together where they overlap or follow each other; in order. */
export function mergeRanges(
  ranges: readonly (readonly [from: number, to: number])[],
): [from: number, to: number][] {
  const merged: [from: number, to: number][] = [];
  for (const [from, to] of [...ranges].sort(([one], [two]) => one - two)) {
    const before = merged.at(-1);
    if (before && from <= before[1] + 1) before[1] = Math.max(before[1], to);
    else merged.push([from, to]);
  }
  return merged;
}
