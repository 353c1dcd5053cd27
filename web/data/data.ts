import { useMemo } from 'react';
import { z } from 'zod';
import { type ListedAudience, listedAudienceSchema } from '../../contract/audiences.ts';
import { librarySchema, listedCollectionsSchema } from '../../contract/collections.ts';
import { listedDocumentSchema, pictureSchema } from '../../contract/documents.ts';
import { attributesSchema } from '../../contract/people.ts';
import { pendingSchema, settingsSchema } from '../../contract/releases.ts';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { useApi } from './api.ts';

const audiencesSchema = z.array(listedAudienceSchema);
const documentsSchema = z.array(listedDocumentSchema);
const picturesSchema = z.array(pictureSchema);

export function useAudiences() {
  // As long as contacts are read into memory, they are counted later.
  return useApi('/audiences', audiencesSchema, {
    again: (audiences) => (audiences?.some((audience) => audience.count === null) ? 2000 : 0),
  });
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

export function audienceNames(audiences: readonly ListedAudience[] | undefined): (id: string) => string {
  const names = new Map(audiences?.map((audience) => [audience.id, audience.name]));
  return (id) => names.get(id) ?? 'a deleted audience';
}
