/** Thrown where an answer would take more work than it may; nothing is known then but that it is not known. */
export class OutOfWork extends Error {}

/** A limit on the steps and the time that an answer may take. A step is about a microsecond. */
export interface Limit {
  readonly steps?: number;
  /** Milliseconds from now. */
  readonly time?: number;
}

/** What is said where an answer would have taken more time than it may, in milliseconds. */
export function notProvedWithin({ time = Number.POSITIVE_INFINITY }: Limit): string {
  return Number.isFinite(time) ? `Not proved within ${time / 1000} s` : 'Not proved';
}

/** How often the clock is looked at, in steps. */
const stepsPerLook = 2048;

/**
 * Counts the steps of working something out and stops it with {@link OutOfWork} past a limit, so that every question has
 * an answer in time, be it that there is none. Limits nest: what happens within one is bounded by those around it.
 */
export class Work {
  private done = 0;
  private nextLook: number;
  private mostSteps: number;
  private deadline: number;
  /** The time that all of it may take, in milliseconds. */
  readonly time: number;

  constructor({ steps = Number.POSITIVE_INFINITY, time = Number.POSITIVE_INFINITY }: Limit = {}) {
    this.time = time;
    this.mostSteps = steps;
    this.deadline = performance.now() + time;
    this.nextLook = Math.min(stepsPerLook, steps);
  }

  /** A part of the time that all of it may take, as a limit. */
  share(part: number): Limit {
    return { time: this.time * part };
  }

  /** Counts some steps; throws OutOfWork where they are too many or the time is up. */
  spend(steps = 1): void {
    this.done += steps;
    if (this.done >= this.nextLook) this.look();
  }

  /** Whether the time or the steps are used up. */
  get isOver(): boolean {
    return this.done > this.mostSteps || performance.now() > this.deadline;
  }

  /** The result of some work with a limit of its own; undefined where it would have taken more. */
  within<Result>(
    { steps = Number.POSITIVE_INFINITY, time = Number.POSITIVE_INFINITY }: Limit,
    work: () => Result,
  ): Result | undefined {
    if (this.isOver) return undefined;
    const { mostSteps, deadline } = this;
    this.mostSteps = Math.min(mostSteps, this.done + steps);
    this.deadline = Math.min(deadline, performance.now() + time);
    this.nextLook = Math.min(this.done + stepsPerLook, this.mostSteps);
    try {
      return work();
    } catch (error) {
      if (error instanceof OutOfWork) return undefined;
      throw error;
    } finally {
      this.mostSteps = mostSteps;
      this.deadline = deadline;
      this.nextLook = Math.min(this.done + stepsPerLook, this.mostSteps);
    }
  }

  private look(): void {
    if (this.isOver) throw new OutOfWork('this takes too long');
    this.nextLook = Math.min(this.done + stepsPerLook, this.mostSteps + 1);
  }
}
