import { isSmallest } from './size.ts';

/** One line of the table. Ratios are better when larger: subject against peer, measured in the same run. */
export interface Result {
  work: string;
  subject: string;
  peer: string;
  ratio: number;
  bar: number;
  holds: boolean;
}

export function result(work: string, subject: string, peer: string, ratio: number, bar: number): Result {
  return { work, subject, peer, ratio: Number(ratio.toPrecision(3)), bar, holds: ratio >= bar };
}

export function median(values: readonly number[]): number {
  const sorted = [...values].sort((left, right) => left - right);
  const middle = sorted.length >> 1;
  const upper = sorted[middle] ?? Number.NaN;
  return sorted.length % 2 === 1 ? upper : (upper + (sorted[middle - 1] ?? Number.NaN)) / 2;
}

/**
 * How many times faster one piece of work is than another: both run in turn, round by round, and the median of the
 * ratios of their times counts, so that a machine that slows down on the way slows both.
 *
 * @param milliseconds how long each measured round should take at least
 */
export function timesFaster(subject: () => void, peer: () => void, rounds = 9, milliseconds = 60): number {
  const repeatsFor = (work: () => void): number => {
    let repeats = 1;
    for (;;) {
      const time = timeOf(work, repeats);
      if (isSmallest || time >= milliseconds) return repeats;
      repeats = Math.ceil(repeats * Math.min(8, Math.max(1.5, (1.2 * milliseconds) / Math.max(time, 0.01))));
    }
  };
  const [subjectRepeats, peerRepeats] = [repeatsFor(subject), repeatsFor(peer)];
  const ratios = Array.from({ length: isSmallest ? 1 : rounds }, () => {
    const own = timeOf(subject, subjectRepeats) / subjectRepeats;
    const other = timeOf(peer, peerRepeats) / peerRepeats;
    return other / own;
  });
  return median(ratios);
}

function timeOf(work: () => void, repeats: number): number {
  const start = performance.now();
  for (let count = 0; count < repeats; count++) work();
  return performance.now() - start;
}

/** The median of some runs of a piece of work, in milliseconds. */
export function medianTime(work: () => void, runs: number): number {
  return median(Array.from({ length: isSmallest ? 1 : runs }, () => timeOf(work, 1)));
}
