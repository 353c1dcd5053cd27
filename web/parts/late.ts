import pRetry from 'p-retry';
import { useEffect, useState } from 'react';

const all = new Set<Late<unknown>>();

/** A part of the studio that nobody needs before they press something. */
export class Late<Part> {
  #here: Part | undefined;
  #coming: Promise<Part> | undefined;

  constructor(private readonly load: () => Promise<Part>) {}

  /** The part, once it has been fetched. */
  get here(): Part | undefined {
    return this.#here;
  }

  /** Fetches the part, however long that takes. */
  fetch(): Promise<Part> {
    this.#coming ??= pRetry(() => this.#once(), {
      retries: Number.POSITIVE_INFINITY,
      minTimeout: 500,
      maxTimeout: 4000,
    });
    return this.#coming;
  }

  async #once(): Promise<Part> {
    try {
      this.#here = await this.load();
      return this.#here;
    } catch (cause) {
      // An error that says nothing of its kind: one of types is taken for a fault of the program, and not tried again.
      throw new Error('A part of the studio can’t be fetched.', { cause });
    }
  }
}

/** A late part that any screen may need: {@link fetchLateParts} fetches it. */
export function late<Part>(load: () => Promise<Part>): Late<Part> {
  const made = new Late(load);
  all.add(made);
  return made;
}

let isAsked = false;

/** Fetches what any screen may need, as when a pointer moves or a key is pressed for the first time. */
export function fetchLateParts(): void {
  if (isAsked) return;
  isAsked = true;
  for (const part of all) void part.fetch();
}

/**
 * A late part once it is wanted and has been fetched. What is on screen meanwhile stays until then: a part that only happens
 * to be here does not take its place.
 */
export function useLate<Part>(of: Late<Part>, isWanted: boolean): Part | undefined {
  const [part, setPart] = useState(() => of.here);
  useEffect(() => {
    if (!isWanted || part !== undefined) return;
    let isGone = false;
    void of.fetch().then((fetched) => {
      if (!isGone) setPart(() => fetched);
    });
    return () => {
      isGone = true;
    };
  }, [of, isWanted, part]);
  return part;
}
