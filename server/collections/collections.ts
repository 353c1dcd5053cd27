import { dequal } from 'dequal';
import type { z } from 'zod';
import type { CollectionChange, ListedCollection, newCollectionSchema } from '../../contract/collections.ts';
import { type Attribute, choicesOf } from '../../core/attributes/attribute.ts';
import { unstorable } from '../../core/attributes/parse.ts';
import type { Collection, CollectionField } from '../../core/collections/collection.ts';
import { attributesIn } from '../../core/conditions/condition.ts';
import { Library } from '../../core/deciding/library.ts';
import { LibraryView } from '../../core/deciding/library-view.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { walkContent } from '../../core/documents/document.ts';
import { listConditions, listedFields, mergedAttributes } from '../../core/documents/uses.ts';
import { fresh, slug } from '../../core/exchange/slug.ts';
import { valueText } from '../../core/exchange/value-text.ts';
import { newId } from '../ids.ts';
import { converter, needsConversion } from '../people/misfits.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import { refuseGoneAudience } from '../snapshots/gone.ts';
import {
  inTransaction,
  inTransactionAmongOthers,
  type Transaction,
  waitForTurn,
} from '../store/transaction.ts';
import {
  allCollections,
  collectionAt,
  collectionFrom,
  collectionRow,
  deleteCollection,
  insertCollection,
  lockedItemsOf,
  updateCollection,
  updateItem,
} from './rows.ts';

/** The page at an address; undefined where there is none. */
export type PageAt = (
  slug: string,
  transaction: Transaction,
) => Promise<{ readonly id: string; readonly name: string } | undefined>;

/** Addresses below the site's root that the site itself answers. */
const reserved = new Set([
  'sign-in',
  'sign-out',
  'unsubscribe',
  'search',
  'files',
  'forms',
  'theme',
  'sitemap',
]);

/** Collections with their items. */
export class Collections {
  constructor(
    private readonly drafts: Drafts,
    private readonly pageAt: PageAt,
  ) {}

  async list(): Promise<ListedCollection[]> {
    const decider = await this.drafts.decider();
    const library = new Library(decider);
    const rows = await allCollections();
    const anonymous = { contact: null, signedIn: false, visit: {}, item: null, instant: Date.now() };
    const view = new LibraryView(library, anonymous);
    return rows.map((row) => {
      const collection = collectionFrom(row);
      const page = decider.snapshot.documents.find((document) => document.collection === collection.id);
      return {
        ...collection,
        revision: row.revision,
        items: library.itemsOf(collection.id).length,
        openToAll: view.openTo(collection).length,
        page: page ? { id: page.id, name: page.name } : null,
      };
    });
  }

  async create(draft: z.infer<typeof newCollectionSchema>): Promise<{ id: string }> {
    const row = await inTransactionAmongOthers(async (transaction) => {
      await refuseTakenAddress(draft.slug, undefined, this.pageAt, transaction);
      return insertCollection(
        { id: newId(), ...draft, fields: [], access: null, locked: false },
        transaction,
      );
    });
    return { id: row.id };
  }

  async change(id: string, change: CollectionChange): Promise<void> {
    const { revision, ...wanted } = change;
    const { snapshot, catalogue } = await this.drafts.decider();
    await inTransaction(async (transaction) => {
      // Before the row: a page that takes this collection waits for its turn first, too.
      await waitForTurn(transaction);
      const row = await collectionRow(id, transaction);
      if (!row) throw notFound('collection');
      await refuseTakenAddress(wanted.slug, id, this.pageAt, transaction);
      if (row.revision !== revision)
        throw new Refusal(409, 'Someone changed this collection after you opened it. Yours was not stored.', {
          current: collectionFrom(row),
        });
      const taken = new Set(catalogue.attributes.map((attribute) => attribute.id));
      const known = new Set(row.fields.map(({ attribute }) => attribute.id));
      const fields = wanted.fields.map((field): CollectionField => {
        if (known.has(field.attribute.id)) return field;
        // An id is never used again, or what was left of the old field anywhere would be taken for the new one's.
        const own = fresh(
          `${slug(row.slug).slice(0, 20)}-${slug(field.attribute.label).slice(0, 25)}-${newId()}`,
          taken,
        );
        return { ...field, attribute: { ...field.attribute, id: own } };
      });
      refuseBadFields(fields);
      const left = new Set(fields.map(({ attribute }) => attribute.id));
      for (const { attribute } of row.fields)
        if (!left.has(attribute.id)) refuseUsedField(attribute, snapshot);
      for (const { attribute } of fields) {
        const before = row.fields.find((field) => field.attribute.id === attribute.id);
        if (!before) continue;
        if (before.attribute.type !== attribute.type) refuseUsedField(before.attribute, snapshot);
        if (!dequal(before.attribute, attribute))
          await convertItems(id, before.attribute, attribute, transaction);
      }
      await forgetFields(
        id,
        row.fields.filter(({ attribute }) => !left.has(attribute.id)),
        transaction,
      );
      refuseGoneAudience(wanted.access, row.access, snapshot);
      await updateCollection(row, { ...wanted, fields, revision: revision + 1 }, transaction);
    });
  }

