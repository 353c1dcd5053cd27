import type { Editor } from '@tiptap/react';
import { ChevronDown, ChevronLeft, ChevronRight, ExternalLink } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { preload } from 'react-dom';
import { Link, useParams } from 'react-router';
import { type StoredDocument, storedDocumentSchema } from '../../../contract/documents.ts';
import { hasText } from '../../../core/documents/blocks/blocks.ts';
import { type Content, type Document, walkContent } from '../../../core/documents/document.ts';
import { useApi } from '../../data/api.ts';
import { useAudiences, useDocuments, useLibrary, usePictures } from '../../data/data.ts';
import { useLooking } from '../../data/looking.tsx';
import { useTabTitle } from '../../data/tab-title.ts';
import { IconButton } from '../../parts/button.tsx';
import { useLookInAddress } from '../../parts/look-in-address.ts';
import { Empty } from '../../parts/notice.tsx';
import { Part } from '../../parts/part.tsx';
import { useSiteSheet } from '../../parts/rendering/shadow-host.tsx';
import { UndoButtons } from '../../parts/undo-buttons.tsx';
import { Canvas } from './canvas.tsx';
import { ConflictDialog } from './conflict-dialog.tsx';
import { EarlyWords } from './early-words.tsx';
import { Leaving } from './leaving.tsx';
import { Outline } from './outline.tsx';
import { SaveLine } from './save-line.tsx';
import { Selection } from './selection.tsx';
import { SendDialog } from './send-dialog.tsx';
import { textEditor } from './text-editor.ts';
import { useBlockEdits } from './use-block-edits.ts';
import { type EditedDocument, useDocument, useSave } from './use-document.ts';
import { useKeptFocus } from './use-kept-focus.ts';
import { usePresence } from './use-presence.ts';
import { useSelectionInAddress } from './use-selection-in-address.ts';
import { useShown } from './use-shown.ts';

const fetchTextEditor = () => void textEditor.fetch();
const nothingEarly = { words: '', isElsewhere: false };

const listOf = {
  page: { path: '/pages', label: 'All pages' },
  email: { path: '/emails', label: 'All emails' },
  shared: { path: '/shared', label: 'All shared content' },
} as const;

export function Component() {
  const { id = '' } = useParams();
  const { data, error } = useApi(`/documents/${encodeURIComponent(id)}`, storedDocumentSchema);
  useEverythingAround();
  if (error)
    return (
      <div className="p-8">
        <Empty title={error.message}>
          <Link to="/pages" className="underline">
            All pages
          </Link>
        </Empty>
      </div>
    );
  if (!data || data.id !== id) return null;
  preloadPictures(data.content);
  return <DocumentEditor key={id} stored={data} />;
}

/** How many pictures of a document are likely in view when it opens. */
const picturesInView = 4;

/** Asks for the first pictures of a document before it is rendered: they are the largest things on the canvas. */
function preloadPictures(content: Content): void {
  let found = 0;
  for (const { node } of walkContent(content)) {
    if (node.kind !== 'picture' || node.file) continue;
    preload(`/pictures/${node.picture}.svg`, { as: 'image' });
    if (++found === picturesInView) return;
  }
}

/** Opens the document as its viewer gets it, whose look is in the address of this window. */
function openPreview(id: string): void {
  const { searchParams } = new URL(window.location.href);
  searchParams.delete('block');
  window.open(`/preview/${encodeURIComponent(id)}?${searchParams}`, '_blank', 'noopener');
}

/** Asks at once, beside the document, for what it is shown with. */
function useEverythingAround(): void {
  useDocuments();
  useAudiences();
  useLibrary();
  usePictures();
  useSiteSheet();
}

