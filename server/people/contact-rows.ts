import { type CreationAttributes, type InferAttributes, Op } from 'sequelize';
import type { ChangeKind, ChangeSource } from '../../contract/people.ts';
import { addressKey } from '../../core/exchange/address-key.ts';
import type { Fields } from '../../core/exchange/merge.ts';
import { inTransaction, type Transaction } from '../store/transaction.ts';
import { ContactChangeRow, ContactRow, SiteAccountRow } from './rows.ts';

export function countContacts(): Promise<number> {
  return ContactRow.count();
}

/** A contact; within a transaction it stays as it is until that ends. Null where there is none. */
export function contactRow(id: number, transaction?: Transaction): Promise<ContactRow | null> {
  return ContactRow.findByPk(id, transaction && { transaction, lock: true });
}

/** Contacts by their ids, in no order. */
export function contactsOf(ids: readonly number[]): Promise<ContactRow[]> {
  return ContactRow.findAll({ raw: true, where: { id: [...ids] } });
}

/** The names of contacts by their ids. */
export async function contactNames(ids: readonly number[]): Promise<ReadonlyMap<number, string>> {
  const rows = await ContactRow.findAll({
    attributes: ['id', 'name'],
    where: { id: [...ids] },
    raw: true,
  });
  return new Map(rows.map(({ id, name }) => [id, name]));
}

/** What is exported of some contacts, by their ids. */
export async function contactsToExport(
  ids: readonly number[],
): Promise<ReadonlyMap<number, Pick<ContactRow, 'id' | 'email' | 'externalId' | 'values'>>> {
  const rows = await ContactRow.findAll({
    raw: true,
    attributes: ['id', 'email', 'externalId', 'values'],
    where: { id: [...ids] },
  });
  return new Map(rows.map((row) => [row.id, row]));
}

/** Who has an email address, or is known to another system by an id; undefined where nobody is. */
export async function contactKnownBy(
  known: { readonly email: string } | { readonly externalId: string },
  transaction?: Transaction,
): Promise<Pick<ContactRow, 'id' | 'name' | 'email'> | undefined> {
  const row = await ContactRow.findOne({
    attributes: ['id', 'name', 'email'],
    where: 'email' in known ? { emailKey: addressKey(known.email) } : { externalId: known.externalId },
    transaction: transaction ?? null,
  });
  return row ?? undefined;
}

export function insertContact(
  values: CreationAttributes<ContactRow>,
  transaction: Transaction,
): Promise<ContactRow> {
  return ContactRow.create(values, { transaction });
}

export async function updateContact(
  row: ContactRow,
  values: Partial<InferAttributes<ContactRow>>,
  transaction: Transaction,
): Promise<void> {
  await row.update(values, { transaction });
}

export async function deleteContact(row: ContactRow, transaction: Transaction): Promise<void> {
  await row.destroy({ transaction });
}

/** Notes that a contact wants no more mail; what was noted earlier stays. */
export async function stopMail(id: number): Promise<void> {
  await inTransaction((transaction) =>
    ContactRow.update({ unsubscribedAt: new Date() }, { where: { id, unsubscribedAt: null }, transaction }),
  );
}

/** Those of some contacts who have stopped mail. */
export async function stoppedAmong(ids: readonly number[]): Promise<Set<number>> {
  const rows = await ContactRow.findAll({
    attributes: ['id'],
    where: { id: [...ids], unsubscribedAt: { [Op.not]: null } },
    raw: true,
  });
  return new Set(rows.map(({ id }) => id));
}

/** Notes in the history of a contact what happened to it. */
export async function recordChange(
  change: {
    readonly contactId: number;
    readonly kind: ChangeKind;
    readonly source: ChangeSource;
    readonly accountName: string;
    readonly fields: Fields;
  },
  transaction: Transaction,
): Promise<void> {
  await ContactChangeRow.create(change, { transaction });
}

/** What happened to a contact, the latest first. */
export function historyOf(contactId: number, most: number): Promise<ContactChangeRow[]> {
  return ContactChangeRow.findAll({ where: { contactId }, order: [['id', 'DESC']], limit: most });
}

/** How much is noted of a contact, and which imports it is in. */
export async function noted(
  contactId: number,
  transaction: Transaction,
): Promise<{ changes: number; imports: number[] }> {
  const rows = await ContactChangeRow.findAll({
    attributes: ['importId'],
    where: { contactId },
    transaction,
  });
  return { changes: rows.length, imports: [...new Set(rows.flatMap(({ importId }) => importId ?? []))] };
}

/** Gives the history of one contact to another. */
export async function moveHistory(from: number, to: number, transaction: Transaction): Promise<void> {
  await ContactChangeRow.update({ contactId: to }, { where: { contactId: from }, transaction });
}

/** The account of the site that a contact has; null where it has none. */
export function siteAccount(contactId: number, transaction?: Transaction): Promise<SiteAccountRow | null> {
  return SiteAccountRow.findByPk(contactId, transaction && { transaction });
}

/** Those of some contacts who have an account of the site. */
export async function haveAccount(ids: readonly number[]): Promise<Set<number>> {
  const rows = await SiteAccountRow.findAll({
    raw: true,
    attributes: ['contactId'],
    where: { contactId: [...ids] },
  });
  return new Set(rows.map(({ contactId }) => contactId));
}

/** Gives the account of one contact to another who has none. */
export async function moveAccount(from: number, to: number, transaction: Transaction): Promise<void> {
  if (await siteAccount(to, transaction)) return;
  await SiteAccountRow.update({ contactId: to }, { where: { contactId: from }, transaction });
}
