import {
  type CreationAttributes,
  type CreationOptional,
  DataTypes,
  fn,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
} from 'sequelize';
import type { ChangeKind, ChangeSource } from '../../contract/people.ts';
import type { Attribute } from '../../core/attributes/attribute.ts';
import type { StatedFact } from '../../core/audiences/fact.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import { addressKey } from '../../core/exchange/address-key.ts';
import type { Fields } from '../../core/exchange/merge.ts';
import { id, instant, nested, revision, serial, string, table } from '../store/columns.ts';
import { draftedKind } from '../store/drafted-kind.ts';
import { foldedTexts } from '../store/folded-texts.ts';
import { noteChangesTo } from '../store/noted-changes.ts';
import { inTransaction, type Transaction } from '../store/transaction.ts';

export class AttributeRow extends Model<
  InferAttributes<AttributeRow>,
  InferCreationAttributes<AttributeRow>
> {
  declare id: string;
  declare position: number;
  declare definition: Attribute;
}

export class ContactRow extends Model<InferAttributes<ContactRow>, InferCreationAttributes<ContactRow>> {
  declare id: CreationOptional<number>;
  declare email: string;
  /** What the address is known by; set with the address. */
  declare emailKey: CreationOptional<string>;
  /** What another system knows the contact by. */
  declare externalId: CreationOptional<string | null>;
  /** First and last name, or the email address where there is none; kept for sorting and search. */
  declare name: string;
  declare values: { [attribute: string]: unknown };
  /** The texts among values and address as they are compared; kept up to date when the row is saved. */
  declare folded: CreationOptional<{ [attribute: string]: string }>;
  declare unsubscribedAt: CreationOptional<Date | null>;
  declare createdAt: CreationOptional<Date>;
  declare updatedAt: CreationOptional<Date>;
}

export class SiteAccountRow extends Model<
  InferAttributes<SiteAccountRow>,
  InferCreationAttributes<SiteAccountRow>
> {
  declare contactId: number;
  /** Null until a password was set; such an account can't sign in. */
  declare passwordHash: string | null;
}

/** Something stated to hold for every contact. */
export class FactRow extends Model<InferAttributes<FactRow>, InferCreationAttributes<FactRow>> {
  declare id: string;
  declare who: Condition;
  declare also: Condition;
  declare accountName: string;
  declare revision: CreationOptional<number>;
  declare createdAt: CreationOptional<Date>;
}

/** Something that happened to a contact. */
export class ContactChangeRow extends Model<
  InferAttributes<ContactChangeRow>,
  InferCreationAttributes<ContactChangeRow>
> {
  declare id: CreationOptional<number>;
  declare contactId: number;
  declare at: CreationOptional<Date>;
  declare kind: ChangeKind;
  declare source: ChangeSource;
  declare accountName: string;
  declare importId: CreationOptional<number | null>;
  declare fields: Fields;
}

/** A value that did not fit its attribute any more and was taken out, of a contact or of an item. */
export class SetAsideRow extends Model<InferAttributes<SetAsideRow>, InferCreationAttributes<SetAsideRow>> {
  declare id: CreationOptional<number>;
  declare attribute: string;
  declare contactId: number | null;
  declare itemId: string | null;
  declare value: unknown;
  declare createdAt: CreationOptional<Date>;
}

/** Keeps what the database compares in step with what it is made from. */
function setCompared(row: Model): void {
  if (!(row instanceof ContactRow)) return;
  if (!row.isNewRecord && !row.changed('email') && !row.changed('values')) return;
  row.emailKey = addressKey(row.email);
  row.folded = foldedTexts(row.values, row.email);
}

const oldestFirst: [string, string][] = [
  ['createdAt', 'ASC'],
  ['id', 'ASC'],
];
const byPosition: [string, string][] = [['position', 'ASC']];

/** Ties the tables to a connection. */
export function definePeople(sequelize: Sequelize): void {
  AttributeRow.init(
    { id: id(), position: DataTypes.INTEGER, definition: DataTypes.JSON },
    table(sequelize, 'attributes', 'none'),
  );
  noteChangesTo(AttributeRow, 'attribute', 'id');
  ContactRow.init(
    {
      id: serial(),
      email: string,
      emailKey: string,
      externalId: string,
      name: string,
      values: DataTypes.JSON,
      folded: DataTypes.JSON,
      unsubscribedAt: instant,
      createdAt: instant,
      updatedAt: instant,
    },
    table(sequelize, 'contacts', 'both'),
  );
  ContactRow.addHook('beforeSave', setCompared);
  ContactRow.addHook('beforeBulkCreate', (rows) => rows.forEach(setCompared));
  noteChangesTo(ContactRow, 'contact', 'id');
  SiteAccountRow.init(
    { contactId: { type: DataTypes.INTEGER.UNSIGNED, primaryKey: true }, passwordHash: string },
    table(sequelize, 'site_accounts', 'created'),
  );
  // To everybody else an account of the site is part of its contact.
  noteChangesTo(SiteAccountRow, 'contact', 'contactId');
  FactRow.init(
    {
      id: id(),
      who: nested('who'),
      also: nested('also'),
      accountName: string,
      revision: revision(),
      createdAt: instant,
    },
    table(sequelize, 'facts', 'created'),
  );
  noteChangesTo(FactRow, 'fact', 'id');
  ContactChangeRow.init(
    {
      id: { type: DataTypes.BIGINT.UNSIGNED, primaryKey: true, autoIncrement: true },
      contactId: DataTypes.INTEGER.UNSIGNED,
      at: { type: instant, defaultValue: DataTypes.NOW },
      kind: string,
      source: string,
      accountName: string,
      importId: DataTypes.INTEGER.UNSIGNED,
      fields: DataTypes.JSON,
    },
    table(sequelize, 'contact_changes', 'none'),
  );
  SetAsideRow.init(
    {
      id: serial(),
      attribute: string,
      contactId: DataTypes.INTEGER.UNSIGNED,
      itemId: string,
      value: DataTypes.JSON,
      createdAt: instant,
    },
    table(sequelize, 'set_aside_values', 'created'),
  );
  noteChangesTo(SetAsideRow, 'set-aside', 'id');
}

