import { useEffect, useRef } from 'react';
import { flushSync } from 'react-dom';
import { waitForTextEditor } from './text-editor.ts';
import type { Caret } from './text-schema.ts';

/** Where a key leads in a text that nothing was typed into yet. */
function caretBy({ key, ctrlKey, metaKey }: React.KeyboardEvent): Caret | undefined {
  if (key === 'Home') return 'start';
  if (key === 'End') return 'end';
  return key.toLowerCase() === 'a' && (ctrlKey || metaKey) ? 'all' : undefined;
}

/**
 * Takes what is typed in a block while what it is edited with is still on its way.
 *
 * @param onCaret called when a key such as Home moves the caret
 * @param onReady called once the block can be edited, with what was typed and whether this field still has the focus. React
 *   renders its result at once, so that no key is lost
 * @param onLeft called with what was typed if the block is left before that
 */
export function EarlyWords({
  hasLines,
  onCaret,
  onReady,
  onLeft,
  onDone,
}: {
  /** Whether Enter begins another line. */
  hasLines: boolean;
  onCaret: (caret: Caret) => void;
  onReady: (typed: string, hasFocus: boolean) => void;
  onLeft: (typed: string) => void;
  onDone: () => void;
}) {
  const field = useRef<HTMLTextAreaElement>(null);
  const isComposing = useRef(false);
  const told = useRef({ onReady, onLeft });
  told.current = { onReady, onLeft };
  useEffect(() => {
    const { current } = field;
    if (!current) return;
    current.focus({ preventScroll: true });
    const leaving = new AbortController();
    let isTaken = false;
    const take = () => {
      isTaken = true;
      flushSync(() => told.current.onReady(current.value, document.activeElement === current));
    };
    waitForTextEditor(leaving.signal).then(
      () => {
        if (leaving.signal.aborted) return;
        // What is being composed is taken as a whole.
        if (isComposing.current) current.addEventListener('compositionend', take, { once: true });
        else take();
      },
      () => undefined,
    );
    return () => {
      leaving.abort();
      if (!isTaken && current.value !== '') told.current.onLeft(current.value);
    };
  }, []);
  return (
    <textarea
      ref={field}
      aria-label="Text of this block"
      className="fixed size-px resize-none overflow-hidden border-0 p-0 opacity-0"
      onCompositionStart={() => {
        isComposing.current = true;
      }}
      onCompositionEnd={() => {
        isComposing.current = false;
      }}
      onKeyDown={(event) => {
        if (event.key === 'Escape') onDone();
        const caret = event.currentTarget.value === '' ? caretBy(event) : undefined;
        if (caret) onCaret(caret);
        if (event.key === 'Enter' && !hasLines && !event.nativeEvent.isComposing) event.preventDefault();
      }}
    />
  );
}
