import pRetry from 'p-retry';

// What words are edited with is most of what the canvas needs, and nobody needs it before they are about to write: it is
// fetched when a pointer or a key comes near.

type TextEditor = typeof import('./block-text.tsx');

let here: TextEditor | undefined;

/** What words are edited with, once it has been fetched. */
export function textEditor(): TextEditor | undefined {
  return here;
}

let isComing = false;

/** Fetches what words are edited with, so that it is here when somebody writes. */
export function fetchTextEditor(): void {
  if (here || isComing) return;
  isComing = true;
  const settled = () => {
    isComing = false;
  };
  // Where it can't be fetched it is tried again at the next sign that somebody is about to write.
  load().then(settled, settled);
}

/**
 * Waits for what words are edited with, however long that takes.
 *
 * @param signal ends the waiting
 */
export function waitForTextEditor(signal: AbortSignal): Promise<TextEditor> {
  return pRetry(load, { retries: Number.POSITIVE_INFINITY, minTimeout: 500, maxTimeout: 4000, signal });
}

async function load(): Promise<TextEditor> {
  try {
    const [editor] = await Promise.all([import('./block-text.tsx'), import('./text-tools.tsx')]);
    here = editor;
    return editor;
  } catch (cause) {
    // An error that says nothing of its kind: one of types is taken for a fault of the program, and not tried again.
    throw new Error('What words are edited with can’t be fetched.', { cause });
  }
}
