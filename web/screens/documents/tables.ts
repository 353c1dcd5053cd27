import { type Command, Node as EditorNode, Extension, mergeAttributes } from '@tiptap/core';
import type { EditorState, Transaction } from '@tiptap/pm/state';
import {
  addColumnAfter,
  addRowAfter,
  deleteColumn,
  deleteRow,
  deleteTable,
  goToNextCell,
  tableEditing,
} from '@tiptap/pm/tables';

declare module '@tiptap/core' {
  interface Commands<ReturnType> {
    tables: {
      insertTable: () => ReturnType;
      addRow: () => ReturnType;
      addColumn: () => ReturnType;
      removeRow: () => ReturnType;
      removeColumn: () => ReturnType;
      removeTable: () => ReturnType;
    };
  }
}

/** The part that a node has in a table, as prosemirror-tables reads it. The schema of every node is asked, also of others. */
const inTable = (name: string, tableRole: string) => ({
  extendNodeSchema: (extension: { name: string }) => (extension.name === name ? { tableRole } : {}),
});

// Cells hold no widths or spans: what is stored is rows of cells of paragraphs.
const cellAttributes = () => ({
  colspan: { default: 1, rendered: false },
  rowspan: { default: 1, rendered: false },
  colwidth: { default: null, rendered: false },
});
const cell = (name: 'tableCell' | 'tableHeader', tag: 'td' | 'th') =>
  EditorNode.create({
    name,
    content: 'paragraph+',
    isolating: true,
    addAttributes: cellAttributes,
    parseHTML: () => [{ tag }],
    renderHTML: ({ HTMLAttributes }) => [tag, mergeAttributes(HTMLAttributes), 0],
    ...inTable(name, name === 'tableCell' ? 'cell' : 'header_cell'),
  });

const tableRow = EditorNode.create({
  name: 'tableRow',
  content: '(tableCell | tableHeader)+',
  parseHTML: () => [{ tag: 'tr' }],
  renderHTML: () => ['tr', 0],
  ...inTable('tableRow', 'row'),
});

const table = EditorNode.create({
  name: 'table',
  group: 'block',
  content: 'tableRow+',
  isolating: true,
  parseHTML: () => [{ tag: 'table' }],
  renderHTML: () => ['table', ['tbody', 0]],
  ...inTable('table', 'table'),
});

type Change = (state: EditorState, dispatch?: (transaction: Transaction) => void) => boolean;
const run =
  (change: Change) =>
  (): Command =>
  ({ state, dispatch }) =>
    change(state, dispatch as ((transaction: Transaction) => void) | undefined);

const editing = Extension.create({
  name: 'tables',
  addCommands: () => ({
    insertTable:
      () =>
      ({ commands }) => {
        const one = (type: string) => ({ type, content: [{ type: 'paragraph' }] });
        const row = (type: string) => ({ type: 'tableRow', content: [one(type), one(type)] });
        return commands.insertContent({
          type: 'table',
          content: [row('tableHeader'), row('tableCell'), row('tableCell')],
        });
      },
    addRow: run(addRowAfter),
    addColumn: run(addColumnAfter),
    removeRow: run(deleteRow),
    removeColumn: run(deleteColumn),
    removeTable: run(deleteTable),
  }),
  addKeyboardShortcuts: () => ({
    Tab: ({ editor }) => goToNextCell(1)(editor.state, editor.view.dispatch),
    'Shift-Tab': ({ editor }) => goToNextCell(-1)(editor.state, editor.view.dispatch),
  }),
  addProseMirrorPlugins: () => [tableEditing()],
});

/** Tables of rows and cells, without spans. */
export const tableExtensions = [table, tableRow, cell('tableCell', 'td'), cell('tableHeader', 'th'), editing];
