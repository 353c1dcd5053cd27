/** A job claimed by one process. */
export interface Claim {
  readonly id: number;
  /** The number of the claim; an earlier claim of the same job has lost it. */
  readonly claim: number;
}

/** A claim with the length of its lease, in milliseconds after each renewal. */
export interface Hold extends Claim {
  readonly lease: number;
}

/** The job was asked to stop, its process is shutting down, or another process has claimed it. */
export class Interrupted extends Error {
  constructor(readonly why: 'stopping' | 'ending' | 'lost') {
    super(`the job is interrupted: ${why}`);
  }
}
