import { dequal } from 'dequal';
import type { z } from 'zod';
import type {
  ItemDraft,
  ItemImportReport,
  itemChangeSchema,
  itemImportSchema,
  StoredItem,
} from '../../contract/collections.ts';
import { unstorable } from '../../core/attributes/parse.ts';
import type { Collection, Item } from '../../core/collections/collection.ts';
import { readItems, writeItems } from '../../core/collections/exchange.ts';
import { newId } from '../ids.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import { refuseGoneAudience } from '../snapshots/gone.ts';
import { inTransaction, type Transaction } from '../store/transaction.ts';
import {
  collectionFrom,
  collectionRow,
  deleteItem,
  type ItemRow,
  insertItem,
  itemAt,
  itemFrom,
  itemRow,
  itemsOf,
  lockedItemsOf,
  moveItem,
  updateItem,
} from './rows.ts';

/** The items of collections. */
export class Items {
  constructor(private readonly drafts: Drafts) {}

  async of(id: string): Promise<StoredItem[]> {
    if (!(await collectionRow(id))) throw notFound('collection');
    return (await itemsOf(id)).map(stored);
  }

  async add(collectionId: string, draft: ItemDraft): Promise<StoredItem> {
    const snapshot = await this.drafts.snapshot();
    refuseGoneAudience(draft.access, null, snapshot);
    refuseGoneAudience(draft.listed?.audience, null, snapshot);
    const row = await inTransaction(async (transaction) => {
      refuseBadItem(draft, await lockedCollection(collectionId, transaction));
      await refuseTakenItem(collectionId, draft.slug, undefined, transaction);
      return insertItem({ id: newId(), collectionId, ...rowOf(draft) }, transaction);
    });
    return stored(row);
  }

  async change(id: string, change: z.infer<typeof itemChangeSchema>): Promise<StoredItem> {
    const { revision, ...draft } = change;
    const snapshot = await this.drafts.snapshot();
    const saved = await inTransaction(async (transaction) => {
      const row = await itemRow(id, transaction);
      if (!row) throw notFound('item');
      if (row.revision !== revision)
        throw new Refusal(409, `Someone changed “${row.title}” after you opened it. Yours was not stored.`, {
          current: stored(row),
        });
      refuseBadItem(draft, await lockedCollection(row.collectionId, transaction));
      refuseGoneAudience(draft.access, row.access, snapshot);
      refuseGoneAudience(draft.listed?.audience, row.listed?.audience, snapshot);
      await refuseTakenItem(row.collectionId, draft.slug, id, transaction);
      return updateItem(row, { ...rowOf(draft), revision: revision + 1 }, transaction);
    });
    return stored(saved);
  }

  async remove(id: string): Promise<void> {
    if (!(await deleteItem(id))) throw notFound('item');
  }

  async order(collectionId: string, ids: readonly string[]): Promise<void> {
    await inTransaction(async (transaction) => {
      const rows = await lockedItemsOf(collectionId, transaction);
      const left = new Set(rows.map(({ id }) => id));
      if (ids.length !== left.size || !ids.every((id) => left.delete(id)))
        throw new Refusal(409, 'Items came or went meanwhile. Look at the new list, then put it in order.');
      for (const [position, id] of ids.entries()) await moveItem(id, position, transaction);
    });
  }

  async export(id: string, kind: 'csv' | 'json'): Promise<{ text: string; name: string }> {
    const collection = await this.collection(id);
    const items = (await this.of(id)).map(({ revision: _r, updatedAt: _u, ...item }) => item);
    return { text: writeItems(kind, collection, items), name: `${collection.slug}.${kind}` };
  }

  /** Reads items from a file: those whose address is known are changed, others added. All of it or nothing. */
  async import(
    id: string,
    { kind, text, apply }: z.infer<typeof itemImportSchema>,
  ): Promise<ItemImportReport> {
    const collection = await this.collection(id);
    const read = readItems(kind, text, collection);
    const report = { added: 0, changed: 0, unchanged: 0, problems: [...read.problems], applied: apply };
    await inTransaction(async (transaction) => {
      Object.assign(report, { added: 0, changed: 0, unchanged: 0 });
      const rows = await lockedItemsOf(id, transaction);
      const byAddress = new Map(rows.map((row) => [row.slug, row]));
      for (const { fields } of read.items) {
        const row = byAddress.get(fields.slug);
        // A file says nothing of whom an item is for.
        const wanted = { ...fields, access: row?.access ?? null, ...(row?.listed && { listed: row.listed }) };
        if (!row) {
          report.added++;
          if (apply) await insertItem({ id: newId(), collectionId: id, ...rowOf(wanted) }, transaction);
        } else if (dequal(draftOf(row), wanted)) report.unchanged++;
        else {
          report.changed++;
          if (apply) await updateItem(row, { ...rowOf(wanted), revision: row.revision + 1 }, transaction);
        }
      }
    });
    return { ...report, problems: report.problems.slice(0, 200) };
  }

  private async collection(id: string): Promise<Collection> {
    const row = await collectionRow(id);
    if (!row) throw notFound('collection');
    return collectionFrom(row);
  }
}

/** A collection that keeps its fields until the transaction ends. */
async function lockedCollection(id: string, transaction: Transaction): Promise<Collection> {
  const row = await collectionRow(id, transaction);
  if (!row) throw notFound('collection');
  return collectionFrom(row);
}

function refuseBadItem(draft: ItemDraft, collection: Collection): void {
  const fields = new Map(collection.fields.map(({ attribute }) => [attribute.id, attribute]));
  const problems = Object.entries(draft.values).flatMap(([id, value]) => {
    const attribute = fields.get(id);
    if (!attribute) return [{ path: `values.${id}`, message: 'there is no such field' }];
    const message = unstorable(attribute, value);
    return message === undefined ? [] : [{ path: `values.${id}`, message: `${attribute.label} ${message}` }];
  });
  if (draft.from !== null && draft.until !== null && Date.parse(draft.from) >= Date.parse(draft.until))
    problems.push({ path: 'until', message: 'it would end before it starts' });
  const [first] = problems;
  if (first) throw new Refusal(422, `This can’t be stored: ${first.message}.`, { fields: problems });
}

async function refuseTakenItem(
  collectionId: string,
  address: string,
  except: string | undefined,
  transaction: Transaction,
): Promise<void> {
  const row = await itemAt(collectionId, address, transaction);
  if (row && row.id !== except)
    throw new Refusal(422, `“${row.title}” has the address “${address}” already. Choose another.`, {
      fields: [{ path: 'slug', message: 'is taken' }],
    });
}

function rowOf({ slug: address, title, teaser, values, access, listed, from, until }: ItemDraft) {
  return {
    slug: address,
    title,
    teaser,
    values,
    access,
    ...(listed !== undefined && { listed }),
    publishFrom: from === null ? null : new Date(from),
    publishUntil: until === null ? null : new Date(until),
  };
}

function draftOf(row: ItemRow): ItemDraft {
  const { id: _id, collection: _collection, position: _position, ...draft } = itemFrom(row);
  return draft;
}

function stored(row: ItemRow): StoredItem {
  const item: Item = itemFrom(row);
  return { ...item, revision: row.revision, updatedAt: row.updatedAt.toISOString() };
}
