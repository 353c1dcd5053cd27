/** Rows that have a value, in the order of their values: each counted into the place of its value among all. */
export function sortRows(values: Float64Array): Uint32Array {
  const known = values.filter((value) => !Number.isNaN(value)).sort();
  // Equal values share a start, which moves on as they are placed.
  const placed = new Uint32Array(known.length);
  const order = new Uint32Array(known.length);
  for (let row = 0; row < values.length; row++) {
    const value = values[row] ?? Number.NaN;
    if (Number.isNaN(value)) continue;
    const start = lowerBound(known, value);
    const before = placed[start] ?? 0;
    order[start + before] = row;
    placed[start] = before + 1;
  }
  return order;
}

export function lowerBound(sorted: Float64Array, value: number): number {
  return placeOf(sorted, value, 0, sorted.length);
}

export function upperBound(sorted: Float64Array, value: number): number {
  let [low, high] = [0, sorted.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if ((sorted[middle] ?? 0) <= value) low = middle + 1;
    else high = middle;
  }
  return low;
}

export type Numbers = Int32Array | Uint32Array | Float64Array;

/** The same numbers with room for so many, new ones being zero. */
export function grown<Array extends Numbers>(numbers: Array, length: number): Array {
  if (numbers.length >= length) return numbers;
  const made = new (numbers.constructor as new (length: number) => Array)(length);
  made.set(numbers);
  return made;
}

/** The first place, from `low` to before `high`, that holds this or more; `high` where all hold less. */
export function placeOf(sorted: Numbers, value: number, low: number, high: number): number {
  let [from, to] = [low, high];
  while (from < to) {
    const middle = (from + to) >>> 1;
    if ((sorted[middle] ?? 0) < value) from = middle + 1;
    else to = middle;
  }
  return from;
}
