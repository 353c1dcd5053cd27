import type { FirstStart } from '../../contract/first-start.ts';
import { type Attribute, attributeSchema } from '../../core/attributes/attribute.ts';
import { siteSettingsSchema } from '../../core/deciding/release.ts';
import { insertFirstAttributes } from '../people/rows.ts';
import { Refusal } from '../refusal.ts';
import { storeSetting } from '../store/rows.ts';
import { inTransactionAmongOthers } from '../store/transaction.ts';
import { hashPassword } from './passwords.ts';
import { type AccountRow, countAccounts, insertAccount } from './rows.ts';

/** What nearly everybody keeps about people; a file that is imported brings the rest. */
const firstAttributes: Attribute[] = [
  { id: 'lists', type: 'set', label: 'lists', choices: [] },
  { id: 'tags', type: 'set', label: 'tags', choices: [] },
].map((attribute) => attributeSchema.parse({ ...attribute, source: 'contact' }));

/** Whether nobody can sign in yet, because there is no account at all. */
export class FirstStarts {
  private areOver = false;

  async isDue(): Promise<boolean> {
    // An account can't be deleted when it is the only one, so this is asked until it is no.
    if (!this.areOver) this.areOver = (await countAccounts()) > 0;
    return !this.areOver;
  }

  /**
   * Makes the first account, the settings of the site and the attributes to begin with. Refused with 409 as soon as there is
   * an account; of two who do this at the same moment, one is refused.
   */
  async begin({ siteName, zone, locale, name, email, password }: FirstStart): Promise<AccountRow> {
    if (!(await this.isDue())) throw isOver();
    const passwordHash = await hashPassword(password);
    const settings = siteSettingsSchema.parse({
      name: siteName,
      zone,
      locale,
      postalAddress: '',
      fromAddress: email,
    });
    const account = await inTransactionAmongOthers(async (transaction) => {
      // Whoever comes second waits here for the first.
      await storeSetting('site', settings, transaction);
      if ((await countAccounts(transaction)) > 0) throw isOver();
      await insertFirstAttributes(firstAttributes, transaction);
      return insertAccount({ email, name, passwordHash }, transaction);
    });
    this.areOver = true;
    return account;
  }
}

const isOver = () => new Refusal(409, 'This installation has its first account already. Sign in with it.');
