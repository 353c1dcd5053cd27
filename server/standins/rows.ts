import {
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
  type Transaction,
} from 'sequelize';
import { instant, serial, string, table } from '../store/columns.ts';
import { noteChangesTo } from '../store/noted-changes.ts';

export class MailboxRow extends Model<InferAttributes<MailboxRow>, InferCreationAttributes<MailboxRow>> {
  declare id: CreationOptional<number>;
  declare recipient: string;
  declare subject: string;
  declare raw: Buffer;
  declare createdAt: CreationOptional<Date>;
}

/** Ties the tables to a connection. */
export function defineMailbox(sequelize: Sequelize): void {
  MailboxRow.init(
    { id: serial(), recipient: string, subject: string, raw: DataTypes.BLOB('medium'), createdAt: instant },
    table(sequelize, 'standin_mailbox', 'created'),
  );
  noteChangesTo(MailboxRow, 'message', 'id');
}

/** Removes the messages to an address; how many there were. */
export function eraseMessages(recipient: string, transaction: Transaction): Promise<number> {
  return MailboxRow.destroy({ where: { recipient }, transaction });
}
