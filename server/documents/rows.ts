import {
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
  type Transaction,
} from 'sequelize';
import type { Access, Content, Document, DocumentKind } from '../../core/documents/document.ts';
import { id, instant, nested, revision, string, table } from '../store/columns.ts';
import { noteChangesTo } from '../store/noted-changes.ts';

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
  declare createdAt: CreationOptional<Date>;
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
  FileRow.init(
    { id: id(), name: string, type: string, bytes: DataTypes.BLOB('medium'), createdAt: instant },
    table(sequelize, 'files', 'created'),
  );
  noteChangesTo(FileRow, 'file', 'id');
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

/** Everything that is drafted, shared content still named in it, the oldest first. */
export async function draftedDocuments(): Promise<Document[]> {
  const rows = await DocumentRow.findAll({
    order: [
      ['createdAt', 'ASC'],
      ['id', 'ASC'],
    ],
  });
  return rows.map(documentFrom);
}

/** The page at an address; undefined where there is none. */
export async function pageAt(
  slug: string,
  transaction: Transaction,
): Promise<{ readonly id: string; readonly name: string } | undefined> {
  return (await DocumentRow.findOne({ where: { kind: 'page', slug }, transaction })) ?? undefined;
}
