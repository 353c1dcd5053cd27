import { messageOf, RequestError } from './api.ts';

/** Whether what is on screen is stored. */
export type SaveState<Stored> =
  | { kind: 'saved'; at: string }
  | { kind: 'waiting' | 'saving' }
  /** `again` if it is retried automatically, as when the server can't be reached or the session ended. */
  | { kind: 'refused'; message: string; again: boolean }
  | { kind: 'conflict'; message: string; theirs: Stored };

interface Versioned {
  readonly revision: number;
  readonly updatedAt: string;
}

export interface AutosaveOf<Draft, Stored extends Versioned> {
  readonly stored: Stored;
  readonly draftOf: (stored: Stored) => Draft;
  /** Stores a draft over a revision; rejects with RequestError. */
  readonly put: (draft: Draft, revision: number) => Promise<Stored>;
  /** What is stored instead, where a draft was refused because somebody else changed it. */
  readonly conflictOf: (error: RequestError) => Stored | undefined;
  /** Keeps what is not stored yet where a crash does not reach it; undefined when there is nothing to keep. */
  readonly keep: (unsaved: { draft: Draft; revision: number } | undefined) => void;
  /** Milliseconds from a change to its save, and from a failure to the next try. */
  readonly pause?: number;
  readonly retryAfter?: number;
}

/**
 * Stores a draft by itself a moment after each change, one save at a time. A save that would overwrite somebody else's is
 * held back as a conflict until the person chooses.
 */
export class Autosave<Draft, Stored extends Versioned> {
  private draft: Draft;
  /** What is known to be stored, as the very object that was sent. */
  private lastSaved: Draft;
  private revision: number;
  private savedAt: string;
  private current: SaveState<Stored>;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private saving: Promise<void> | undefined;
  private stopped = false;
  private readonly listeners = new Set<() => void>();

  constructor(private readonly of: AutosaveOf<Draft, Stored>) {
    const { stored } = of;
    this.draft = of.draftOf(stored);
    this.lastSaved = this.draft;
    this.revision = stored.revision;
    this.savedAt = stored.updatedAt;
    this.current = { kind: 'saved', at: stored.updatedAt };
  }

  get first(): Draft {
    return this.draft;
  }

  readonly state = (): SaveState<Stored> => this.current;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  get isUnsaved(): boolean {
    return this.draft !== this.lastSaved || this.saving !== undefined;
  }

  /** Takes another draft, to be stored in a moment. */
  change(draft: Draft): void {
    this.draft = draft;
    this.of.keep(draft === this.lastSaved ? undefined : { draft, revision: this.revision });
    if (this.current.kind === 'conflict' || this.saving) return;
    if (draft === this.lastSaved) {
      clearTimeout(this.timer);
      this.turn({ kind: 'saved', at: this.savedAt });
      return;
    }
    if (this.current.kind !== 'refused') this.turn({ kind: 'waiting' });
    this.schedule(this.of.pause ?? 500);
  }

  /** Stores at once what is not stored yet. */
  async flush(): Promise<boolean> {
    while (this.isUnsaved && this.current.kind !== 'conflict') {
      clearTimeout(this.timer);
      const before = this.draft;
      await this.save();
      if (this.current.kind === 'refused' && this.draft === before) return false;
    }
    return !this.isUnsaved;
  }

  /** Saves at once, as {@link flush} does, without waiting for the result. */
  readonly storeNow = (): void => void this.flush();

  /** Tries again what failed, as after signing in again. */
  again(): void {
    if (this.current.kind === 'refused') this.schedule(0);
  }

  /**
   * Ends a conflict. Mine is stored once, over what is there now, which may have changed again by then: another conflict.
   *
   * @returns the draft to go on with
   */
  settle(keep: 'mine' | 'theirs'): Draft {
    if (this.current.kind !== 'conflict') return this.draft;
    const { theirs } = this.current;
    this.revision = theirs.revision;
    this.savedAt = theirs.updatedAt;
    if (keep === 'theirs') {
      this.draft = this.of.draftOf(theirs);
      this.lastSaved = this.draft;
      this.of.keep(undefined);
      this.turn({ kind: 'saved', at: theirs.updatedAt });
    } else {
      this.turn({ kind: 'waiting' });
      this.schedule(0);
    }
    return this.draft;
  }

  /** Goes on with a draft that was made over another revision, such as one that was kept from before a crash. */
  takeUp(draft: Draft, revision: number): void {
    this.revision = revision;
    this.change(draft);
  }

  /** Stops retrying; unsaved work is kept in the browser. */
  stop(): void {
    this.stopped = true;
    clearTimeout(this.timer);
  }

  /** After {@link stop}, as where a component is mounted again. */
  start(): void {
    this.stopped = false;
    if (this.isUnsaved) this.schedule(0);
  }

  private schedule(wait: number): void {
    clearTimeout(this.timer);
    if (!this.stopped) this.timer = setTimeout(() => void this.save(), wait);
  }

  private save(): Promise<void> {
    this.saving ??= this.send().finally(() => {
      this.saving = undefined;
      // What changed while this save was under way is next.
      if (this.draft !== this.lastSaved && this.current.kind === 'saved') {
        this.turn({ kind: 'waiting' });
        this.schedule(0);
      }
    });
    return this.saving;
  }

  private async send(): Promise<void> {
    const { draft } = this;
    if (draft === this.lastSaved) return;
    this.turn({ kind: 'saving' });
    try {
      const stored = await this.of.put(draft, this.revision);
      this.revision = stored.revision;
      this.savedAt = stored.updatedAt;
      this.lastSaved = draft;
      if (this.draft === draft) this.of.keep(undefined);
      this.turn({ kind: 'saved', at: stored.updatedAt });
    } catch (error) {
      const theirs = error instanceof RequestError ? this.of.conflictOf(error) : undefined;
      if (theirs) {
        this.turn({ kind: 'conflict', message: messageOf(error), theirs });
        return;
      }
      const status = error instanceof RequestError ? error.status : undefined;
      const again = status === 0 || status === 401 || (status !== undefined && status >= 500);
      this.turn({ kind: 'refused', message: messageOf(error), again });
      if (again) this.schedule(this.of.retryAfter ?? 5000);
    }
  }

  private turn(state: SaveState<Stored>): void {
    this.current = state;
    for (const listener of this.listeners) listener();
  }
}
