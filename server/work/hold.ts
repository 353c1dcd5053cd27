/** A job as one process holds it. */
export interface Claim {
  readonly id: number;
  /** Which claim of the job it is: whoever has an earlier one lost the job. */
  readonly claim: number;
}

/** A claim with the time that it is kept, in milliseconds, from each time that its process is heard of. */
export interface Hold extends Claim {
  readonly lease: number;
}

/** The job is to stop, its process ends, or somebody else has it by now. */
export class Interrupted extends Error {
  constructor(readonly why: 'stopping' | 'ending' | 'lost') {
    super(`the job is interrupted: ${why}`);
  }
}
