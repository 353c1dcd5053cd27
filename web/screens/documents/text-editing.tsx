import { type Editor, EditorContent, useEditor } from '@tiptap/react';
import { useEffect } from 'react';
import { toast } from 'sonner';
import type { z } from 'zod';
import { type Inline, mergeFieldSchema, type TextBlock, wholeText } from '../../../core/documents/text.ts';
import type { ChooseWords } from './alternatives.tsx';
import { type Caret, extensionsFor, type MergeWords, storedLine, storedText } from './text-schema.ts';

function sayRefused(): void {
  toast.error('That does not fit here: it is too long, or a table of more than 50 columns or 500 rows.', {
    id: 'text-refused',
  });
}

function place(editor: Editor, caret: Caret): void {
  if (caret === 'all') editor.commands.selectAll();
  else {
    const at = caret === 'end' ? undefined : editor.view.posAtCoords(caret)?.pos;
    editor.commands.setTextSelection(at ?? editor.state.doc.content.size);
  }
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
  } & (
    | { kind: 'line' | 'inline'; content: Inline[]; onChange: (content: Inline[]) => void }
    | { kind: 'text'; content: TextBlock[]; onChange: (content: TextBlock[]) => void }
  ),
) {
  const { onEditor, onDone, caret } = props;
  const editor = useEditor({
    extensions: extensionsFor(props.kind, props.say, props.choose, sayRefused),
    content: { type: 'doc', content: props.kind === 'text' ? wholeText(props.content) : props.content },
    injectCSS: false,
    enableInputRules: false,
    editorProps: {
      attributes: {
        role: 'textbox',
        'aria-label': props.label,
        'aria-multiline': String(props.kind === 'text'),
      },
      handleKeyDown: (_view, event) => {
        if (event.key === 'Escape') {
          onDone();
          return true;
        }
        return event.key === 'Enter' && props.kind !== 'text';
      },
    },
    onUpdate: ({ editor: changed }) => {
      // What can't be stored was not let in.
      if (props.kind === 'text') props.onChange(storedText(changed.getJSON()) ?? props.content);
      else props.onChange(storedLine(changed.getJSON()) ?? props.content);
    },
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: where writing begins counts once
  useEffect(() => {
    // At once, not in the next frame: who clicks and types loses no letter, and who has gone on to another field by
    // then keeps it.
    place(editor, caret);
    editor.view.focus();
    onEditor(editor);
    return () => onEditor(null);
  }, [editor, onEditor]);
  return <EditorContent editor={editor} />;
}

/** The merge field that is selected in an editor, if one is. */
export function selectedMergeField(editor: Editor): z.infer<typeof mergeFieldSchema>['attrs'] | undefined {
  return editor.isActive('mergeField')
    ? mergeFieldSchema.shape.attrs.safeParse(editor.getAttributes('mergeField')).data
    : undefined;
}
