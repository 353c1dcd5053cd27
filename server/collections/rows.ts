import {
  type CreationAttributes,
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
} from 'sequelize';
import type { Collection, CollectionField, Item, Listed } from '../../core/collections/collection.ts';
import { id, instant, revision, string, table } from '../store/columns.ts';
import { draftedKind } from '../store/drafted-kind.ts';
import { noteChangesTo } from '../store/noted-changes.ts';
import { inTransaction, type Transaction } from '../store/transaction.ts';

export class CollectionRow extends Model<
  InferAttributes<CollectionRow>,
  InferCreationAttributes<CollectionRow>
> {
  declare id: string;
  declare name: string;
  declare slug: string;
  declare fields: CollectionField[];
  declare access: string | null;
  declare locked: boolean;
  declare revision: CreationOptional<number>;
  declare createdAt: CreationOptional<Date>;
  declare updatedAt: CreationOptional<Date>;
}

export class ItemRow extends Model<InferAttributes<ItemRow>, InferCreationAttributes<ItemRow>> {
  declare id: string;
  declare collectionId: string;
  declare slug: string;
  declare title: string;
  declare teaser: string;
  declare values: { [attribute: string]: unknown };
  declare access: string | null;
  declare listed: CreationOptional<Listed | null>;
  declare publishFrom: Date | null;
  declare publishUntil: Date | null;
  declare position: number;
  declare revision: CreationOptional<number>;
  declare updatedAt: CreationOptional<Date>;
}

const inOrder: [string, string][] = [
  ['position', 'ASC'],
  ['id', 'ASC'],
];

const oldestFirst: [string, string][] = [
  ['createdAt', 'ASC'],
  ['id', 'ASC'],
];

/** Ties the tables to a connection. */
export function defineCollections(sequelize: Sequelize): void {
  CollectionRow.init(
    {
      id: id(),
      name: string,
      slug: string,
      fields: DataTypes.JSON,
      access: string,
      locked: DataTypes.BOOLEAN,
      revision: revision(),
      createdAt: instant,
      updatedAt: instant,
    },
    table(sequelize, 'collections', 'both'),
  );
  noteChangesTo(CollectionRow, 'collection', 'id');
  ItemRow.init(
    {
      id: id(),
      collectionId: string,
      slug: string,
      title: string,
      teaser: string,
      values: DataTypes.JSON,
      access: string,
      listed: { type: DataTypes.JSON, allowNull: true },
      publishFrom: instant,
      publishUntil: instant,
      position: DataTypes.INTEGER,
      revision: revision(),
      updatedAt: instant,
    },
    table(sequelize, 'items', 'both'),
  );
  noteChangesTo(ItemRow, 'item', 'id');
}

export function collectionFrom({ id, name, slug, fields, access, locked }: CollectionRow): Collection {
  return { id, name, slug, fields, access, locked: Boolean(locked) };
}

export function itemFrom(row: ItemRow): Item {
  const { id, collectionId, slug, title, teaser, values, access, listed, position } = row;
  return {
    id,
    collection: collectionId,
    slug,
    title,
    teaser,
    values,
    access,
    // Left out where there is none, so that an item is as it was released before there was this.
    ...(listed && { listed }),
    from: row.publishFrom?.toISOString() ?? null,
    until: row.publishUntil?.toISOString() ?? null,
    position,
  };
}

/** All collections, the oldest first. */
export const draftedCollections = draftedKind(
  (where) => CollectionRow.findAll({ where, order: oldestFirst }),
  () => CollectionRow.findAll({ attributes: ['id'], order: oldestFirst, raw: true }),
  collectionFrom,
);

/** The items of all collections in their order. */
export const draftedItems = draftedKind(
  (where) => ItemRow.findAll({ where, order: inOrder }),
  () => ItemRow.findAll({ attributes: ['id'], order: inOrder, raw: true }),
  itemFrom,
  ({ position }) => String(position),
);

