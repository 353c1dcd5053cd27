import { dequal } from 'dequal';
import { withPath } from '../../core/deciding/menu.ts';
import { siteSettingsSchema } from '../../core/deciding/release.ts';
import type { DocumentKind } from '../../core/documents/document.ts';
import { refuseTakenAddress } from '../collections/collections.ts';
import { Refusal } from '../refusal.ts';
import { settingOf, storeSetting } from '../store/rows.ts';
import type { Transaction } from '../store/transaction.ts';
import { documentAt, pageAt } from './rows.ts';

/** Refuses a path that another document of the kind has; a page's also where a collection has it. */
export async function refuseTaken(
  kind: DocumentKind,
  slug: string,
  except: string | undefined,
  transaction: Transaction,
): Promise<void> {
  if (kind === 'page' && slug !== '') return refuseTakenAddress(slug, except, pageAt, transaction);
  const taken = await documentAt(kind, slug, transaction);
  if (taken && taken.id !== except)
    throw new Refusal(422, `“${taken.name}” has the address “${slug || '/'}” already. Choose another.`, {
      fields: [{ path: 'slug', message: 'is taken' }],
    });
}

/** Lets the menu lead to a page's new path. */
export async function moveInMenu(before: string, after: string, transaction: Transaction): Promise<void> {
  const settings = siteSettingsSchema.safeParse(await settingOf('site', transaction)).data;
  if (!settings?.menu) return;
  const menu = withPath(settings.menu, before, after);
  if (!dequal(menu, settings.menu)) await storeSetting('site', { ...settings, menu }, transaction);
}
