import {
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
} from 'sequelize';
import type { Change } from '../../core/deciding/changes.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { instant, nested, serial, string, table } from '../store/columns.ts';
import { noteChangesTo } from '../store/noted-changes.ts';

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
