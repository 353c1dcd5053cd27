import { useCallback, useEffect, useState, useSyncExternalStore } from 'react';
import {
  type StoredDocument,
  savedDocumentSchema,
  storedDocumentSchema,
} from '../../../contract/documents.ts';
import type { Access, Content, Document } from '../../../core/documents/document.ts';
import { call, takeStored } from '../../data/api.ts';
import { Autosave, type SaveState } from '../../data/autosave.ts';
import { useHistory } from '../../data/history.ts';
import { useOpenWork } from '../../data/open-work.ts';
import { useSaveKey } from '../../data/save-key.ts';
import { keepUnsaved } from '../../data/unsaved.ts';

export interface Draft {
  name: string;
  slug: string;
  access: Access | null;
  collection: string | null;
  content: Content;
}

/** Changes the content; changes of one group are undone together, and late ones are drawn when there is time. */
export type Edit = (update: (content: Content) => Content, group?: string, isLate?: boolean) => void;

/** The editable parts of a stored document. */
export function draftOf({ name, slug, access = null, collection = null, content }: StoredDocument): Draft {
  return { name, slug, access, collection, content };
}

/** Only a page has an address that can change, who may open it, and items that it shows. */
const onlyOfPages = { slug: undefined, access: undefined, collection: undefined };

function autosaveOf(stored: StoredDocument): Autosave<Draft, StoredDocument> {
  const path = `/documents/${stored.id}`;
  return new Autosave({
    stored,
    draftOf,
    put: async (draft, revision) => {
      const { content = draft.content, ...saved } = await call('PUT', path, savedDocumentSchema, {
        revision,
        ...draft,
        ...(stored.kind !== 'page' && onlyOfPages),
      });
      const now: StoredDocument = { ...saved, content };
      takeStored(path, now);
      return now;
    },
    conflictOf: ({ status, body }) =>
      status === 409 ? storedDocumentSchema.safeParse(body.current).data : undefined,
    keep: (unsaved) => keepUnsaved(stored.id, unsaved),
  });
}

/** A document being edited: its content with undo and redo, and autosave. */
export function useDocument(stored: StoredDocument) {
  const [autosave] = useState(() => autosaveOf(stored));
  const [store] = useState(() => (draft: Draft) => autosave.change(draft));
  const history = useHistory<Draft>(autosave.first, store);
  const { state: draft, change } = history;
  useOpenWork(autosave);
  useSaveKey(autosave.storeNow);
  useEffect(() => {
    autosave.start();
    return () => autosave.stop();
  }, [autosave]);

  const edit: Edit = useCallback(
    (update, group, isLate) =>
      change(
        (before) => {
          const content = update(before.content);
          return content === before.content ? before : { ...before, content };
        },
        group,
        isLate,
      ),
    [change],
  );
  const rename = useCallback((name: string) => change((before) => ({ ...before, name }), 'name'), [change]);
  /** Ends a conflict; either way the other version stays in the history. */
  const settle = (keep: 'mine' | 'theirs') => {
    const taken = autosave.settle(keep);
    if (keep === 'theirs') change(() => taken);
  };
  /** Goes on with what was kept from before a crash. */
  const takeUp = (kept: Draft, revision: number) => {
    change(() => kept);
    autosave.takeUp(kept, revision);
  };
  const configure = useCallback(
    (part: Partial<Pick<Draft, 'slug' | 'access' | 'collection'>>) =>
      change((before) => ({ ...before, ...part }), 'slug' in part ? 'slug' : undefined),
    [change],
  );
  const document: Document = { id: stored.id, kind: stored.kind, ...draft };
  return { document, draft, history, edit, rename, configure, settle, takeUp, autosave };
}

/** Whether a document is stored; for what shows it alone, as it changes with the first key. */
export function useSave({ autosave }: Pick<EditedDocument, 'autosave'>): SaveState<StoredDocument> {
  return useSyncExternalStore(autosave.subscribe, autosave.state);
}

export type EditedDocument = ReturnType<typeof useDocument>;
