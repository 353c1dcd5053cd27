/**
 * The first of so many things in an order, without sorting them all: of one million the first fifty take one comparison
 * for nearly each.
 *
 * @param count things are numbered from 0 to before this
 * @param before whether one stands before another; no two stand alike
 * @returns the numbers of the first `most` in order
 */
export function smallest(
  count: number,
  most: number,
  before: (one: number, two: number) => boolean,
): number[] {
  const kept = Math.min(most, count);
  if (kept <= 0) return [];
  // A heap whose top stands last of all that are kept.
  const heap = Array.from({ length: kept }, (_, index) => index);
  const sink = (from: number): void => {
    let at = from;
    const moving = heap[at] ?? 0;
    for (;;) {
      let child = 2 * at + 1;
      if (child >= kept) break;
      if (child + 1 < kept && before(heap[child] ?? 0, heap[child + 1] ?? 0)) child++;
      if (!before(moving, heap[child] ?? 0)) break;
      heap[at] = heap[child] ?? 0;
      at = child;
    }
    heap[at] = moving;
  };
  for (let at = (kept >>> 1) - 1; at >= 0; at--) sink(at);
  for (let thing = kept; thing < count; thing++) {
    if (!before(thing, heap[0] ?? 0)) continue;
    heap[0] = thing;
    sink(0);
  }
  return heap.sort((one, two) => (before(one, two) ? -1 : 1));
}
