import {
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  Op,
  type Sequelize,
} from 'sequelize';
import type { ChangeKind, ChangeSource } from '../../contract/people.ts';
import type { Attribute } from '../../core/attributes/attribute.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import { addressKey } from '../../core/exchange/address-key.ts';
import type { Fields } from '../../core/exchange/merge.ts';
import { id, instant, nested, revision, serial, string, table } from '../store/columns.ts';
import { foldedTexts } from '../store/folded-texts.ts';
import { noteChangesTo } from '../store/noted-changes.ts';

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

/** Those of some contacts who have stopped mail. */
export async function stoppedAmong(ids: readonly number[]): Promise<Set<number>> {
  const rows = await ContactRow.findAll({
    attributes: ['id'],
    where: { id: [...ids], unsubscribedAt: { [Op.not]: null } },
    raw: true,
  });
  return new Set(rows.map(({ id }) => id));
}

/** The attributes of contacts in their order. */
export async function draftedAttributes(): Promise<Attribute[]> {
  const rows = await AttributeRow.findAll({ raw: true, order: [['position', 'ASC']] });
  return rows.map(({ definition }) => definition);
}

/** What is stated to hold for everybody, the oldest first. */
export async function draftedFacts(): Promise<{ id: string; who: Condition; also: Condition }[]> {
  const rows = await FactRow.findAll({ order: [['createdAt', 'ASC']] });
  return rows.map(({ id, who, also }) => ({ id, who, also }));
}