  /** Deletes a collection with its items. Refused where a page shows it, or an audience asks for a field of it. */
  async remove(id: string): Promise<void> {
    const snapshot = await this.drafts.snapshot();
    const { documents } = snapshot;
    for (const { attribute } of (await this.collection(id)).fields) refuseUsedField(attribute, snapshot);
    const using = documents.find(
      ({ collection, content }) =>
        collection === id ||
        [...walkContent(content)].some(({ node }) => node.kind === 'list' && node.collection === id),
    );
    if (using)
      throw new Refusal(409, `“${using.name}” shows this collection. Remove it there first, then delete it.`);
    if (!(await deleteCollection(id))) throw notFound('collection');
  }

  private async collection(id: string): Promise<Collection> {
    const row = await collectionRow(id);
    if (!row) throw notFound('collection');
    return collectionFrom(row);
  }
}

/** Refuses an address on the site that is taken by a page, a collection or the site itself. */
export async function refuseTakenAddress(
  address: string,
  except: string | undefined,
  pageAt: PageAt,
  transaction: Transaction,
): Promise<void> {
  // Pages and collections share the addresses; who makes one waits for who is making another.
  await waitForTurn(transaction);
  const [page, collection] = await Promise.all([
    pageAt(address, transaction),
    collectionAt(address, transaction),
  ]);
  const taken = [page, collection].find((row) => row && row.id !== except);
  if (reserved.has(address))
    throw new Refusal(422, `“/site/${address}” is an address of the site itself. Choose another.`, {
      fields: [{ path: 'slug', message: 'is taken' }],
    });
  if (taken)
    throw new Refusal(422, `“${taken.name}” has the address “${address}” already. Choose another.`, {
      fields: [{ path: 'slug', message: 'is taken' }],
    });
}

function refuseBadFields(fields: readonly CollectionField[]): void {
  const labels = fields.map(({ attribute }) => attribute.label.trim().toLowerCase());
  const twice = fields.find(
    ({ attribute }, at) => labels.indexOf(attribute.label.trim().toLowerCase()) !== at,
  );
  if (twice) throw new Refusal(422, `There are two fields called “${twice.attribute.label}”.`);
  for (const { attribute } of fields) {
    const words = choicesOf(attribute).map(({ label }) => label.toLowerCase());
    const again = choicesOf(attribute).find(({ label }, at) => words.indexOf(label.toLowerCase()) !== at);
    if (again) throw new Refusal(422, `“${attribute.label}” has two choices called “${again.label}”.`);
  }
  const basic = ['address', 'title', 'teaser', 'from', 'until'];
  const own = fields.find(({ attribute }) => basic.includes(attribute.label.trim().toLowerCase()));
  if (own) throw new Refusal(422, `Every item has “${own.attribute.label}” already. Choose another name.`);
  const odd = fields.find(({ use, attribute }) => use !== 'value' && attribute.type !== 'text');
  if (odd) throw new Refusal(422, `“${odd.attribute.label}” must be text to hold a picture or longer text.`);
}

function refuseUsedField(attribute: Attribute, { audiences, documents }: Snapshot): void {
  const audience = audiences.find(({ condition }) => attributesIn(condition).has(attribute.id));
  const document = documents.find(
    ({ content }) =>
      mergedAttributes(content).has(attribute.id) ||
      listedFields(content).has(attribute.id) ||
      listConditions(content).some((condition) => attributesIn(condition).has(attribute.id)),
  );
  const name = audience?.name ?? document?.name;
  if (name !== undefined)
    throw new Refusal(409, `“${name}” uses the field “${attribute.label}”. Remove it there first.`);
}

/** Takes the values of removed fields out of the items of a collection. */
async function forgetFields(
  collectionId: string,
  fields: readonly CollectionField[],
  transaction: Transaction,
): Promise<void> {
  if (fields.length === 0) return;
  const gone = new Set(fields.map(({ attribute }) => attribute.id));
  for (const row of await lockedItemsOf(collectionId, transaction)) {
    const kept = Object.entries(row.values).filter(([id]) => !gone.has(id));
    if (kept.length < Object.keys(row.values).length)
      await updateItem(row, { values: Object.fromEntries(kept) }, transaction);
  }
}

/** Makes values of items values of a changed field. Refused where one can't become one. */
async function convertItems(
  collectionId: string,
  before: Attribute,
  now: Attribute,
  transaction: Transaction,
): Promise<void> {
  const convert = needsConversion(before, now) ? converter(before, now) : (value: unknown) => value;
  for (const row of await lockedItemsOf(collectionId, transaction)) {
    const value = row.values[before.id];
    // What was not a value of the field before is not what this change is about.
    if (value === undefined || unstorable(before, value) !== undefined) continue;
    const converted = convert(value);
    const problem =
      converted === undefined ? 'can’t be made one of the new kind' : unstorable(now, converted);
    if (problem !== undefined)
      throw new Refusal(
        422,
        `“${row.title}” has “${valueText(before, value)}” as ${before.label}, which ${problem}. Change the item first.`,
      );
    if (!dequal(converted, value))
      await updateItem(row, { values: { ...row.values, [before.id]: converted } }, transaction);
  }
}
