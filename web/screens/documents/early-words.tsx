import { useEffect, useRef } from 'react';
import { flushSync } from 'react-dom';
import { kindOf } from '../../../core/documents/blocks/blocks.ts';
import { type Block, firstWords } from '../../../core/documents/document.ts';
import { textEditor } from './text-editor.ts';
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
 * @param onType called at each change of what is typed, so that it counts as written whatever comes next
 * @param onReady called once the block can be edited, with what was typed, which is to be written where the caret is, and
 *   whether this field still has the focus. React renders its result at once, so that no key is lost
 */
export function EarlyWords({
  block,
  caret,
  onCaret,
  onType,
  onReady,
  onDone,
  onInsert,
  onEnter,
}: {
  block: Block;
  caret: Caret;
  onCaret: (caret: Caret) => void;
  onType: (update: (block: Block) => Block) => void;
  onReady: (typed: string, hasFocus: boolean) => void;
  onDone: () => void;
  /** Called on a slash in an empty text. */
  onInsert: () => void;
  /** Called on Enter in a heading. */
  onEnter: () => void;
}) {
  const field = useRef<HTMLTextAreaElement>(null);
  const isComposing = useRef(false);
  /** The block as it was before anything was typed here. */
  const before = useRef<Block>(undefined);
  const latest = useRef({ onType, onReady });
  latest.current = { onType, onReady };
  const type = (typed: string) =>
    onType((old) => {
      before.current ??= old;
      if (typed === '') return before.current;
      return kindOf(before.current).text?.write(before.current, typed, caret === 'all') ?? old;
    });
  useEffect(() => {
    const { current } = field;
    if (!current) return;
    current.focus({ preventScroll: true });
    let isLeft = false;
    const take = () =>
      flushSync(() => {
        const { current: first } = before;
        if (first) latest.current.onType(() => first);
        latest.current.onReady(current.value, document.activeElement === current);
      });
    void textEditor.fetch().then(() => {
      if (isLeft) return;
      // What is being composed is taken as a whole.
      if (isComposing.current) current.addEventListener('compositionend', take, { once: true });
      else take();
    });
    return () => {
      isLeft = true;
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
      onChange={(event) => type(event.target.value)}
      onKeyDown={(event) => {
        if (event.key === 'Escape') onDone();
        const moved = event.currentTarget.value === '' ? caretBy(event) : undefined;
        if (moved) onCaret(moved);
        if (event.nativeEvent.isComposing) return;
        const isBlank = event.currentTarget.value === '' && firstWords([block], () => '…') === '';
        if (event.key === '/' && block.kind !== 'line' && isBlank) {
          event.preventDefault();
          onInsert();
        }
        // Only a text has more than one line.
        if (event.key === 'Enter' && block.kind !== 'text') {
          event.preventDefault();
          if (block.kind === 'heading') onEnter();
        }
      }}
    />
  );
}
