import { useEffect } from 'react';

/** Something that is being written in and stores itself. */
export interface Work {
  /** Whether something of it is not stored yet. */
  readonly isUnsaved: boolean;
  /** Stores it now; false where it can't be stored. */
  flush(): Promise<boolean>;
  /** Tries again what failed. */
  again(): void;
}

const open = new Set<Work>();
let isLeft = false;

/** Stores everything that is being written in, as before a release; false where some of it can't be stored. */
export async function storeAllWork(): Promise<boolean> {
  return (await Promise.all([...open].map((work) => work.flush()))).every(Boolean);
}

/** Tries again what could not be stored, as after signing in again. */
export function storeWorkAgain(): void {
  for (const work of open) work.again();
}

/** Reloads the page without the warning about unsaved changes: they are kept in the browser and offered after the reload. */
export function openAnew(): void {
  isLeft = true;
  window.location.reload();
}

/** Says that something is being written in, for as long as it is on screen. */
export function useOpenWork(work: Work): void {
  useEffect(() => {
    open.add(work);
    const warn = (event: BeforeUnloadEvent) => {
      if (work.isUnsaved && !isLeft) event.preventDefault();
    };
    window.addEventListener('beforeunload', warn);
    return () => {
      open.delete(work);
      window.removeEventListener('beforeunload', warn);
    };
  }, [work]);
}
