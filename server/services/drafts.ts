import { type Collection, type Item, itemAttributes } from '../../core/collections/collection.ts';
import { Decider } from '../../core/deciding/decide.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { siteSettingsSchema } from '../../core/deciding/release.ts';
import type { Document } from '../../core/documents/document.ts';
import { piecesOf, withShared } from '../../core/documents/shared.ts';
import { KeptAnswer } from '../kept-answer.ts';
import {
  AttributeRow,
  AudienceRow,
  CollectionRow,
  DocumentRow,
  FactRow,
  ItemRow,
  SettingRow,
} from '../store/models.ts';

/** The drafts as one snapshot, read again after each change. */
export class Drafts {
  private readonly compiled = new KeptAnswer(async () => new Decider(await readDrafts()));

  async snapshot(): Promise<Snapshot> {
    return (await this.decider()).snapshot;
  }

  /** The drafts compiled for deciding. */
  decider(): Promise<Decider> {
    return this.compiled.get();
  }

  /** To be called after every committed change of an attribute, audience, document, collection, item, fact or setting. */
  changed(): void {
    this.compiled.forget();
  }
}

async function readDrafts(): Promise<Snapshot> {
  const [settings, attributes, audiences, documents, facts, collectionRows, itemRows] = await Promise.all([
    SettingRow.findByPk('site'),
    AttributeRow.findAll({ raw: true, order: [['position', 'ASC']] }),
    AudienceRow.findAll({ order: [['name', 'ASC']] }),
    DocumentRow.findAll({
      order: [
        ['createdAt', 'ASC'],
        ['id', 'ASC'],
      ],
    }),
    FactRow.findAll({ order: [['createdAt', 'ASC']] }),
    CollectionRow.findAll({ order: [['createdAt', 'ASC']] }),
    ItemRow.findAll({
      order: [
        ['position', 'ASC'],
        ['id', 'ASC'],
      ],
    }),
  ]);
  const stored = documents.map(documentFrom);
  const pieces = piecesOf(stored);
  const collections = collectionRows.map(collectionFrom);
  return {
    settings: siteSettingsSchema.parse(settings?.value),
    attributes: [...attributes.map((row) => row.definition), ...itemAttributes(collections)],
    audiences: audiences.map(({ id, name, description, condition }) => ({
      id,
      name,
      description,
      condition,
    })),
    documents: stored.map((document) =>
      document.kind === 'shared' ? document : { ...document, content: withShared(document.content, pieces) },
    ),
    facts: facts.map(({ id, who, also }) => ({ id, who, also })),
    collections,
    items: itemRows.map(itemFrom),
  };
}

/** A page, email or piece of shared content as it is stored, shared content still named in it. */
export function documentFrom({ id, kind, name, slug, content, access, collectionId }: DocumentRow): Document {
  return {
    id,
    kind,
    name,
    slug,
    content,
    ...(access && { access }),
    ...(collectionId && { collection: collectionId }),
  };
}

export function collectionFrom({ id, name, slug, fields, access, locked }: CollectionRow): Collection {
  return { id, name, slug, fields, access, locked: Boolean(locked) };
}

export function itemFrom(row: ItemRow): Item {
  const { id, collectionId, slug, title, teaser, values, access, position } = row;
  return {
    id,
    collection: collectionId,
    slug,
    title,
    teaser,
    values,
    access,
    from: row.publishFrom?.toISOString() ?? null,
    until: row.publishUntil?.toISOString() ?? null,
    position,
  };
}
