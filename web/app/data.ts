import { useMemo } from 'react';
import { z } from 'zod';
import { type ListedAudience, listedAudienceSchema } from '../../contract/audiences.ts';
import { librarySchema, listedCollectionsSchema } from '../../contract/collections.ts';
import { listedDocumentSchema, pictureSchema } from '../../contract/documents.ts';
import { attributesSchema } from '../../contract/people.ts';
import { pendingSchema, settingsSchema } from '../../contract/releases.ts';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { Decider } from '../../core/deciding/decide.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { type Content, type Document, documentSchema } from '../../core/documents/document.ts';
import { piecesOf } from '../../core/documents/shared.ts';
import { useApi } from './api.ts';

const audiencesSchema = z.array(listedAudienceSchema);
const documentsSchema = z.array(listedDocumentSchema);
const picturesSchema = z.array(pictureSchema);
const noAudiences: ListedAudience[] = [];

export function useAudiences() {
  return useApi('/audiences', audiencesSchema);
}

export function useDocuments() {
  return useApi('/documents', documentsSchema);
}

export function usePictures() {
  return useApi('/pictures', picturesSchema).data ?? [];
}

export function usePending() {
  return useApi('/releases/pending', pendingSchema);
}

export function useCatalogue(): Catalogue | undefined {
  const { data } = useApi('/attributes', attributesSchema);
  const zone = useApi('/settings', settingsSchema).data?.zone;
  return useMemo(() => (data && zone ? new Catalogue(data, zone) : undefined), [data, zone]);
}

export function useCollections() {
  return useApi('/collections', listedCollectionsSchema);
}

/** Collections and items as they are drafted. */
export function useLibrary() {
  return useApi('/library', librarySchema).data;
}

/** The drafts around one document, ready for deciding in the browser as the server does. */
export function useDecider(document: Document | undefined): Decider | undefined {
  const { data: attributes } = useApi('/attributes', attributesSchema);
  const { data: settings } = useApi('/settings', settingsSchema);
  const { data: audiences = noAudiences } = useAudiences();
  const library = useLibrary();
  return useMemo(() => {
    if (!attributes || !settings || !document || !library) return undefined;
    const snapshot: Snapshot = { settings, attributes, audiences, documents: [document], ...library };
    return new Decider(snapshot);
  }, [attributes, settings, audiences, document, library]);
}

/** Pieces of shared content by their id, for putting them in their place; undefined until they are there. */
export function usePieces(): ReadonlyMap<string, Content> | undefined {
  const { data } = useApi('/documents/shared', z.array(documentSchema));
  return useMemo(() => (data ? piecesOf(data) : undefined), [data]);
}

export function audienceNames(audiences: readonly ListedAudience[] | undefined): (id: string) => string {
  const names = new Map(audiences?.map((audience) => [audience.id, audience.name]));
  return (id) => names.get(id) ?? 'a deleted audience';
}
