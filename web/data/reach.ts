import { useEffect, useSyncExternalStore } from 'react';
import { mutate } from 'swr';

// Whether the server and its database can be reached, as the latest requests found.

let isOut = false;
const listeners = new Set<() => void>();

/** Records for every request whether it reached a working server. */
export function noteReach(reached: boolean): void {
  if (isOut === !reached) return;
  isOut = !reached;
  for (const listener of listeners) listener();
}

const pause = 2000;

/**
 * Whether the server or its database is out of reach. While it is, it is asked again and again; once it is back,
 * everything on screen is fetched again.
 */
export function useIsOutOfReach(): boolean {
  const now = useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => isOut,
  );
  useEffect(() => {
    if (!now) return;
    const timer = setInterval(() => {
      fetch('/health')
        .then(({ ok }) => {
          if (!ok || !isOut) return;
          noteReach(true);
          return mutate(() => true);
        })
        .catch(() => undefined);
    }, pause);
    return () => clearInterval(timer);
  }, [now]);
  return now;
}