/** The attributes of contacts in their order. */
export const draftedAttributes = draftedKind(
  (where) => AttributeRow.findAll({ where, order: byPosition, raw: true }),
  () => AttributeRow.findAll({ attributes: ['id'], order: byPosition, raw: true }),
  ({ definition }) => definition,
  ({ position }) => String(position),
);

/** The definition of an attribute of contacts; undefined where there is none. */
export async function attributeStored(id: string): Promise<Attribute | undefined> {
  return (await AttributeRow.findByPk(id))?.definition;
}

/** Adds an attribute of contacts as the last one. */
export async function insertAttribute(definition: Attribute): Promise<void> {
  await inTransaction(async (transaction) => {
    const last = await AttributeRow.max<number | null, AttributeRow>('position', { transaction });
    await AttributeRow.create({ id: definition.id, position: (last ?? 0) + 1, definition }, { transaction });
  });
}

/** Stores the first attributes of contacts of an installation. */
export async function insertFirstAttributes(
  definitions: readonly Attribute[],
  transaction: Transaction,
): Promise<void> {
  await AttributeRow.bulkCreate(
    definitions.map((definition, position) => ({ id: definition.id, position, definition })),
    { transaction },
  );
}

/** Puts attributes in an order. */
export async function orderAttributes(ids: readonly string[]): Promise<void> {
  await inTransaction(async (transaction) => {
    for (const [position, id] of ids.entries())
      await AttributeRow.update({ position }, { where: { id }, transaction });
  });
}

/** What is stated to hold for everybody, the oldest first. */
export function allFacts(): Promise<FactRow[]> {
  return FactRow.findAll({ order: oldestFirst });
}

export function countFacts(): Promise<number> {
  return FactRow.count();
}

/** A fact, which stays as it is until the transaction ends; null where there is none. */
export function factRow(id: string, transaction: Transaction): Promise<FactRow | null> {
  return FactRow.findByPk(id, { transaction, lock: true });
}

export async function insertFact(values: CreationAttributes<FactRow>): Promise<void> {
  await inTransaction((transaction) => FactRow.create(values, { transaction }));
}

export async function updateFact(
  row: FactRow,
  values: Partial<InferAttributes<FactRow>>,
  transaction: Transaction,
): Promise<void> {
  await row.update(values, { transaction });
}

/** Deletes a fact; false where there is none. */
export async function deleteFact(id: string): Promise<boolean> {
  return (await inTransaction((transaction) => FactRow.destroy({ where: { id }, transaction }))) > 0;
}

/** What is stated to hold for everybody, as it is in a snapshot. */
export const draftedFacts = draftedKind(
  (where) => FactRow.findAll({ where, order: oldestFirst }),
  () => FactRow.findAll({ attributes: ['id'], order: oldestFirst, raw: true }),
  ({ id, who, also }): StatedFact => ({ id, who, also }),
);

/** How many values of each attribute were taken out because they did not fit, for attributes that have some. */
export async function setAsideCounts(): Promise<{ [attribute: string]: number }> {
  const rows = await SetAsideRow.findAll({
    attributes: ['attribute', [fn('COUNT', '*'), 'id']],
    group: 'attribute',
    raw: true,
  });
  return Object.fromEntries(rows.map(({ attribute, id }) => [attribute, Number(id)]));
}

/** The latest values of an attribute that were taken out, and how many there are. */
export function valuesSetAside(
  attribute: string,
  most: number,
): Promise<{ rows: SetAsideRow[]; count: number }> {
  return SetAsideRow.findAndCountAll({
    where: { attribute },
    order: [['id', 'DESC']],
    limit: most,
    raw: true,
  });
}

/** Forgets them, once somebody has looked after them. The history of each contact keeps what it had. */
export async function forgetSetAside(attribute: string): Promise<void> {
  await inTransaction((transaction) => SetAsideRow.destroy({ where: { attribute }, transaction }));
}
