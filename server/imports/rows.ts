import {
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
