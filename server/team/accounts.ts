import { contactKnownBy, siteAccount } from '../people/contact-rows.ts';
import { settingOf, storeSetting } from '../store/rows.ts';
import { inTransactionAmongOthers } from '../store/transaction.ts';
import { verifyNobody, verifyPassword } from './passwords.ts';
import { type AccountRow, accountOf } from './rows.ts';

/** The team account of an email and password, or undefined; takes as long for an unknown email as for a known. */
export async function findAccount(email: string, password: string): Promise<AccountRow | undefined> {
  const row = await accountOf(email);
  const matches = row ? await verifyPassword(password, row.passwordHash) : await verifyNobody(password);
  return row && matches ? row : undefined;
}

/** The contact of a known user who signs in on the site, by id. */
export async function findSiteUser(email: string, password: string): Promise<number | undefined> {
  const contact = await contactKnownBy({ email });
  const account = contact ? await siteAccount(contact.id) : null;
  const matches = account?.passwordHash
    ? await verifyPassword(password, account.passwordHash)
    : await verifyNobody(password);
  return matches ? contact?.id : undefined;
}

export async function isDemo(): Promise<boolean> {
  return (await settingOf('demo')) === true;
}

/** A secret of this instance, made at its first use and kept in the database. */
export async function instanceSecret(make: () => string): Promise<string> {
  const secret = await inTransactionAmongOthers(async (transaction) => {
    const stored = await settingOf('secret', transaction);
    if (stored !== undefined) return stored;
    const made = make();
    await storeSetting('secret', made, transaction);
    return made;
  });
  if (typeof secret !== 'string') throw new Error('the stored secret is unreadable');
  return secret;
}
