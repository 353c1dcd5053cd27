import {
  type CreationAttributes,
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
} from 'sequelize';
import type { FileSurvey, ImportReport, ImportStatus } from '../../contract/imports.ts';
import type { BulkChange } from '../../core/exchange/bulk-change.ts';
import type { ImportPlan } from '../../core/exchange/plan.ts';
import { instant, serial, string, table } from '../store/columns.ts';
import { noteChangesTo } from '../store/noted-changes.ts';
import type { Transaction } from '../store/transaction.ts';

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

/** Ties the tables to a connection. */
export function defineImports(sequelize: Sequelize): void {
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
    table(sequelize, 'imports', 'created'),
  );
  noteChangesTo(ImportRow, 'import', 'id');
}

/** What the files of some imports were called, by the ids of the imports. */
export async function importNames(ids: readonly number[]): Promise<ReadonlyMap<number, string>> {
  const rows = await ImportRow.findAll({ attributes: ['id', 'name'], where: { id: [...ids] }, raw: true });
  return new Map(rows.map(({ id, name }) => [id, name]));
}

/** The latest imports, the latest first. */
export function latestImports(most: number): Promise<ImportRow[]> {
  return ImportRow.findAll({ order: [['id', 'DESC']], limit: most });
}

export function importsOf(ids: readonly number[]): Promise<ImportRow[]> {
  return ImportRow.findAll({ where: { id: [...ids] } });
}

/** An import; within a transaction it stays as it is until that ends. Null where there is none. */
export function importRow(id: number, transaction?: Transaction): Promise<ImportRow | null> {
  return ImportRow.findByPk(id, transaction && { transaction, lock: true });
}

export function insertImport(
  values: CreationAttributes<ImportRow>,
  transaction: Transaction,
): Promise<ImportRow> {
  return ImportRow.create(values, { transaction });
}

export async function updateImport(
  row: ImportRow,
  values: Partial<InferAttributes<ImportRow>>,
  transaction: Transaction,
): Promise<void> {
  await row.update(values, { transaction });
}

export async function deleteImport(row: ImportRow, transaction: Transaction): Promise<void> {
  await row.destroy({ transaction });
}
