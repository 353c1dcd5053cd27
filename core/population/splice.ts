import type { Numbers } from './sorted-rows.ts';

/** What moves where in an array when elements are taken out and gaps opened for others. */
export interface Splice {
  /** Runs of elements from `start` to before `end`, to be moved by `shift`, in ascending order. */
  readonly runs: readonly { readonly start: number; readonly end: number; readonly shift: number }[];
  /** The offset of each gap after the splice, in the requested order. */
  readonly gaps: Uint32Array;
  readonly length: number;
}

/**
 * Plans to take the elements at some places out and to open a gap before others; both are places as they are before,
 * ascending, and a place may have many gaps.
 */
export function prepareSplice(length: number, out: Uint32Array, before: Uint32Array): Splice {
  const runs: { start: number; end: number; shift: number }[] = [];
  const gaps = new Uint32Array(before.length);
  let [start, shift, atOut, atGap] = [0, 0, 0, 0];
  const close = (end: number): void => {
    if (end > start && shift !== 0) runs.push({ start, end, shift });
    start = end;
  };
  while (atOut < out.length || atGap < before.length) {
    const [nextOut, nextGap] = [out[atOut] ?? length, before[atGap] ?? length];
    if (atGap < before.length && nextGap <= nextOut) {
      close(nextGap);
      gaps[atGap++] = nextGap + shift++;
    } else {
      close(nextOut);
      start = nextOut + 1;
      shift--;
      atOut++;
    }
  }
  close(length);
  return { runs, gaps, length: length + before.length - out.length };
}

/**
 * Carries out a splice within the array's own memory where that is large enough, otherwise in new memory for `room`
 * elements. The gaps keep their previous content.
 */
export function spliced<Array extends Numbers>(numbers: Array, splice: Splice, room: number): Array {
  const needed = Math.max(numbers.length, splice.length);
  const whole = viewOf(numbers, needed) ?? withRoom(numbers, Math.max(needed, room));
  // Runs that move left never reach one that is still to move right, and the other way round.
  for (const { start, end, shift } of splice.runs) if (shift < 0) whole.copyWithin(start + shift, start, end);
  for (let at = splice.runs.length - 1; at >= 0; at--) {
    const run = splice.runs[at];
    if (run && run.shift > 0) whole.copyWithin(run.start + run.shift, run.start, run.end);
  }
  return whole.subarray(0, splice.length) as Array;
}

/** As many elements of the memory that an array begins; undefined where it does not hold so many. */
function viewOf<Array extends Numbers>(numbers: Array, length: number): Array | undefined {
  if (numbers.byteOffset + length * numbers.BYTES_PER_ELEMENT > numbers.buffer.byteLength) return undefined;
  const Kind = numbers.constructor as new (buffer: ArrayBufferLike, at: number, length: number) => Array;
  return new Kind(numbers.buffer, numbers.byteOffset, length);
}

function withRoom<Array extends Numbers>(numbers: Array, room: number): Array {
  const made = new (numbers.constructor as new (length: number) => Array)(room);
  made.set(numbers);
  return made;
}
