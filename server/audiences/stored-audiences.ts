import type { StoredAudience } from '../../contract/audiences.ts';
import { KeptKind } from '../snapshots/kept-kind.ts';
import type { ChangeLog } from '../store/change-log.ts';
import { storedAudiences } from './rows.ts';

/** All audiences as they are stored, of which only what changed is read again. */
export class StoredAudiences {
  private readonly kept = new KeptKind(storedAudiences);

  constructor(log: ChangeLog) {
    log.on(['audience'], (changes) => {
      for (const { ids } of changes) this.kept.forget(ids);
    });
  }

  /** By their names, for reading only. */
  all(): Promise<StoredAudience[]> {
    return this.kept.get();
  }
}
