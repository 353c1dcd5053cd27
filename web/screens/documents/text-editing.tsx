import { Node as EditorNode, type JSONContent } from '@tiptap/core';
import { type Editor, EditorContent, useEditor } from '@tiptap/react';
import StarterKit from '@tiptap/starter-kit';
import { useEffect } from 'react';
import { z } from 'zod';
import { safeAddress } from '../../../core/documents/address.ts';
import {
  type Inline,
  inlinesSchema,
  type MergeLook,
  mergeFieldSchema,
  mergeLooks,
  type TextBlock,
  textBlockSchema,
} from '../../../core/documents/text.ts';
import { alternativesNode, type ChooseWords } from './alternatives.tsx';
import { tableExtensions } from './tables.ts';

/** What a merge field shows for the person looked at. */
export type MergeWords = (
  attribute: string,
  fallback: string,
  look?: MergeLook,
) => { words: string; missing: boolean };

const oneLine = EditorNode.create({ name: 'doc', topNode: true, content: 'inline*' });

/** A quotation of paragraphs only, as text is stored. */
const quotation = EditorNode.create({
  name: 'blockquote',
  group: 'block',
  content: 'paragraph+',
  defining: true,
  parseHTML: () => [{ tag: 'blockquote' }],
  renderHTML: () => ['blockquote', 0],
});

function mergeField(say: MergeWords) {
  return EditorNode.create({
    name: 'mergeField',
    group: 'inline',
    inline: true,
    atom: true,
    addAttributes: () => ({
      attribute: { default: '' },
      fallback: { default: '' },
      look: { default: null },
    }),
    parseHTML: () => [
      {
        tag: 'span[data-merge]',
        getAttrs: (element) => ({
          attribute: element.getAttribute('data-merge'),
          fallback: element.getAttribute('data-fallback') ?? '',
          look: element.getAttribute('data-look'),
        }),
      },
    ],
    renderHTML: ({ node }) => [
      'span',
      {
        'data-merge': node.attrs.attribute,
        'data-fallback': node.attrs.fallback,
        'data-look': node.attrs.look,
      },
      `{${node.attrs.attribute}}`,
    ],
    addNodeView: () => (view) => {
      const dom = document.createElement('span');
      dom.className = 'merge';
      const show = (attributes: { [name: string]: unknown }) => {
        const look = mergeLooks.find((known) => known === attributes.look);
        const { words, missing } = say(String(attributes.attribute), String(attributes.fallback), look);
        dom.textContent = words || '(empty)';
        dom.toggleAttribute('data-missing', missing);
      };
      show(view.node.attrs);
      return {
        dom,
        update: (node) => {
          if (node.type.name !== 'mergeField') return false;
          show(node.attrs);
          return true;
        },
      };
    },
  });
}

const without = {
  heading: false,
  codeBlock: false,
  code: false,
  strike: false,
  underline: false,
  horizontalRule: false,
  gapcursor: false,
  dropcursor: false,
  trailingNode: false,
} as const;

function extensionsFor(kind: 'line' | 'inline' | 'text', say: MergeWords, choose: ChooseWords) {
  const link = { openOnClick: false, autolink: false, linkOnPaste: false, isAllowedUri: isAllowed };
  if (kind === 'text')
    return [
      StarterKit.configure({ ...without, blockquote: false, link }),
      quotation,
      ...tableExtensions,
      mergeField(say),
      alternativesNode(choose),
    ];
  return [
    oneLine,
    StarterKit.configure({
      ...without,
      blockquote: false,
      document: false,
      paragraph: false,
      hardBreak: false,
      bulletList: false,
      orderedList: false,
      listItem: false,
      listKeymap: false,
      link: false,
      ...(kind === 'line' && { bold: false, italic: false }),
    }),
    mergeField(say),
    alternativesNode(choose),
  ];
}

function isAllowed(address: string): boolean {
  return safeAddress(address) !== undefined;
}

/** Words edited where they stand. `line` takes plain words, `inline` also bold and italic, `text` paragraphs. */
export function TextEditing(
  props: {
    label: string;
    say: MergeWords;
    choose: ChooseWords;
    onEditor: (editor: Editor | null) => void;
    onDone: () => void;
  } & (
    | { kind: 'line' | 'inline'; content: Inline[]; onChange: (content: Inline[]) => void }
    | { kind: 'text'; content: TextBlock[]; onChange: (content: TextBlock[]) => void }
  ),
) {
  const { onEditor, onDone } = props;
  const editor = useEditor({
    extensions: extensionsFor(props.kind, props.say, props.choose),
    content: { type: 'doc', content: props.content } as JSONContent,
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
      const { content } = z.object({ content: z.unknown().optional() }).parse(changed.getJSON());
      if (props.kind === 'text') props.onChange(z.array(textBlockSchema).parse(content ?? []));
      else props.onChange(inlinesSchema.parse(content ?? []));
    },
  });
  useEffect(() => {
    // At once, not in the next frame: who clicks and types loses no letter, and who has gone on to another field by
    // then keeps it.
    editor.commands.setTextSelection(editor.state.doc.content.size);
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
