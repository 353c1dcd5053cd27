import {
  type CreationAttributes,
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  Op,
  type Sequelize,
  type Transaction,
} from 'sequelize';
import type { DeliveryStatus, SendReport, SendRequest } from '../../contract/mail.ts';
import type { HistoryEntry } from '../../contract/people.ts';
import { instant, serial, string, table } from '../store/columns.ts';
import { noteChange, noteChangesTo } from '../store/noted-changes.ts';
import { inTransaction } from '../store/transaction.ts';

/** Whom a send is for, as it was asked for. */
export type Recipients = Pick<SendRequest, 'contacts' | 'audience'>;

export class SendRow extends Model<InferAttributes<SendRow>, InferCreationAttributes<SendRow>> {
  declare id: CreationOptional<number>;
  declare documentId: string;
  declare documentName: string;
  declare releaseId: number;
  declare accountName: string;
  /** Null for those that were sent before they were worked off in the background. */
  declare recipients: CreationOptional<Recipients | null>;
  declare createdAt: CreationOptional<Date>;
  declare finishedAt: CreationOptional<Date | null>;
}

export class DeliveryRow extends Model<InferAttributes<DeliveryRow>, InferCreationAttributes<DeliveryRow>> {
  declare id: CreationOptional<number>;
  declare sendId: number;
  declare contactId: number;
  declare email: string;
  declare status: DeliveryStatus;
  declare reason: CreationOptional<string>;
}

/** Ties the tables to a connection. */
export function defineSends(sequelize: Sequelize): void {
  SendRow.init(
    {
      id: serial(),
      documentId: string,
      documentName: string,
      releaseId: DataTypes.INTEGER.UNSIGNED,
      accountName: string,
      recipients: DataTypes.JSON,
      createdAt: instant,
      finishedAt: instant,
    },
    table(sequelize, 'sends', 'created'),
  );
  noteChangesTo(SendRow, 'send', 'id');
  DeliveryRow.init(
    {
      id: serial(),
      sendId: DataTypes.INTEGER.UNSIGNED,
      contactId: DataTypes.INTEGER.UNSIGNED,
      email: string,
      status: string,
      reason: { type: string, defaultValue: '' },
    },
    table(sequelize, 'deliveries', 'created'),
  );
}

/** Most people of whom a report says why they got nothing. */
const mostNamed = 500;

/** How far a send is: how many in each status, and who got nothing or may not have, with the reason. */
export async function reportOf(id: number): Promise<Omit<SendReport, 'job'> | undefined> {
  const send = await SendRow.findByPk(id);
  if (!send) return undefined;
  const grouped = await DeliveryRow.count({ where: { sendId: id }, group: ['status'] });
  const counts = new Map(grouped.map(({ status, count }) => [status, count]));
  const named = (status: DeliveryStatus) =>
    DeliveryRow.findAll({
      attributes: ['email', 'reason'],
      where: { sendId: id, status },
      order: [['id', 'ASC']],
      limit: mostNamed,
      raw: true,
    });
  const [refused, unsure] = await Promise.all([named('refused'), named('unsure')]);
  return {
    id,
    isFinished: send.finishedAt !== null,
    recipients: grouped.reduce((sum, { count }) => sum + count, 0),
    sent: counts.get('accepted') ?? 0,
    waiting: (counts.get('waiting') ?? 0) + (counts.get('handing over') ?? 0),
    refused: refused.map(({ email, reason }) => ({ email, reason })),
    unsure: unsure.map(({ email }) => email),
  };
}

/** Adds the recipients of a send, each waiting. */
export async function addRecipients(
  sendId: number,
  people: readonly { readonly id: number; readonly email: string }[],
  transaction: Transaction,
): Promise<void> {
  await DeliveryRow.bulkCreate(
    people.map(({ id, email }) => ({
      sendId,
      contactId: id,
      email: email.slice(0, 254),
      status: 'waiting' as const,
    })),
    { transaction },
  );
}

/**
 * Takes the next recipients who wait, after the delivery of some id: they are being handed over from here on. Whoever is found so later, by another process,
 * may have got the message or not.
 */
