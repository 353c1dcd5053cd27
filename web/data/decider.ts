import { dequal } from 'dequal';
import { useMemo, useRef } from 'react';
import { z } from 'zod';
import type { ListedAudience } from '../../contract/audiences.ts';
import { attributesSchema } from '../../contract/people.ts';
import { settingsSchema } from '../../contract/releases.ts';
import { Decider } from '../../core/deciding/decide.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { type Content, type Document, documentSchema, slotsOf } from '../../core/documents/document.ts';
import { piecesOf } from '../../core/documents/shared.ts';
import { listConditions, mergedAttributes } from '../../core/documents/uses.ts';
import { useApi } from './api.ts';
import { useAudiences, useDocuments, useLibrary } from './data.ts';

const noAudiences: ListedAudience[] = [];
const noContent: Content = { subject: [], preview: [], body: [] };

/**
 * The drafts around one document, ready for deciding in the browser as the server does. It stays the same while only words
 * change, which decide nothing; ask {@link slotsOf} for the slots as they stand.
 */
export function useDecider(document: Document | undefined): Decider | undefined {
  const { data: attributes } = useApi('/attributes', attributesSchema);
  const { data: settings } = useApi('/settings', settingsSchema);
  const { data: audiences = noAudiences } = useAudiences();
  const library = useLibrary();
  const { data: documents } = useDocuments();
  // The pages that show items say who may open these; of their words nothing is asked.
  const itemPages = useSettled(
    (documents ?? []).flatMap(({ id, kind, name, slug, access, collection }): Document[] =>
      collection ? [{ id, kind, name, slug, access, collection, content: noContent }] : [],
    ),
  );
  const decisive = useSettled(document && decisiveOf(document));
  // biome-ignore lint/correctness/useExhaustiveDependencies: of the document only what decides is looked at again
  return useMemo(() => {
    if (!attributes || !settings || !document || !library) return undefined;
    const { collections, items } = library;
    const snapshot: Snapshot = {
      settings,
      attributes,
      audiences,
      documents: [document, ...itemPages.filter(({ id }) => id !== document.id)],
      collections,
      items,
    };
    return new Decider(snapshot);
  }, [attributes, settings, audiences, decisive, library, itemPages]);
}

/** The parts of a document that decisions depend on: its slots with their audiences, and the attributes it uses. */
function decisiveOf({ id, content, collection }: Document): unknown {
  return [
    id,
    collection ?? null,
    slotsOf(content).map((slot) => [
      slot.id,
      slot.variants.map(({ id: variant, audience }) => [variant, audience]),
    ]),
    [...mergedAttributes(content)],
    listConditions(content),
  ];
}

/** The same object as before while it is equal to it. */
function useSettled<Value>(value: Value): Value {
  const held = useRef(value);
  if (!dequal(held.current, value)) held.current = value;
  return held.current;
}

/** Pieces of shared content by their id, for putting them in their place; undefined until they are there. */
export function usePieces(): ReadonlyMap<string, Content> | undefined {
  const { data } = useApi('/documents/shared', z.array(documentSchema));
  return useMemo(() => (data ? piecesOf(data) : undefined), [data]);
}
