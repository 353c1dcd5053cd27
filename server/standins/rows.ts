import {
  type CreationAttributes,
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
} from 'sequelize';
import { instant, serial, string, table } from '../store/columns.ts';
import { noteChangesTo } from '../store/noted-changes.ts';
import { inTransaction, type Transaction } from '../store/transaction.ts';

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

export async function insertMessages(messages: readonly CreationAttributes<MailboxRow>[]): Promise<void> {
  await inTransaction((transaction) => MailboxRow.bulkCreate([...messages], { transaction }));
}

/** The latest messages without what is in them, the latest first. */
export function latestMessages(most: number): Promise<MailboxRow[]> {
  return MailboxRow.findAll({
    attributes: ['id', 'recipient', 'subject', 'createdAt'],
    order: [['id', 'DESC']],
    limit: most,
  });
}

/** A message as it came; null where there is none. */
export function messageRow(id: number): Promise<MailboxRow | null> {
  return MailboxRow.findByPk(id);
}
