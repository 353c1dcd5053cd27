import {
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
} from 'sequelize';
import type { Example } from '../../contract/audiences.ts';
import type { FileSurvey, ImportReport, ImportStatus } from '../../contract/imports.ts';
import type { ChangeKind, ChangeSource } from '../../contract/people.ts';
import type { Attribute } from '../../core/attributes/attribute.ts';
import type { CollectionField } from '../../core/collections/collection.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import type { Change } from '../../core/deciding/changes.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import type { Access, Content, DocumentKind } from '../../core/documents/document.ts';
import { addressKey } from '../../core/exchange/address-key.ts';
import type { BulkChange } from '../../core/exchange/bulk-change.ts';
import type { Fields } from '../../core/exchange/merge.ts';
import type { ImportPlan } from '../../core/exchange/plan.ts';
import { foldedTexts } from './folded-texts.ts';

export class AccountRow extends Model<InferAttributes<AccountRow>, InferCreationAttributes<AccountRow>> {
  declare id: CreationOptional<number>;
  declare email: string;
  declare name: string;
  declare passwordHash: string;
}

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

export class AudienceRow extends Model<InferAttributes<AudienceRow>, InferCreationAttributes<AudienceRow>> {
  declare id: string;
  declare name: string;
  declare description: string;
  declare condition: Condition;
  /** Whom it belongs to. */
  declare ownerName: CreationOptional<string>;
  /** Who changed it last. */
  declare accountName: CreationOptional<string>;
  declare archivedAt: CreationOptional<Date | null>;
  declare examples: CreationOptional<Example[]>;
  declare revision: CreationOptional<number>;
  declare updatedAt: CreationOptional<Date>;
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

/** An audience as it was stored at some time. */
export class AudienceVersionRow extends Model<
  InferAttributes<AudienceVersionRow>,
  InferCreationAttributes<AudienceVersionRow>
> {
  declare id: CreationOptional<number>;
  declare audienceId: string;
  declare at: CreationOptional<Date>;
  declare accountName: string;
  declare name: string;
  declare description: string;
  declare condition: Condition;
}

export class DocumentRow extends Model<InferAttributes<DocumentRow>, InferCreationAttributes<DocumentRow>> {
  declare id: string;
  declare kind: DocumentKind;
  declare name: string;
  declare slug: string;
  declare content: Content;
  declare access: CreationOptional<Access | null>;
  declare collectionId: CreationOptional<string | null>;
  declare revision: CreationOptional<number>;
  declare updatedAt: CreationOptional<Date>;
}

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

/** A picture or video that was brought in. */
export class FileRow extends Model<InferAttributes<FileRow>, InferCreationAttributes<FileRow>> {
  declare id: string;
  declare name: string;
  declare type: string;
  declare bytes: Buffer;
  declare createdAt: CreationOptional<Date>;
}

/** What a program or another site asks for decisions with. */
export class ApiKeyRow extends Model<InferAttributes<ApiKeyRow>, InferCreationAttributes<ApiKeyRow>> {
  declare id: string;
  declare name: string;
  declare keyHash: string;
  declare origins: string[];
  declare isSecret: boolean;
  declare createdAt: CreationOptional<Date>;
  declare usedAt: CreationOptional<Date | null>;
}

export class ReleaseRow extends Model<InferAttributes<ReleaseRow>, InferCreationAttributes<ReleaseRow>> {
  declare id: CreationOptional<number>;
  declare note: string;
  declare accountName: string;
  declare changes: Change[];
  declare snapshot: Snapshot;
  declare createdAt: CreationOptional<Date>;
}

export class SettingRow extends Model<InferAttributes<SettingRow>, InferCreationAttributes<SettingRow>> {
  declare key: string;
  declare value: unknown;
}

export class SendRow extends Model<InferAttributes<SendRow>, InferCreationAttributes<SendRow>> {
  declare id: CreationOptional<number>;
  declare documentId: string;
  declare documentName: string;
  declare releaseId: number;
  declare accountName: string;
  declare createdAt: CreationOptional<Date>;
}

export class DeliveryRow extends Model<InferAttributes<DeliveryRow>, InferCreationAttributes<DeliveryRow>> {
  declare id: CreationOptional<number>;
  declare sendId: number;
  declare contactId: number;
  declare email: string;
  declare status: 'sent' | 'refused';
  declare reason: string;
}

export class MailboxRow extends Model<InferAttributes<MailboxRow>, InferCreationAttributes<MailboxRow>> {
  declare id: CreationOptional<number>;
  declare recipient: string;
  declare subject: string;
  declare raw: Buffer;
  declare createdAt: CreationOptional<Date>;
}

export class ImportRow extends Model<InferAttributes<ImportRow>, InferCreationAttributes<ImportRow>> {
  declare id: CreationOptional<number>;
  declare name: string;
  declare bytes: number;
  declare status: ImportStatus;
  declare accountName: string;
  declare survey: CreationOptional<FileSurvey | null>;
  declare plan: CreationOptional<ImportPlan | null>;
  declare change: CreationOptional<BulkChange | null>;
  declare report: CreationOptional<ImportReport | null>;
  declare failure: CreationOptional<string | null>;
  declare createdAt: CreationOptional<Date>;
  declare finishedAt: CreationOptional<Date | null>;
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

// Made anew for each column, since Sequelize writes the column's name into the object it is given.
const id = () => ({ type: DataTypes.STRING(64), primaryKey: true });
const serial = () => ({ type: DataTypes.INTEGER.UNSIGNED, primaryKey: true, autoIncrement: true });
const string = DataTypes.STRING;
const instant = DataTypes.DATE(3);
const revision = () => ({ type: DataTypes.INTEGER.UNSIGNED, defaultValue: 1 });

/**
 * A column of what may be nested as deep as people make it, kept as text: the JSON of the database ends at 32 levels. It is
 * read through a row only; a raw query gives the text.
 */
const nested = (column: string) => ({
  type: DataTypes.TEXT('long'),
  get(this: Model): unknown {
    const text: unknown = this.getDataValue(column);
    return typeof text === 'string' ? JSON.parse(text) : text;
  },
  set(this: Model, value: unknown): void {
    this.setDataValue(column, value === null || value === undefined ? value : JSON.stringify(value));
  },
});

/** Keeps what the database compares in step with what it is made from. */
function setCompared(row: Model): void {
  if (!(row instanceof ContactRow)) return;
  if (!row.isNewRecord && !row.changed('email') && !row.changed('values')) return;
  row.emailKey = addressKey(row.email);
  row.folded = foldedTexts(row.values, row.email);
}

/** Ties the models to a connection. One process uses one database at a time. */
export function defineModels(sequelize: Sequelize): void {
  const table = (tableName: string, timestamps: 'none' | 'created' | 'both') => ({
    sequelize,
    tableName,
    timestamps: timestamps !== 'none',
    updatedAt: timestamps === 'both',
  });
  AccountRow.init(
    { id: serial(), email: string, name: string, passwordHash: string },
    table('accounts', 'created'),
  );
  AttributeRow.init(
    { id: id(), position: DataTypes.INTEGER, definition: DataTypes.JSON },
    table('attributes', 'none'),
  );
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
    table('contacts', 'both'),
  );
  ContactRow.addHook('beforeSave', setCompared);
  ContactRow.addHook('beforeBulkCreate', (rows) => rows.forEach(setCompared));
  SiteAccountRow.init(
    { contactId: { type: DataTypes.INTEGER.UNSIGNED, primaryKey: true }, passwordHash: string },
    table('site_accounts', 'created'),
  );
  AudienceRow.init(
    {
      id: id(),
      name: string,
      description: string,
      condition: nested('condition'),
      ownerName: { type: string, defaultValue: '' },
      accountName: { type: string, defaultValue: '' },
      archivedAt: instant,
      examples: { type: DataTypes.JSON, defaultValue: [] },
      revision: revision(),
      updatedAt: instant,
    },
    table('audiences', 'both'),
  );
  FactRow.init(
    {
      id: id(),
      who: nested('who'),
      also: nested('also'),
      accountName: string,
      revision: revision(),
      createdAt: instant,
    },
    table('facts', 'created'),
  );
  AudienceVersionRow.init(
    {
      id: serial(),
      audienceId: string,
      at: { type: instant, defaultValue: DataTypes.NOW },
      accountName: string,
      name: string,
      description: string,
      condition: nested('condition'),
    },
    table('audience_versions', 'none'),
  );
  DocumentRow.init(
    {
      id: id(),
      kind: string,
      name: string,
      slug: string,
      content: nested('content'),
      access: DataTypes.JSON,
      collectionId: string,
      revision: revision(),
      updatedAt: instant,
    },
    table('documents', 'both'),
  );
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
    table('collections', 'both'),
  );
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
    table('items', 'both'),
  );
  FileRow.init(
    { id: id(), name: string, type: string, bytes: DataTypes.BLOB('medium'), createdAt: instant },
    table('files', 'created'),
  );
  ApiKeyRow.init(
    {
      id: id(),
      name: string,
      keyHash: string,
      origins: DataTypes.JSON,
      isSecret: DataTypes.BOOLEAN,
      createdAt: instant,
      usedAt: instant,
    },
    table('api_keys', 'created'),
  );
  ReleaseRow.init(
    {
      id: serial(),
      note: string,
      accountName: string,
      changes: DataTypes.JSON,
      snapshot: nested('snapshot'),
      createdAt: instant,
    },
    table('releases', 'created'),
  );
  SettingRow.init({ key: id(), value: DataTypes.JSON }, table('settings', 'none'));
  SendRow.init(
    {
      id: serial(),
      documentId: string,
      documentName: string,
      releaseId: DataTypes.INTEGER.UNSIGNED,
      accountName: string,
      createdAt: instant,
    },
    table('sends', 'created'),
  );
  DeliveryRow.init(
    {
      id: serial(),
      sendId: DataTypes.INTEGER.UNSIGNED,
      contactId: DataTypes.INTEGER.UNSIGNED,
      email: string,
      status: string,
      reason: string,
    },
    table('deliveries', 'created'),
  );
  MailboxRow.init(
    { id: serial(), recipient: string, subject: string, raw: DataTypes.BLOB('medium'), createdAt: instant },
    table('standin_mailbox', 'created'),
  );
  ImportRow.init(
    {
      id: serial(),
      name: string,
      bytes: DataTypes.BIGINT.UNSIGNED,
      status: string,
      accountName: string,
      survey: DataTypes.JSON,
      plan: DataTypes.JSON,
      change: DataTypes.JSON,
      report: DataTypes.JSON,
      failure: string,
      createdAt: instant,
      finishedAt: instant,
    },
    table('imports', 'created'),
  );
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
    table('contact_changes', 'none'),
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
    table('set_aside_values', 'created'),
  );
}
