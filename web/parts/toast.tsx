import { lazy, Suspense, useEffect, useSyncExternalStore } from 'react';
import type { ExternalToast } from 'sonner';

// Short messages. What shows them is loaded with the first one; most visits to the studio have none.

type Show = (sonner: typeof import('sonner')) => unknown;

let isWanted = false;
let waiting: Show[] = [];
let shown: typeof import('sonner') | undefined;
const listeners = new Set<() => void>();

function show(message: Show): void {
  if (shown) {
    message(shown);
    return;
  }
  waiting.push(message);
  isWanted = true;
  for (const listener of listeners) listener();
}

/** Shows a short message that disappears after a while. */
export function toast(words: string, more?: ExternalToast): void {
  show((sonner) => sonner.toast(words, more));
}

/** Tells that something is done. */
toast.success = (words: string, more?: ExternalToast): void => {
  show((sonner) => sonner.toast.success(words, more));
};

/** Tells what went wrong. */
toast.error = (words: string, more?: ExternalToast): void => {
  show((sonner) => sonner.toast.error(words, more));
};

const Shown = lazy(async () => {
  const sonner = await import('sonner');
  return {
    default: () => {
      useEffect(() => {
        shown = sonner;
        for (const message of waiting) message(sonner);
        waiting = [];
        return () => {
          shown = undefined;
        };
      }, []);
      return <sonner.Toaster position="top-center" offset={60} toastOptions={{ className: 'font-sans' }} />;
    },
  };
});

/** Where the messages are shown. */
export function Toasts() {
  const wanted = useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => isWanted,
  );
  return <Suspense>{wanted && <Shown />}</Suspense>;
}
