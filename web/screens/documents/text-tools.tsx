import { type Editor, useEditorState } from '@tiptap/react';
import {
  Bold,
  Italic,
  Link as LinkIcon,
  List,
  ListOrdered,
  Quote,
  Split,
  Table,
  UserRound,
} from 'lucide-react';
import { useState } from 'react';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { safeAddress } from '../../../core/documents/address.ts';
import type { Block } from '../../../core/documents/document.ts';
import { Button, IconButton } from '../../parts/button.tsx';
import { AttributePicker } from '../../parts/condition/attribute-picker.tsx';
import { TextField } from '../../parts/field.tsx';
import { Popover } from '../../parts/popover.tsx';
import { AlternativesForm, insertAlternatives, selectedAlternatives } from './alternatives.tsx';
import { LookField } from './look-field.tsx';
import { selectedPiece } from './selected-piece.ts';
import { selectedMergeField } from './text-editing.tsx';
import { writingOn } from './writing-on.ts';

/** What can be done to the words that are being edited. */
export function TextTools({
  editor,
  catalogue,
  audiences,
  kind,
}: {
  editor: Editor;
  catalogue: Catalogue;
  audiences: readonly { id: string; name: string }[];
  kind: Block['kind'];
}) {
  const [inserting, setInserting] = useState(false);
  const [linking, setLinking] = useState(false);
  /** Whether the piece that is selected was put there just now, and waits for its words. */
  const [isNew, setIsNew] = useState(false);
  const state = useEditorState({
    editor,
    selector: ({ editor: current }) => ({
      bold: current.isActive('bold'),
      italic: current.isActive('italic'),
      link:
        kind === 'text' && current.isActive('link') ? String(current.getAttributes('link').href ?? '') : '',
      field: selectedMergeField(current),
      alternatives: selectedAlternatives(current),
      inTable: kind === 'text' && current.isActive('table'),
    }),
  });
  // A press on a tool must not take the caret out of the text.
  const keepFocus = (event: React.MouseEvent) => event.preventDefault();
  const tool = (pressed: boolean) => (pressed ? 'bg-ink text-paper hover:bg-ink hover:text-paper' : '');
  return (
    <div className="flex flex-col gap-2">
      <div className="flex flex-wrap items-center gap-1">
        {kind !== 'line' && (
          <>
            <IconButton
              label="Bold (Ctrl B)"
              aria-pressed={state.bold}
              className={tool(state.bold)}
              onMouseDown={keepFocus}
              onClick={() => writingOn(editor).toggleBold().run()}
            >
              <Bold size={15} />
            </IconButton>
            <IconButton
              label="Italic (Ctrl I)"
              aria-pressed={state.italic}
              className={tool(state.italic)}
              onMouseDown={keepFocus}
              onClick={() => writingOn(editor).toggleItalic().run()}
            >
              <Italic size={15} />
            </IconButton>
          </>
        )}
        {kind === 'text' && (
          <>
            <IconButton
              label="Bullet list"
              onMouseDown={keepFocus}
              onClick={() => writingOn(editor).toggleBulletList().run()}
            >
              <List size={15} />
            </IconButton>
            <IconButton
              label="Numbered list"
              onMouseDown={keepFocus}
              onClick={() => writingOn(editor).toggleOrderedList().run()}
            >
              <ListOrdered size={15} />
            </IconButton>
            <IconButton
              label="Quotation"
              onMouseDown={keepFocus}
              onClick={() => writingOn(editor).toggleWrap('blockquote').run()}
            >
              <Quote size={15} />
            </IconButton>
            {state.inTable ? (
              <TableTools editor={editor} keepFocus={keepFocus} />
            ) : (
              <IconButton
                label="Table"
                onMouseDown={keepFocus}
                onClick={() => writingOn(editor).insertTable().run()}
              >
                <Table size={15} />
              </IconButton>
            )}
            <Popover
              label="Link"
              className="w-[280px] p-3"
              open={linking}
              onOpenChange={setLinking}
              onClosed={() => editor.view.focus()}
              trigger={
                <IconButton label="Link" className={tool(state.link !== '')} onMouseDown={keepFocus}>
                  <LinkIcon size={15} />
                </IconButton>
              }
            >
              <LinkForm
                address={state.link}
                onDone={(address) => {
                  setLinking(false);
                  const chain = writingOn(editor).extendMarkRange('link');
                  if (address === '') chain.unsetLink().run();
                  else chain.setLink({ href: address }).run();
                }}
              />
            </Popover>
          </>
        )}
        <Popover
          label="Merge field"
          className="w-[580px] p-2"
          open={inserting}
          onOpenChange={setInserting}
          onClosed={() => !isNew && editor.view.focus()}
          trigger={
            <button
              type="button"
              onMouseDown={keepFocus}
              className="inline-flex h-7 items-center gap-1.5 rounded-md border border-line bg-paper px-2 text-[13px] hover:border-edge"
            >
              <UserRound size={14} aria-hidden /> Merge field
            </button>
          }
        >
          <AttributePicker
            catalogue={catalogue}
            onChoose={(attribute) => {
              setInserting(false);
              setIsNew(true);
              editor
                .chain()
                .insertContent({ type: 'mergeField', attrs: { attribute: attribute.id, fallback: '' } })
                .setNodeSelection(editor.state.selection.from)
                .run();
            }}
          />
        </Popover>
        {audiences.length > 0 && (
          <button
            type="button"
            onMouseDown={keepFocus}
            className="inline-flex h-7 items-center gap-1.5 rounded-md border border-line bg-paper px-2 text-[13px] hover:border-edge"
            onClick={() => {
              setIsNew(true);
              insertAlternatives(editor, audiences[0]?.id ?? '');
            }}
          >
            <Split size={14} aria-hidden /> Varying words
          </button>
        )}
      </div>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: Enter in any field of a piece goes back to the text */}
      <div
        className="contents"
        onBlur={() => setIsNew(false)}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && event.target instanceof HTMLInputElement) goOnBehind(editor);
        }}
      >
        {state.alternatives && (
          <AlternativesForm
            key={state.alternatives.id}
            attrs={state.alternatives}
            audiences={audiences}
            isNew={isNew}
            onChange={(attrs) => changeSelected(editor, 'alternatives', attrs)}
          />
        )}
        {state.field && (
          <LookField
            attribute={catalogue.get(state.field.attribute)}
            look={state.field.look ?? undefined}
            onChange={(look) => changeSelected(editor, 'mergeField', { look })}
          />
        )}
        {state.field && (
          <TextField
            key={isNew ? 'new' : 'known'}
            autoFocus={isNew}
            label={`Who has no ${catalogue.get(state.field.attribute)?.label ?? state.field.attribute} reads`}
            value={state.field.fallback}
            maxLength={200}
            placeholder="for example: stargazer"
            problem={state.field.fallback.trim() === '' ? 'Without a fallback they read a gap.' : undefined}
            onChange={(event) => changeSelected(editor, 'mergeField', { fallback: event.target.value })}
          />
        )}
      </div>
    </div>
  );
}

