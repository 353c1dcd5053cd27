import { readFileSync } from 'node:fs';
import { localDay } from '../../core/attributes/calendar.ts';
import { changesBetween } from '../../core/deciding/changes.ts';
import {
  demoAccount,
  demoAttributes,
  demoAudiences,
  demoColleague,
  demoCollections,
  demoDocuments,
  demoFiles,
  demoItems,
  demoPeople,
  demoSeed,
  demoSettings,
  demoSiteAccounts,
  demoSitePassword,
  demoSize,
  demoSnapshot,
} from '../../demo/scenario.ts';
import { AudienceRow } from '../audiences/rows.ts';
import { CollectionRow, ItemRow } from '../collections/rows.ts';
import { DocumentRow, FileRow } from '../documents/rows.ts';
import { displayName } from '../people/display-name.ts';
import { AttributeRow, ContactRow, SiteAccountRow } from '../people/rows.ts';
import { liveReleaseKey } from '../releases/releases.ts';
import { insertRelease } from '../releases/rows.ts';
import { SettingRow } from '../store/rows.ts';
import { inTransaction } from '../store/transaction.ts';
import { hashPassword } from '../team/passwords.ts';
import { AccountRow } from '../team/rows.ts';

/** Loads the demo into an empty database, in one transaction. Does nothing where there is an account already. */
export async function loadDemoWhenEmpty(instant: number): Promise<void> {
  if ((await AccountRow.count()) > 0) return;
  const [teamHash, siteHash] = await Promise.all([
    hashPassword(demoAccount.password),
    hashPassword(demoSitePassword),
  ]);
  const people = demoPeople(demoSize, demoSeed, localDay(instant, demoSettings.zone));
  await inTransaction(async (transaction) => {
    for (const { email, name } of [demoAccount, demoColleague])
      await AccountRow.create({ email, name, passwordHash: teamHash }, { transaction });
    await SettingRow.bulkCreate(
      [
        { key: 'site', value: demoSettings },
        { key: 'demo', value: true },
      ],
      { transaction },
    );
    await AttributeRow.bulkCreate(
      demoAttributes.map((definition, position) => ({ id: definition.id, position, definition })),
      { transaction },
    );
    const { name: ownerName } = demoAccount;
    await AudienceRow.bulkCreate(
      demoAudiences.map((audience) => ({ ...audience, ownerName })),
      { transaction },
    );
    for (const { collection = null, access = null, ...document } of demoDocuments)
      await DocumentRow.create({ ...document, access, collectionId: collection }, { transaction });
    await CollectionRow.bulkCreate(demoCollections, { transaction });
    await ItemRow.bulkCreate(
      demoItems.map(({ collection, from, until, ...item }) => ({
        ...item,
        collectionId: collection,
        publishFrom: from === null ? null : new Date(from),
        publishUntil: until === null ? null : new Date(until),
      })),
      { transaction },
    );
    for (const name of demoFiles)
      await FileRow.create(
        {
          id: `demo-${name}`,
          name: `${name}.svg`,
          type: 'image/svg+xml',
          bytes: readFileSync(new URL(`../../demo/pictures/${name}.svg`, import.meta.url)),
        },
        { transaction },
      );
    const snapshot = demoSnapshot;
    const release = await insertRelease(
      {
        note: 'The site opens',
        accountName: demoAccount.name,
        changes: changesBetween(undefined, snapshot),
        snapshot,
      },
      transaction,
    );
    await SettingRow.create({ key: liveReleaseKey, value: release.id }, { transaction });
    const rows = people.map(({ email, values }, index) => ({
      id: index + 1,
      email,
      name: displayName(values, email),
      values,
    }));
    await ContactRow.bulkCreate(rows, { transaction });
    const listed = new Set(demoSiteAccounts.map((account) => account.email));
    await SiteAccountRow.bulkCreate(
      people.flatMap(({ email, hasAccount }, index) =>
        hasAccount ? [{ contactId: index + 1, passwordHash: listed.has(email) ? siteHash : null }] : [],
      ),
      { transaction },
    );
  });
}
