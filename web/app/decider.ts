import { useMemo, useRef } from 'react';
import { z } from 'zod';
import type { ListedAudience } from '../../contract/audiences.ts';
import { attributesSchema } from '../../contract/people.ts';
import { settingsSchema } from '../../contract/releases.ts';
import { same } from '../../core/deciding/changes.ts';
import { Decider } from '../../core/deciding/decide.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { type Content, type Document, documentSchema, slotsOf } from '../../core/documents/document.ts';
import { piecesOf } from '../../core/documents/shared.ts';
import { listConditions, mergedAttributes } from '../../core/documents/uses.ts';
import { useApi } from './api.ts';
import { useAudiences, useLibrary } from './data.ts';

const noAudiences: ListedAudience[] = [];

/**
 * The drafts around one document, ready for deciding in the browser as the server does. It stays the same while only words
 * change, which decide nothing; ask {@link slotsOf} for the slots as they stand.
 */
export function useDecider(document: Document | undefined): Decider | undefined {
  const { data: attributes } = useApi('/attributes', attributesSchema);
  const { data: settings } = useApi('/settings', settingsSchema);
  const { data: audiences = noAudiences } = useAudiences();
  const library = useLibrary();
  const decisive = useSettled(document && decisiveOf(document));
  // biome-ignore lint/correctness/useExhaustiveDependencies: of the document only what decides is looked at again
  return useMemo(() => {
    if (!attributes || !settings || !document || !library) return undefined;
    const { collections, items } = library;
    const snapshot: Snapshot = { settings, attributes, audiences, documents: [document], collections, items };
    return new Decider(snapshot);
  }, [attributes, settings, audiences, decisive, library]);
}

/** What of a document has a say in deciding it: its slots with their audiences, and the attributes it needs. */
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
  if (!same(held.current, value)) held.current = value;
  return held.current;
}

/** Pieces of shared content by their id, for putting them in their place; undefined until they are there. */
export function usePieces(): ReadonlyMap<string, Content> | undefined {
  const { data } = useApi('/documents/shared', z.array(documentSchema));
  return useMemo(() => (data ? piecesOf(data) : undefined), [data]);
}
