import {
  type CreationAttributes,
  type CreationOptional,
  col,
  DataTypes,
  fn,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
} from 'sequelize';
import type { ListedDocument, StoredDocument } from '../../contract/documents.ts';
import {
  type Access,
  type Content,
  type Document,
  type DocumentKind,
  slotsOf,
} from '../../core/documents/document.ts';
import { piecesIn } from '../../core/documents/shared.ts';
import { audiencesOfDocument } from '../../core/documents/uses.ts';
import { id, instant, nested, revision, string, table } from '../store/columns.ts';
import { draftedKind } from '../store/drafted-kind.ts';
import { noteChange, noteChangesTo } from '../store/noted-changes.ts';
import { inTransaction, type Transaction } from '../store/transaction.ts';

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

/** A picture or video that was brought in. */
export class FileRow extends Model<InferAttributes<FileRow>, InferCreationAttributes<FileRow>> {
  declare id: string;
  declare name: string;
  declare type: string;
  declare bytes: Buffer;
  /** Of a picture, in pixels; null of a video, and where it does not say. */
  declare width: CreationOptional<number | null>;
  declare height: CreationOptional<number | null>;
  declare createdAt: CreationOptional<Date>;
}

/** A picture in one of the widths that pages ask for, as WebP. It can be made again at any time. */
class PictureRow extends Model<InferAttributes<PictureRow>, InferCreationAttributes<PictureRow>> {
  declare file: string;
  declare width: number;
  declare bytes: Buffer;
}

/** Ties the tables to a connection. */
export function defineDocuments(sequelize: Sequelize): void {
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
    table(sequelize, 'documents', 'both'),
  );
  noteChangesTo(DocumentRow, 'document', 'id');
  noteUses();
  FileRow.init(
    {
      id: id(),
      name: string,
      type: string,
      bytes: DataTypes.BLOB('medium'),
      width: DataTypes.INTEGER,
      height: DataTypes.INTEGER,
      createdAt: instant,
    },
    table(sequelize, 'files', 'created'),
  );
  noteChangesTo(FileRow, 'file', 'id');
  PictureRow.init(
    {
      file: id(),
      width: { type: DataTypes.INTEGER, primaryKey: true },
      bytes: DataTypes.BLOB('medium'),
    },
    table(sequelize, 'pictures_in_widths', 'none'),
  );
}

/** Has it noted when other audiences are used than before, or by something else: most edits change words only. */
function noteUses(): void {
  const note = (transaction: Transaction | null | undefined, id: string | null) => {
    if (transaction) noteChange(transaction, 'use', id);
  };
  DocumentRow.beforeUpdate((row, { transaction }) => {
    const before: unknown = row.previous('content');
    const content = typeof before === 'string' ? JSON.parse(before) : row.content;
    const { name = row.name, access = row.access } = row.previous();
    if (usesOf(row) !== usesOf({ name, content, access })) note(transaction, row.id);
  });
  const noteOne = (row: DocumentRow, { transaction }: { transaction?: Transaction | null }) => {
    if (usesOf(row) !== '') note(transaction, row.id);
  };
  DocumentRow.afterCreate(noteOne);
  DocumentRow.beforeDestroy(noteOne);
  DocumentRow.addHook('beforeUpsert', (_values, { transaction }) => note(transaction, null));
  DocumentRow.beforeBulkCreate((_rows, { transaction }) => note(transaction, null));
  DocumentRow.beforeBulkUpdate(({ transaction }) => note(transaction, null));
  DocumentRow.beforeBulkDestroy(({ transaction }) => note(transaction, null));
}

