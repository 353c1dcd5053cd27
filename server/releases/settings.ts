import { dequal } from 'dequal';
import { audiencesOfMenu } from '../../core/deciding/menu.ts';
import { type SiteSettings, type Snapshot, siteSettingsSchema } from '../../core/deciding/release.ts';
import { Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import { refuseGoneAudience, refuseGonePage } from '../snapshots/gone.ts';
import { settingOf, storeSetting } from '../store/rows.ts';
import { inTransaction } from '../store/transaction.ts';

/** What holds for the whole site; drafts like everything else until they are released. */
export class Settings {
  constructor(private readonly drafts: Drafts) {}

  async change(before: SiteSettings, settings: SiteSettings): Promise<SiteSettings> {
    const snapshot = await this.drafts.snapshot();
    await inTransaction(async (transaction) => {
      const current = siteSettingsSchema.parse(await settingOf('site', transaction));
      if (!dequal(current, before))
        throw new Refusal(409, 'Someone changed the settings after you opened them. Yours were not stored.', {
          current,
        });
      refuseGoneEntries(settings, current, snapshot);
      await storeSetting('site', settings, transaction);
    });
    return (await this.drafts.snapshot()).settings;
  }
}

/** Refuses what the settings newly lead to and is not there. */
function refuseGoneEntries(settings: SiteSettings, before: SiteSettings, snapshot: Snapshot): void {
  const known = new Set(audiencesOfMenu(before));
  for (const audience of audiencesOfMenu(settings))
    if (!known.has(audience)) refuseGoneAudience(audience, null, snapshot);
  refuseGonePage(settings.notFoundPage, before.notFoundPage, snapshot);
  refuseGonePage(settings.afterSignIn, before.afterSignIn, snapshot);
}
