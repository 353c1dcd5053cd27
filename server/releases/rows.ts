import {
  type CreationAttributes,
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  Op,
  type Sequelize,
} from 'sequelize';
import type { Change } from '../../core/deciding/changes.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { instant, nested, serial, string, table } from '../store/columns.ts';
import { noteChangesTo } from '../store/noted-changes.ts';
import type { Transaction } from '../store/transaction.ts';

export class ReleaseRow extends Model<InferAttributes<ReleaseRow>, InferCreationAttributes<ReleaseRow>> {
  declare id: CreationOptional<number>;
  declare note: string;
  declare accountName: string;
  declare changes: Change[];
  declare snapshot: Snapshot;
  declare createdAt: CreationOptional<Date>;
}

/** Ties the tables to a connection. */
export function defineReleases(sequelize: Sequelize): void {
  ReleaseRow.init(
    {
      id: serial(),
      note: string,
      accountName: string,
      changes: DataTypes.JSON,
      snapshot: nested('snapshot'),
      createdAt: instant,
    },
    table(sequelize, 'releases', 'created'),
  );
  noteChangesTo(ReleaseRow, 'release', 'id');
}

/** The ids of a release and of those before it, the latest first. */
export async function releasesUpTo(id: number, most: number): Promise<number[]> {
  const rows = await ReleaseRow.findAll({
    attributes: ['id'],
    where: { id: { [Op.lte]: id } },
    order: [['id', 'DESC']],
    limit: most,
    raw: true,
  });
  return rows.map((row) => row.id);
}

/** The latest releases without what is in them, the latest first. */
export function latestReleases(most: number): Promise<ReleaseRow[]> {
  return ReleaseRow.findAll({
    attributes: { exclude: ['snapshot'] },
    order: [['id', 'DESC']],
    limit: most,
  });
}

/** A release with its snapshot; null where there is none. */
export function releaseRow(id: number): Promise<ReleaseRow | null> {
  return ReleaseRow.findByPk(id);
}

export async function insertRelease(
  values: CreationAttributes<ReleaseRow>,
  transaction: Transaction,
): Promise<ReleaseRow> {
  const row = await ReleaseRow.create(values, { transaction });
  return row.reload({ transaction });
}
