import { Node as EditorNode, Extension } from '@tiptap/core';
import { Plugin } from '@tiptap/pm/state';
import StarterKit from '@tiptap/starter-kit';
import { z } from 'zod';
import { safeAddress } from '../../../core/documents/address.ts';
import {
  type Inline,
  inlinesSchema,
  type MergeLook,
  mergeLooks,
  type TextBlock,
  textBlockSchema,
} from '../../../core/documents/text.ts';
import { alternativesNode, type ChooseWords } from './alternatives.tsx';
import { saidAnew } from './said-anew.ts';
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

/** An item of a list: paragraphs only, as text is stored. */
const listItem = EditorNode.create({
  name: 'listItem',
  content: 'paragraph+',
  defining: true,
  parseHTML: () => [{ tag: 'li' }],
  renderHTML: () => ['li', 0],
  addKeyboardShortcuts() {
    return {
      Enter: () => this.editor.commands.splitListItem(this.name),
      'Shift-Tab': () => this.editor.commands.liftListItem(this.name),
    };
  },
});

/** Where writing begins: at a point on screen, before or behind all there is, or over it. */
export type Caret = { readonly left: number; readonly top: number } | 'start' | 'end' | 'all';

/** What an editor holds: a line of plain words, words that may be bold or italic, or paragraphs. */
export type TextKind = 'line' | 'inline' | 'text';

const documentOf = <Content>(content: z.ZodType<Content>) =>
  z.object({ content: z.unknown().optional() }).transform((read, context): Content => {
    const parsed = content.safeParse(read.content ?? []);
    if (parsed.success) return parsed.data;
    context.addIssue({ code: 'custom', message: parsed.error.message });
    return z.NEVER;
  });
const textDocument = documentOf(z.array(textBlockSchema));
const lineDocument = documentOf(inlinesSchema);

/** The paragraphs of an editor as they are stored; undefined where they can't be. */
export function storedText(document: unknown): TextBlock[] | undefined {
  return textDocument.safeParse(document).data;
}

/** The words of an editor of one line as they are stored; undefined where they can't be. */
export function storedLine(document: unknown): Inline[] | undefined {
  return lineDocument.safeParse(document).data;
}

/** Lets no change through that could not be stored, and says so. */
export function onlyStorable(kind: TextKind, onRefused: () => void): Plugin {
  const stored = kind === 'text' ? storedText : storedLine;
  return new Plugin({
    filterTransaction: (transaction) => {
      if (!transaction.docChanged || stored(transaction.doc.toJSON()) !== undefined) return true;
      onRefused();
      return false;
    },
  });
}

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
      let attributes: { [name: string]: unknown } = view.node.attrs;
      const show = () => {
        const look = mergeLooks.find((known) => known === attributes.look);
        const { words, missing } = say(String(attributes.attribute), String(attributes.fallback), look);
        dom.textContent = words;
        // A sign to choose it by, which is none of its words.
        if (words === '') dom.dataset.blank = '(empty)';
        else delete dom.dataset.blank;
        dom.toggleAttribute('data-missing', missing);
      };
      show();
      dom.addEventListener(saidAnew, show);
      return {
        dom,
        update: (node) => {
          if (node.type.name !== 'mergeField') return false;
          attributes = node.attrs;
          show();
          return true;
        },
      };
    },
  });
}

/** Most characters that an address may have. */
const longestAddress = 2000;

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
  listItem: false,
  listKeymap: false,
} as const;

/** Everything that an editor of a kind can hold and do. */
export function extensionsFor(kind: TextKind, say: MergeWords, choose: ChooseWords, onRefused: () => void) {
  const link = { openOnClick: false, autolink: false, linkOnPaste: false, isAllowedUri: isAllowed };
  const guard = Extension.create({
    name: 'onlyStorable',
    addProseMirrorPlugins: () => [onlyStorable(kind, onRefused)],
  });
  const common = [mergeField(say), alternativesNode(choose), guard];
  if (kind === 'text')
    return [
      StarterKit.configure({ ...without, blockquote: false, link }),
      quotation,
      listItem,
      ...tableExtensions,
      ...common,
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
      link: false,
      ...(kind === 'line' && { bold: false, italic: false }),
    }),
    ...common,
  ];
}

function isAllowed(address: string): boolean {
  return address.length <= longestAddress && safeAddress(address) !== undefined;
}