function LinkForm({ address, onDone }: { address: string; onDone: (address: string) => void }) {
  const [typed, setTyped] = useState(address);
  const bad = typed.trim() !== '' && safeAddress(typed) === undefined;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (!bad) onDone(typed.trim());
      }}
    >
      <TextField
        label="Address"
        value={typed}
        autoFocus
        onChange={(event) => setTyped(event.target.value)}
        placeholder="/site/membership or https://…"
        problem={bad ? 'Use https://, mailto:, tel: or a place on the site.' : undefined}
      />
      <Button type="submit" look="primary" disabled={bad}>
        {typed.trim() === '' ? 'Remove link' : 'Link'}
      </Button>
    </form>
  );
}

/** Goes on in the text, right behind the piece that is selected. */
function goOnBehind(editor: Editor): void {
  editor.commands.setTextSelection(editor.state.selection.to);
  editor.view.focus();
}

/** Replaces the selected piece by a changed one, which stays selected. */
function changeSelected(editor: Editor, name: string, attributes: object): void {
  const at = editor.state.selection.from;
  // The selection may have moved on before its fields were gone.
  if (!selectedPiece(editor, name)) return;
  editor.chain().updateAttributes(name, attributes).setNodeSelection(at).run();
}

/** Rows and columns of the table that the caret is in. */
function TableTools({ editor, keepFocus }: { editor: Editor; keepFocus: (event: React.MouseEvent) => void }) {
  const actions: readonly (readonly [string, () => void])[] = [
    ['Row', () => writingOn(editor).addRow().run()],
    ['Column', () => writingOn(editor).addColumn().run()],
    ['− row', () => writingOn(editor).removeRow().run()],
    ['− column', () => writingOn(editor).removeColumn().run()],
    ['− table', () => writingOn(editor).removeTable().run()],
  ];
  return (
    <span className="flex flex-wrap gap-1">
      {actions.map(([label, run]) => (
        <button
          key={label}
          type="button"
          onMouseDown={keepFocus}
          onClick={run}
          className="h-7 rounded-md border border-line bg-paper px-1.5 text-[12px] hover:border-edge"
        >
          {label.startsWith('−') ? label : `+ ${label.toLowerCase()}`}
        </button>
      ))}
    </span>
  );
}