export async function takeWaiting(
  sendId: number,
  { after, most }: { readonly after: number; readonly most: number },
  transaction: Transaction,
): Promise<DeliveryRow[]> {
  const rows = await DeliveryRow.findAll({
    where: { sendId, status: 'waiting', id: { [Op.gt]: after } },
    order: [['id', 'ASC']],
    limit: most,
    lock: true,
    transaction,
  });
  await DeliveryRow.update(
    { status: 'handing over' },
    { where: { id: rows.map(({ id }) => id) }, transaction },
  );
  return rows;
}

/**
 * What became of those who were taken, by their ids. Whoever knows it may say so, also when somebody else goes on with the
 * send by now and counts them as unsure.
 */
export async function settle(
  sendId: number,
  became: ReadonlyMap<number, { readonly status: DeliveryStatus; readonly reason: string }>,
): Promise<void> {
  const alike = new Map<string, number[]>();
  for (const [id, { status, reason }] of became) {
    const key = JSON.stringify({ status, reason });
    alike.set(key, [...(alike.get(key) ?? []), id]);
  }
  await inTransaction(async (transaction) => {
    for (const [values, id] of alike)
      await DeliveryRow.update(JSON.parse(values), {
        where: { id, status: ['handing over', 'unsure'] },
        transaction,
      });
    noteChange(transaction, 'send', String(sendId));
  });
}

/** Those who were being handed over when the process that did it ended: nobody knows whether they got it. */
export async function settleLeftBehind(sendId: number, transaction: Transaction): Promise<void> {
  await DeliveryRow.update(
    { status: 'unsure', reason: 'The server ended while this message was handed over.' },
    { where: { sendId, status: 'handing over' }, transaction },
  );
}

export function countWaiting(sendId: number): Promise<number> {
  return DeliveryRow.count({ where: { sendId, status: 'waiting' } });
}

export function countRecipients(sendId: number): Promise<number> {
  return DeliveryRow.count({ where: { sendId } });
}

export async function finishSend(id: number, transaction: Transaction): Promise<void> {
  await SendRow.update(
    { finishedAt: new Date() },
    { where: { id, finishedAt: { [Op.is]: null } }, transaction },
  );
}

/** The emails that a contact got, or would have got, as entries of its history; the latest first. */
export async function receivedBy(contactId: number, most: number): Promise<HistoryEntry[]> {
  const deliveries = await DeliveryRow.findAll({
    where: { contactId },
    order: [['id', 'DESC']],
    limit: most,
  });
  const sends = await SendRow.findAll({ where: { id: deliveries.map(({ sendId }) => sendId) } });
  const byId = new Map(sends.map((send) => [send.id, send]));
  return deliveries.flatMap(({ id, sendId, status, reason }): HistoryEntry[] => {
    const send = byId.get(sendId);
    if (!send) return [];
    const { documentId: document, documentName: name, accountName: by, createdAt } = send;
    const email = { document, name, refused: status === 'refused' ? reason : null };
    const at = createdAt.toISOString();
    return [{ id, at, kind: 'email', source: 'person', by, file: null, fields: {}, email }];
  });
}

export async function moveDeliveries(from: number, to: number, transaction: Transaction): Promise<void> {
  await DeliveryRow.update({ contactId: to }, { where: { contactId: from }, transaction });
}

/** Removes what is noted of messages to a contact; how many there were. */
export function eraseDeliveries(contactId: number, transaction: Transaction): Promise<number> {
  return DeliveryRow.destroy({ where: { contactId }, transaction });
}

export function insertSend(values: CreationAttributes<SendRow>, transaction: Transaction): Promise<SendRow> {
  return SendRow.create(values, { transaction });
}

/** A send; null where there is none. */
export function sendRow(id: number): Promise<SendRow | null> {
  return SendRow.findByPk(id);
}

/** The releases that emails were sent from. */
export async function releasesOfSends(): Promise<number[]> {
  const rows = await SendRow.findAll({ attributes: ['releaseId'], group: ['releaseId'], raw: true });
  return rows.map(({ releaseId }) => releaseId);
}
