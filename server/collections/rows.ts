import {
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
  type Transaction,
} from 'sequelize';
import type { Collection, CollectionField, Item } from '../../core/collections/collection.ts';
import { id, instant, revision, string, table } from '../store/columns.ts';
import { noteChangesTo } from '../store/noted-changes.ts';

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
  declare publishFrom: Date | null;
  declare publishUntil: Date | null;
  declare position: number;
  declare revision: CreationOptional<number>;
  declare updatedAt: CreationOptional<Date>;
}

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

/** All collections, the oldest first. */
export async function draftedCollections(): Promise<Collection[]> {
  return (await CollectionRow.findAll({ order: [['createdAt', 'ASC']] })).map(collectionFrom);
}

/** The items of all collections in their order. */
export async function draftedItems(): Promise<Item[]> {
  const rows = await ItemRow.findAll({
    order: [
      ['position', 'ASC'],
      ['id', 'ASC'],
    ],
  });
  return rows.map(itemFrom);
}

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
