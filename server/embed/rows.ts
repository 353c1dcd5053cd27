import {
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
} from 'sequelize';
import { id, instant, string, table } from '../store/columns.ts';
import { noteChangesTo } from '../store/noted-changes.ts';

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

/** Ties the tables to a connection. */
export function defineApiKeys(sequelize: Sequelize): void {
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
    table(sequelize, 'api_keys', 'created'),
  );
  noteChangesTo(ApiKeyRow, 'api-key', 'id');
}
