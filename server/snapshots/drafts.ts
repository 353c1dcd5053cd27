import type { LoggedChange } from '../../contract/changes.ts';
import { Decider } from '../../core/deciding/decide.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import type { ChangeLog } from '../store/change-log.ts';
import { KeptAnswer } from '../work/kept-answer.ts';

/** The drafts as one snapshot, read again once something of it changed. */
export class Drafts {
  private readonly compiled: KeptAnswer<Decider>;

  /** @param read reads what is drafted, of all features */
  constructor(log: ChangeLog, read: () => Promise<Snapshot>) {
    this.compiled = new KeptAnswer(async () => new Decider(await read()));
    log.on(['attribute', 'audience', 'collection', 'document', 'fact', 'item', 'setting'], (changes) => {
      const isDraft = ({ kind, ids }: LoggedChange) =>
        kind !== 'setting' || ids === null || ids.includes('site');
      if (changes.some(isDraft)) this.compiled.forget();
    });
  }

  async snapshot(): Promise<Snapshot> {
    return (await this.decider()).snapshot;
  }

  /** The drafts compiled for deciding. */
  decider(): Promise<Decider> {
    return this.compiled.get();
  }
}
