import { type Editor, EditorContent, useEditor } from '@tiptap/react';
import { useEffect, useLayoutEffect, useRef, useState } from 'react';
import type { z } from 'zod';
import { type Inline, mergeFieldSchema, type TextBlock, wholeText } from '../../../core/documents/text.ts';
import { toast } from '../../parts/toast.tsx';
import type { ChooseWords } from './alternatives.tsx';
import { saidAnew } from './said-anew.ts';
import { selectedPiece } from './selected-piece.ts';
import { type Caret, extensionsFor, type MergeWords, storedLine, storedText } from './text-schema.ts';

function sayRefused(): void {
  toast.error('That does not fit here: it is too long, or a table of more than 50 columns or 500 rows.', {
    id: 'text-refused',
  });
}

function place(editor: Editor, caret: Caret): void {
  if (caret === 'all') editor.commands.selectAll();
  else if (caret === 'start') editor.commands.setTextSelection(0);
  else {
    const at = caret === 'end' ? undefined : editor.view.posAtCoords(caret)?.pos;
    editor.commands.setTextSelection(at ?? editor.state.doc.content.size);
  }
}

/** Writes words at the caret; in a text, a line of them is a paragraph. */
function write(editor: Editor, words: string): void {
  words.split('\n').forEach((line, index) => {
    if (index > 0) editor.commands.splitBlock();
    editor.view.dispatch(editor.state.tr.insertText(line));
  });
}

/** Words edited where they stand. `line` takes plain words, `inline` also bold and italic, `text` paragraphs. */
export function TextEditing(
  props: {
    label: string;
    say: MergeWords;
    choose: ChooseWords;
    onEditor: (editor: Editor | null) => void;
    onDone: () => void;
    caret: Caret;
    /**
     * What was typed before this was here, given once: it is written where the caret is. Who has gone on to another control
     * meanwhile stays there.
     */
    takeEarly: () => { readonly words: string; readonly isElsewhere: boolean };
    /** Called when editing ends and the block renders its words again. */
    onLeave: () => void;
    /** Called on a slash in an empty text. */
    onInsert: () => void;
    /** Called on Enter at the end of a heading. */
    onEnter: () => void;
  } & (
    | {
        kind: 'line' | 'inline';
        content: Inline[];
        onChange: (content: Inline[]) => void;
        /** Whether Enter at the end begins a text below. */
        goesOn?: boolean;
      }
    | { kind: 'text'; content: TextBlock[]; onChange: (content: TextBlock[]) => void }
  ),
) {
  const { onEditor, onDone, onLeave, caret } = props;
  // Before the next picture, which would have the words as they were.
  useLayoutEffect(() => onLeave, [onLeave]);
  /**
   * What was written here and has not come back yet, oldest first. Anything else comes from somewhere else, such as a
   * repair beside the page or a step back.
   */
  const own = useRef<object[]>([]);
  const shown = useRef<object>(props.content);
  const whole = props.kind === 'text' ? wholeText(props.content) : props.content;
  const latest = useRef(props);
  latest.current = props;
  /** What the reader's words are, as the document stands now. */
  const reader = useRef({ say: props.say, choose: props.choose });
  const [extensions] = useState(() =>
    extensionsFor(
      props.kind,
      (...asked) => reader.current.say(...asked),
      (slot) => reader.current.choose(slot),
      sayRefused,
    ),
  );
  const editor = useEditor({
    extensions,
    content: { type: 'doc', content: whole },
    injectCSS: false,
    enableInputRules: false,
    editorProps: {
      attributes: {
        role: 'textbox',
        'aria-label': props.label,
        'aria-multiline': String(props.kind === 'text'),
      },
      handleKeyDown: (view, event) => {
        if (event.key === 'Escape') {
          onDone();
          return true;
        }
        if (event.isComposing) return false;
        const { selection } = view.state;
        const { current: now } = latest;
        if (
          event.key === '/' &&
          now.kind !== 'line' &&
          selection.empty &&
          selection.$from.parent.content.size === 0
        ) {
          now.onInsert();
          return true;
        }
        if (event.key !== 'Enter' || now.kind === 'text') return false;
        if (
          now.goesOn &&
          selection.empty &&
          selection.$from.parentOffset === selection.$from.parent.content.size
        )
          now.onEnter();
        return true;
      },
    },
    onUpdate: ({ editor: changed }) => {
      // What can't be stored was not let in.
      if (props.kind === 'text') {
        const content = storedText(changed.getJSON()) ?? props.content;
        own.current.push(content);
        props.onChange(content);
      } else {
        const content = storedLine(changed.getJSON()) ?? props.content;
        own.current.push(content);
        props.onChange(content);
      }
    },
  });
  useEffect(() => {
    reader.current = { say: props.say, choose: props.choose };
    for (const element of editor.view.dom.querySelectorAll('.merge'))
      element.dispatchEvent(new Event(saidAnew));
  }, [props.say, props.choose, editor]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each content
  useEffect(() => {
    if (shown.current === props.content) return;
    shown.current = props.content;
    const at = own.current.indexOf(props.content);
    own.current = own.current.slice(at + 1);
    if (at >= 0) return;
    own.current = [];
    editor.commands.setContent({ type: 'doc', content: whole }, { emitUpdate: false });
  }, [props.content, editor]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: where writing begins counts once
  useEffect(() => {
    // At once, not in the next frame: who clicks and types loses no letter, and who has gone on to another field by
    // then keeps it.
    place(editor, caret);
    const early = props.takeEarly();
    if (!early.isElsewhere) editor.view.focus();
    if (early.words !== '') write(editor, early.words);
    onEditor(editor);
    return () => onEditor(null);
  }, [editor, onEditor]);
  return <EditorContent editor={editor} />;
}

/** The merge field that is selected in an editor, if one is. */
export function selectedMergeField(editor: Editor): z.infer<typeof mergeFieldSchema>['attrs'] | undefined {
  return mergeFieldSchema.shape.attrs.safeParse(selectedPiece(editor, 'mergeField')?.attrs).data;
}
