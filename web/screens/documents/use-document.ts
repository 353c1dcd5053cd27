import { useCallback, useEffect, useRef, useState } from 'react';
import { type StoredDocument, storedDocumentSchema } from '../../../contract/documents.ts';
import type { Access, Content, Document } from '../../../core/documents/document.ts';
import { call, messageOf, RequestError, refresh } from '../../app/api.ts';
import { useHistory } from '../../app/history.ts';

export type SaveState =
  | { kind: 'saved'; at: string }
  | { kind: 'waiting' }
  | { kind: 'saving' }
  | { kind: 'refused'; message: string }
  | { kind: 'conflict'; message: string; theirs: StoredDocument };

interface Draft {
  name: string;
  slug: string;
  access: Access | null;
  collection: string | null;
  content: Content;
}

/** Changes the content; changes of one group are undone together. */
export type Edit = (update: (content: Content) => Content, group?: string) => void;

function draftOf({ name, slug, access = null, collection = null, content }: StoredDocument): Draft {
  return { name, slug, access, collection, content };
}

const pause = 500;
const retryAfter = 5000;

/**
 * A document being edited: its content with undo and redo, saved by itself a moment after each change. A save that
 * would overwrite somebody else's is held back as a conflict until the person chooses.
 */
export function useDocument(stored: StoredDocument) {
  const history = useHistory<Draft>(draftOf(stored));
  const { state: draft, change, reset } = history;
  const revision = useRef(stored.revision);
  const lastSaved = useRef(draft);
  const savedAt = useRef(stored.updatedAt);
  const saving = useRef(false);
  const [save, setSave] = useState<SaveState>({ kind: 'saved', at: stored.updatedAt });
  const [attempt, setAttempt] = useState(0);
  const blocked = save.kind === 'conflict';

  // biome-ignore lint/correctness/useExhaustiveDependencies: another attempt is a reason to try again
  useEffect(() => {
    if (blocked) return;
    if (draft === lastSaved.current) {
      // Undone, or redone, to what is stored already.
      setSave((before) => (before.kind === 'saving' ? before : { kind: 'saved', at: savedAt.current }));
      return;
    }
    setSave((before) => (before.kind === 'refused' ? before : { kind: 'waiting' }));
    const timer = setTimeout(async () => {
      if (saving.current) {
        setAttempt((number) => number + 1);
        return;
      }
      saving.current = true;
      setSave({ kind: 'saving' });
      try {
        const body = {
          revision: revision.current,
          ...draft,
          // Only a page has an address that can change, who may open it, and items that it shows.
          ...(stored.kind !== 'page' && { slug: undefined, access: undefined, collection: undefined }),
        };
        const answer = await call('PUT', `/documents/${stored.id}`, storedDocumentSchema, body);
        revision.current = answer.revision;
        lastSaved.current = draft;
        savedAt.current = answer.updatedAt;
        setSave({ kind: 'saved', at: answer.updatedAt });
        // What changed while this save was under way is looked at again.
        setAttempt((number) => number + 1);
        refresh('/documents', '/releases/pending', '/audiences', '/collections');
      } catch (error) {
        const theirs =
          error instanceof RequestError && error.status === 409
            ? storedDocumentSchema.safeParse(error.body.current).data
            : undefined;
        if (theirs) setSave({ kind: 'conflict', message: messageOf(error), theirs });
        else {
          setSave({ kind: 'refused', message: messageOf(error) });
          if (error instanceof RequestError && error.status === 0)
            setTimeout(() => setAttempt((number) => number + 1), retryAfter);
        }
      } finally {
        saving.current = false;
      }
    }, pause);
    return () => clearTimeout(timer);
  }, [draft, blocked, stored.id, stored.kind, attempt]);

  const unsaved = save.kind !== 'saved';
  useEffect(() => {
    if (!unsaved) return;
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener('beforeunload', warn);
    return () => window.removeEventListener('beforeunload', warn);
  }, [unsaved]);

  const edit: Edit = useCallback(
    (update, group) =>
      change((before) => {
        const content = update(before.content);
        return content === before.content ? before : { ...before, content };
      }, group),
    [change],
  );
  const rename = useCallback((name: string) => change((before) => ({ ...before, name }), 'name'), [change]);
  const settle = (theirs: StoredDocument, keep: 'mine' | 'theirs') => {
    revision.current = theirs.revision;
    const taken = draftOf(theirs);
    if (keep === 'theirs') {
      lastSaved.current = taken;
      change(() => taken);
      setSave({ kind: 'saved', at: theirs.updatedAt });
    } else {
      setSave({ kind: 'waiting' });
      setAttempt((number) => number + 1);
    }
  };
  const configure = useCallback(
    (part: Partial<Pick<Draft, 'slug' | 'access' | 'collection'>>) =>
      change((before) => ({ ...before, ...part }), 'slug' in part ? 'slug' : undefined),
    [change],
  );
  const document: Document = { id: stored.id, kind: stored.kind, ...draft };
  return { document, draft, history, edit, rename, configure, save, settle, reset };
}

export type EditedDocument = ReturnType<typeof useDocument>;
