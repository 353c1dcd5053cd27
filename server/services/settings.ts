import { same } from '../../core/deciding/changes.ts';
import { type SiteSettings, siteSettingsSchema } from '../../core/deciding/release.ts';
import { Refusal } from '../refusal.ts';
import { SettingRow } from '../store/models.ts';
import { inTransaction } from '../store/transaction.ts';
import type { Drafts } from './drafts.ts';

/** What holds for the whole site; drafts like everything else until they are released. */
export class Settings {
  constructor(private readonly drafts: Drafts) {}

  async change(before: SiteSettings, settings: SiteSettings): Promise<SiteSettings> {
    await inTransaction(async (transaction) => {
      const row = await SettingRow.findByPk('site', { transaction, lock: true });
      const current = siteSettingsSchema.parse(row?.value);
      if (!same(current, before))
        throw new Refusal(
          409,
          'Somebody changed the settings after you opened them. Yours were not stored.',
          {
            current,
          },
        );
      await SettingRow.upsert({ key: 'site', value: settings }, { transaction });
    });
    this.drafts.changed();
    return (await this.drafts.snapshot()).settings;
  }
}