/** What a document uses, and what it is called, as one text; empty where it uses nothing. */
function usesOf({ name, content, access }: Pick<DocumentRow, 'name' | 'content' | 'access'>): string {
  const used = [...audiencesOfDocument({ content, access }), ...piecesIn(content)];
  return used.length === 0 ? '' : JSON.stringify([name, used.sort()]);
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

const oldestFirst: [string, string][] = [
  ['createdAt', 'ASC'],
  ['id', 'ASC'],
];

/** Everything that is drafted, shared content still named in it, the oldest first. */
export const draftedDocuments = draftedKind(
  (where) => DocumentRow.findAll({ where, order: oldestFirst }),
  () => DocumentRow.findAll({ attributes: ['id'], order: oldestFirst, raw: true }),
  documentFrom,
);

/** All documents as they are listed, the oldest first. */
export const listedDocuments = draftedKind(
  (where) => DocumentRow.findAll({ where, order: oldestFirst }),
  () => DocumentRow.findAll({ attributes: ['id'], order: oldestFirst, raw: true }),
  (row): ListedDocument => {
    const { content, ...rest } = stored(row);
    const audiences = [...audiencesOfDocument({ content, access: rest.access })];
    return { ...rest, slots: slotsOf(content).length, audiences };
  },
);

/** A document as the studio gets it. */
export function stored(row: DocumentRow): StoredDocument {
  return { ...documentFrom(row), revision: row.revision, updatedAt: row.updatedAt.toISOString() };
}

/** All pages, emails and pieces of shared content, the oldest first. */
export function allDocuments(): Promise<DocumentRow[]> {
  return DocumentRow.findAll({ order: oldestFirst });
}

/** Every piece of shared content by its name; within a transaction they stay as they are until that ends. */
export function sharedContent(transaction?: Transaction): Promise<DocumentRow[]> {
  const lock = transaction && { transaction, lock: true };
  return DocumentRow.findAll({ where: { kind: 'shared' }, order: [['name', 'ASC']], ...lock });
}

/** A document; within a transaction it stays as it is until that ends. Null where there is none. */
export function documentRow(id: string, transaction?: Transaction): Promise<DocumentRow | null> {
  return DocumentRow.findByPk(id, transaction && { transaction, lock: true });
}

/** The document of a kind at an address; null where there is none. */
export function documentAt(
  kind: DocumentKind,
  slug: string,
  transaction: Transaction,
): Promise<DocumentRow | null> {
  return DocumentRow.findOne({ where: { kind, slug }, transaction });
}

/** The page that shows the items of a collection; null where none does. */
export function documentOfCollection(
  collectionId: string,
  transaction: Transaction,
): Promise<DocumentRow | null> {
  return DocumentRow.findOne({ where: { collectionId }, transaction });
}

export async function insertDocument(
  values: CreationAttributes<DocumentRow>,
  transaction: Transaction,
): Promise<DocumentRow> {
  const row = await DocumentRow.create(values, { transaction });
  return row.reload({ transaction });
}

export async function updateDocument(
  row: DocumentRow,
  values: Partial<InferAttributes<DocumentRow>>,
  transaction: Transaction,
): Promise<DocumentRow> {
  await row.update(values, { transaction });
  return row.reload({ transaction });
}

/** Deletes a document; false where there is none. */
export async function deleteDocument(id: string): Promise<boolean> {
  return (await inTransaction((transaction) => DocumentRow.destroy({ where: { id }, transaction }))) > 0;
}

/** The page at an address; undefined where there is none. */
export async function pageAt(
  slug: string,
  transaction: Transaction,
): Promise<{ readonly id: string; readonly name: string } | undefined> {
  return (await DocumentRow.findOne({ where: { kind: 'page', slug }, transaction })) ?? undefined;
}

/** Stores a picture or a video. */
export async function insertFile(values: CreationAttributes<FileRow>): Promise<FileRow> {
  return inTransaction((transaction) => FileRow.create(values, { transaction }));
}

/** All files without what is in them, the latest first; `size` is in bytes. */
export function listedFiles(): Promise<
  {
    readonly id: string;
    readonly name: string;
    readonly type: string;
    readonly size: number;
    readonly width: number | null;
    readonly height: number | null;
  }[]
> {
  return FileRow.findAll({
    attributes: ['id', 'name', 'type', 'width', 'height', [fn('LENGTH', col('bytes')), 'size']],
    order: [
      ['createdAt', 'DESC'],
      ['id', 'ASC'],
    ],
    raw: true,
  }).then((rows) => rows.map((row) => ({ ...row, size: Number('size' in row ? row.size : 0) })));
}

/** What kind of file some are, or all, and how large they are shown. */
export function sizesOfFiles(
  ids?: readonly string[],
): Promise<Pick<FileRow, 'id' | 'type' | 'width' | 'height'>[]> {
  return FileRow.findAll({
    attributes: ['id', 'type', 'width', 'height'],
    ...(ids && { where: { id: [...ids] } }),
    raw: true,
  });
}

/** A picture in a width that it was made in before. */
export async function pictureInWidth(file: string, width: number): Promise<Buffer | undefined> {
  return (await PictureRow.findOne({ where: { file, width } }))?.bytes;
}

/** Keeps a picture in a width. */
export async function keepPicture(file: string, width: number, bytes: Buffer): Promise<void> {
  await inTransaction((transaction) => PictureRow.upsert({ file, width, bytes }, { transaction }));
}

/** A picture or a video; null where there is none. */
export function fileRow(id: string): Promise<FileRow | null> {
  return FileRow.findByPk(id);
}
