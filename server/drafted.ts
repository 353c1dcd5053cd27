import { draftedAudiences } from './audiences/rows.ts';
import { draftedCollections, draftedItems } from './collections/rows.ts';
import { draftedDocuments } from './documents/rows.ts';
import { draftedAttributes, draftedFacts } from './people/rows.ts';
import type { DraftedKinds } from './snapshots/drafts.ts';
import { settingOf } from './store/rows.ts';

/** What is drafted, of all features. */
export const draftedKinds: DraftedKinds = {
  attribute: draftedAttributes,
  audience: draftedAudiences,
  collection: draftedCollections,
  document: draftedDocuments,
  fact: draftedFacts,
  item: draftedItems,
  settings: () => settingOf('site'),
};
