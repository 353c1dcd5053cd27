import { addressKey } from '../../core/exchange/address-key.ts';
import { ContactRow, SiteAccountRow } from '../people/rows.ts';
import { SettingRow } from '../store/rows.ts';
import { inTransactionAmongOthers } from '../store/transaction.ts';
import { verifyNobody, verifyPassword } from './passwords.ts';
import { AccountRow } from './rows.ts';

/** The team account of an email and password, or undefined; takes as long for an unknown email as for a known. */
export async function findAccount(email: string, password: string): Promise<AccountRow | undefined> {
  const row = await AccountRow.findOne({ where: { email } });
  const matches = row ? await verifyPassword(password, row.passwordHash) : await verifyNobody(password);
  return row && matches ? row : undefined;
}

/** The contact of a known user who signs in on the site, by id. */
export async function findSiteUser(email: string, password: string): Promise<number | undefined> {
  const contact = await ContactRow.findOne({
    attributes: ['id'],
    where: { emailKey: addressKey(email) },
  });
  const account = contact ? await SiteAccountRow.findByPk(contact.id) : null;
  const matches = account?.passwordHash
    ? await verifyPassword(password, account.passwordHash)
    : await verifyNobody(password);
  return matches ? contact?.id : undefined;
}

export async function isDemo(): Promise<boolean> {
  return (await SettingRow.findByPk('demo'))?.value === true;
}

/** A secret of this instance, made at its first use and kept in the database. */
export async function instanceSecret(make: () => string): Promise<string> {
  const row = await inTransactionAmongOthers(
    async (transaction) =>
      (await SettingRow.findByPk('secret', { transaction })) ??
      SettingRow.create({ key: 'secret', value: make() }, { transaction }),
  );
  if (typeof row.value !== 'string') throw new Error('the stored secret is unreadable');
  return row.value;
}

/** The names of everybody who works in the studio. */
export async function teamNames(): Promise<string[]> {
  const rows = await AccountRow.findAll({ raw: true, attributes: ['name'], order: [['name', 'ASC']] });
  return rows.map(({ name }) => name);
}
