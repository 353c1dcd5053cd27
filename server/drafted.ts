import { itemAttributes } from '../core/collections/collection.ts';
import { type Snapshot, siteSettingsSchema, unsetSettings } from '../core/deciding/release.ts';
import { piecesOf, withShared } from '../core/documents/shared.ts';
import { draftedAudiences } from './audiences/rows.ts';
import { draftedCollections, draftedItems } from './collections/rows.ts';
import { draftedDocuments } from './documents/rows.ts';
import { draftedAttributes, draftedFacts } from './people/rows.ts';
import { settingOf } from './store/rows.ts';

/** What is drafted of all features, as one snapshot. */
export async function readDrafts(): Promise<Snapshot> {
  const [settings, attributes, audiences, documents, facts, collections, items] = await Promise.all([
    settingOf('site'),
    draftedAttributes(),
    draftedAudiences(),
    draftedDocuments(),
    draftedFacts(),
    draftedCollections(),
    draftedItems(),
  ]);
  const pieces = piecesOf(documents);
  return {
    settings: settings === undefined ? unsetSettings : siteSettingsSchema.parse(settings),
    attributes: [...attributes, ...itemAttributes(collections)],
    audiences,
    documents: documents.map((document) =>
      document.kind === 'shared' ? document : { ...document, content: withShared(document.content, pieces) },
    ),
    facts,
    collections,
    items,
  };
}