/** What some items are called, and where they belong; those that are gone are left out. */
export function itemsNamed(
  ids: readonly string[],
): Promise<{ readonly id: string; readonly title: string; readonly collectionId: string }[]> {
  return ItemRow.findAll({
    attributes: ['id', 'title', 'collectionId'],
    where: { id: [...ids] },
    raw: true,
  });
}

/** The collection at an address; undefined where there is none. */
export async function collectionAt(
  slug: string,
  transaction: Transaction,
): Promise<{ readonly id: string; readonly name: string } | undefined> {
  return (await CollectionRow.findOne({ where: { slug }, transaction })) ?? undefined;
}

/** All collections by their names. */
export function allCollections(): Promise<CollectionRow[]> {
  return CollectionRow.findAll({ order: [['name', 'ASC']] });
}

/** A collection; within a transaction it stays as it is until that ends. Null where there is none. */
export function collectionRow(id: string, transaction?: Transaction): Promise<CollectionRow | null> {
  return CollectionRow.findByPk(id, transaction && { transaction, lock: true });
}

export function insertCollection(
  values: CreationAttributes<CollectionRow>,
  transaction: Transaction,
): Promise<CollectionRow> {
  return CollectionRow.create(values, { transaction });
}

export async function updateCollection(
  row: CollectionRow,
  values: Partial<InferAttributes<CollectionRow>>,
  transaction: Transaction,
): Promise<void> {
  await row.update(values, { transaction });
}

/** Deletes a collection with its items; false where there is none. */
export async function deleteCollection(id: string): Promise<boolean> {
  return inTransaction(async (transaction) => {
    // A cascade in the database would remove them too, but it would write nothing to the change log.
    await ItemRow.destroy({ where: { collectionId: id }, transaction });
    return (await CollectionRow.destroy({ where: { id }, transaction })) > 0;
  });
}

/** The items of a collection in their order. */
export function itemsOf(collectionId: string): Promise<ItemRow[]> {
  return ItemRow.findAll({ where: { collectionId }, order: inOrder });
}

/** The items of a collection, which stay as they are until the transaction ends. */
export function lockedItemsOf(collectionId: string, transaction: Transaction): Promise<ItemRow[]> {
  return ItemRow.findAll({ where: { collectionId }, transaction, lock: true });
}

/** An item, which stays as it is until the transaction ends; null where there is none. */
export function itemRow(id: string, transaction: Transaction): Promise<ItemRow | null> {
  return ItemRow.findByPk(id, { transaction, lock: true });
}

/** The item of a collection at an address; null where there is none. */
export function itemAt(
  collectionId: string,
  slug: string,
  transaction: Transaction,
): Promise<ItemRow | null> {
  return ItemRow.findOne({ where: { collectionId, slug }, transaction });
}

/** Adds an item as the last of its collection. */
export async function insertItem(
  values: Omit<CreationAttributes<ItemRow>, 'position'>,
  transaction: Transaction,
): Promise<ItemRow> {
  const { collectionId } = values;
  const last = await ItemRow.max<number | null, ItemRow>('position', {
    where: { collectionId },
    transaction,
  });
  const row = await ItemRow.create({ ...values, position: (last ?? 0) + 1 }, { transaction });
  return row.reload({ transaction });
}

export async function updateItem(
  row: ItemRow,
  values: Partial<InferAttributes<ItemRow>>,
  transaction: Transaction,
): Promise<ItemRow> {
  await row.update(values, { transaction });
  return row.reload({ transaction });
}

export async function moveItem(id: string, position: number, transaction: Transaction): Promise<void> {
  await ItemRow.update({ position }, { where: { id }, transaction });
}

/** Deletes an item; false where there is none. */
export async function deleteItem(id: string): Promise<boolean> {
  return (await inTransaction((transaction) => ItemRow.destroy({ where: { id }, transaction }))) > 0;
}