function DocumentEditor({ stored }: { stored: StoredDocument }) {
  const edited = useDocument(stored);
  const { document, draft, history, rename } = edited;
  const { content } = draft;
  useTabTitle(draft.name);
  const others = usePresence(stored.id);
  const shown = useShown(stored, draft);
  const { decided, look, choiceOf } = shown;
  const blocks = useBlockEdits(content, edited, choiceOf, shown.audiences, (slot, choice) =>
    shown.force({ slot, choice }),
  );
  const { block, editing, setEditing } = blocks;
  const [editor, setEditor] = useState<Editor | null>(null);
  const { BlockText } = textEditor.here ?? {};
  const [, setTextEditorIsHere] = useState(false);
  /** What was typed before the text editor was here, and whether the keyboard went elsewhere meanwhile. */
  const early = useRef(nothingEarly);
  const [plain, setPlain] = useState(false);
  const [sending, setSending] = useState(false);
  /** In a narrow window, where the blocks stand above the page. */
  const [listed, setListed] = useState(false);

  useKeptFocus(editing, blocks.selected);
  useSelectionInAddress(content, blocks.selected, blocks.choose);
  useLookInAddress();

  // biome-ignore lint/correctness/useExhaustiveDependencies: another viewer ends what was edited for the last
  useEffect(() => setEditing(false), [look]);

  // Not under the pen: another viewer ends what is being written.
  const reader = editing ? undefined : shown.reader;
  const { change: changeLook } = useLooking();
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each reader
  useEffect(() => {
    if (reader) changeLook(reader);
  }, [reader?.person?.id, changeLook]);

  if (!decided) return null;
  const written = editing && block && hasText(block) ? block : undefined;
  const writing =
    written && BlockText
      ? {
          block: written.id,
          editor: (
            <BlockText
              key={`${written.id} ${look.person?.id ?? ''} ${look.instant ?? ''}`}
              block={written}
              caret={blocks.caret}
              takeEarly={() => {
                const { current } = early;
                early.current = nothingEarly;
                return current;
              }}
              say={shown.say}
              choose={choiceOf}
              onEditor={setEditor}
              onDone={() => setEditing(false)}
              onLeave={history.draw}
              onInsert={() => blocks.setInserting(true)}
              onEnter={() => blocks.insert('text')}
              onType={(update) => blocks.type(written.id, update)}
            />
          ),
        }
      : undefined;
  const ending = (step: () => void) => () => {
    setEditing(false);
    step();
  };

  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: where a pointer or a key comes near, somebody may be about to write
    <div
      className="grid h-full grid-cols-1 wide:grid-cols-[216px_1fr_300px]"
      onPointerOver={fetchTextEditor}
      onKeyDown={fetchTextEditor}
    >
      {written && !BlockText && (
        <EarlyWords
          key={`${written.id} ${blocks.turn}`}
          block={written}
          caret={blocks.caret}
          onCaret={blocks.setCaret}
          onType={(update) => blocks.type(written.id, update)}
          onReady={(words, hasFocus) => {
            history.draw();
            early.current = { words, isElsewhere: !hasFocus };
            setTextEditorIsHere(true);
          }}
          onDone={() => setEditing(false)}
          onInsert={() => blocks.setInserting(true)}
          onEnter={() => blocks.insert('text')}
        />
      )}
      <div id="outline" className="flex min-h-0 flex-col border-r border-line px-2 py-3">
        <Link
          to={listOf[document.kind].path}
          className="flex items-center gap-1 px-2 text-quiet hover:text-ink"
        >
          <ChevronLeft size={14} aria-hidden /> {listOf[document.kind].label}
        </Link>
        <div className="flex items-center px-1">
          <input
            aria-label={`Name of the ${document.kind}`}
            value={draft.name}
            maxLength={120}
            onChange={(event) => event.target.value.trim() !== '' && rename(event.target.value)}
            className="min-w-0 flex-1 rounded-md bg-transparent px-1 font-display text-[17px] font-semibold"
          />
          <IconButton label="Preview in a new tab" onClick={() => openPreview(stored.id)}>
            <ExternalLink size={15} />
          </IconButton>
        </div>
        <div className="flex items-center justify-between">
          <SaveLine edited={edited} others={others} />
          <UndoButtons history={{ ...history, undo: ending(history.undo), redo: ending(history.redo) }} />
        </div>
        <button
          type="button"
          aria-expanded={listed}
          onClick={() => setListed(!listed)}
          className="flex h-9 items-center gap-1 px-2 text-quiet hover:text-ink wide:hidden"
        >
          {listed ? <ChevronDown size={14} aria-hidden /> : <ChevronRight size={14} aria-hidden />} List of
          blocks
        </button>
        <div className={`mt-1 min-h-0 flex-1 ${listed ? '' : 'hidden wide:block'}`}>
          <Part name="The outline" of={content}>
            <Outline
              content={content}
              kind={document.kind}
              isItemPage={Boolean(document.collection)}
              choiceOf={choiceOf}
              selected={blocks.together}
              onSelect={blocks.select}
              onAdd={blocks.add}
              onMove={blocks.move}
            />
          </Part>
        </div>
      </div>
      <Part name="The canvas" of={content}>
        <Canvas
          stored={stored}
          edited={edited}
          shown={shown}
          decided={decided}
          blocks={blocks}
          writing={writing}
          onInserted={() => writing && editor?.commands.focus()}
          plain={plain}
          onPlain={setPlain}
        />
      </Part>
      <Part name="What is selected" of={blocks.selected}>
        <Selection
          edited={edited}
          shown={shown}
          decided={decided}
          blocks={blocks}
          editor={writing ? editor : null}
          onSend={() => setSending(true)}
        />
      </Part>
      <Unstored edited={edited} shown={shown.document} onSettle={() => setEditing(false)} />
      <SendDialog open={sending} onClose={() => setSending(false)} email={shown.document} />
    </div>
  );
}

/** What there is to decide where a document can't be stored. */
function Unstored({
  edited,
  shown,
  onSettle,
}: {
  edited: EditedDocument;
  shown: Document;
  onSettle: () => void;
}) {
  const save = useSave(edited);
  return (
    <>
      {save.kind === 'conflict' && (
        <ConflictDialog
          mine={shown}
          theirs={save.theirs}
          message={save.message}
          onSettle={(keep) => {
            onSettle();
            edited.settle(keep);
          }}
        />
      )}
      <Leaving work={edited.autosave} problem={'message' in save ? save.message : undefined} />
    </>
  );
}
