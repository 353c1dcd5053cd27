import { randomBytes } from 'node:crypto';
import { Sequelize } from 'sequelize';
import { expect, it } from 'vitest';
import { AudienceRow } from '../../server/audiences/rows.ts';
import { ContactChangeRow, ContactRow, SetAsideRow } from '../../server/people/rows.ts';
import { ReleasePartRow, storedSnapshot } from '../../server/releases/rows.ts';
import { reachBy } from '../../server/store/connection.ts';
import { readAccess } from '../../server/store/hosts.ts';
import { migrations } from '../../server/store/migrations/index.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { defineTables } from '../../server/tables.ts';

it('brings a database of the first version up to date with everything that is in it', async () => {
  const server = process.env.TEST_DATABASE_SERVER;
  if (!server) throw new Error('TEST_DATABASE_SERVER is not set; run the tests with npm test');
  const name = `apple_porch_test_${randomBytes(6).toString('hex')}`;
  const admin = new Sequelize(`${server}/`, { dialect: 'mysql', logging: false });
  await admin.query(`CREATE DATABASE \`${name}\` CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci`);
  const sequelize = new Sequelize(`${server}/${name}`, { dialect: 'mysql', logging: false });
  const access = readAccess(`${server}/${name}`);
  if (access) reachBy(sequelize, access);
  try {
    const [first, ...later] = migrations;
    await first?.up({ context: sequelize.getQueryInterface() });
    await sequelize.query(
      `INSERT INTO contacts (email, name, \`values\`) VALUES ('Ada@example.org', 'Ada', '{"city":"Tarnley"}')`,
    );
    await sequelize.query(
      `INSERT INTO audiences (id, name, description, \`condition\`) VALUES ('all', 'All', '', '{"kind":"all","of":[]}')`,
    );
    for (const definition of [
      { id: 'visits', source: 'contact', label: 'visits', description: '', type: 'number', whole: true },
      {
        id: 'tags',
        source: 'contact',
        label: 'tags',
        description: '',
        type: 'set',
        choices: ['a', 'b', 'c'].map((id) => ({ id, label: id })),
        exclusiveGroups: [{ name: 'either', members: ['c', 'a'] }],
      },
    ])
      await sequelize.query('INSERT INTO attributes (id, position, definition) VALUES (?, 1, ?)', {
        replacements: [definition.id, JSON.stringify(definition)],
      });
    for (const [name, values] of [
      ['grace', { visits: 2.5, city: 'Tarnley', tags: ['b', 'c', 'a'] }],
      ['whole', { visits: 3, tags: ['b', 'c'] }],
    ] as const)
      await sequelize.query('INSERT INTO contacts (email, name, `values`) VALUES (?, ?, ?)', {
        replacements: [`${name}@example.org`, name, JSON.stringify(values)],
      });
    const snapshots = [
      { settings: { name: 'Almanac' }, audiences: [{ id: 'all' }], documents: [], extra: null },
      { settings: { name: 'Almanac' }, audiences: [{ id: 'all' }, { id: 'new' }], documents: [] },
    ];
    for (const snapshot of snapshots)
      await sequelize.query(
        "INSERT INTO releases (note, accountName, changes, snapshot, createdAt) VALUES ('', 'Maya', '[]', ?, NOW())",
        { replacements: [JSON.stringify(snapshot)] },
      );
    for (const { up } of later) await up({ context: sequelize.getQueryInterface() });
    defineTables(sequelize);
    for (const [index, snapshot] of snapshots.entries())
      expect(await storedSnapshot(index + 1)).toEqual(snapshot);
    // The settings and one audience are the same in both: settings, two audiences, and what is null.
    expect(await ReleasePartRow.count()).toBe(4);
    expect(await ContactRow.findAll({ raw: true, where: { name: 'Ada' } })).toMatchObject([
      { email: 'Ada@example.org', externalId: null, values: { city: 'Tarnley' } },
    ]);
    expect(await AudienceRow.findAll()).toMatchObject([
      { name: 'All', examples: [], archivedAt: null, condition: { kind: 'all', of: [] } },
    ]);
    expect(await ContactRow.findAll({ raw: true, where: { name: 'Ada' } })).toMatchObject([
      { emailKey: 'ada@example.org', folded: { city: 'tarnley', email: 'ada@example.org' } },
    ]);
    // What an attribute does not allow is taken out, is in the history, and is listed.
    const others = await ContactRow.findAll({
      raw: true,
      where: { name: ['grace', 'whole'] },
      order: ['id'],
    });
    expect(others.map(({ values }) => values)).toEqual([
      { city: 'Tarnley', tags: ['b', 'a'] },
      { visits: 3, tags: ['b', 'c'] },
    ]);
    const grace = others[0]?.id;
    expect(await ContactChangeRow.findAll({ raw: true })).toMatchObject([
      {
        contactId: grace,
        kind: 'changed',
        source: 'update',
        fields: {
          visits: [2.5, null],
          tags: [
            ['b', 'c', 'a'],
            ['b', 'a'],
          ],
        },
      },
    ]);
    expect(await SetAsideRow.findAll({ raw: true, order: ['attribute'] })).toMatchObject([
      { attribute: 'tags', contactId: grace, value: ['b', 'c', 'a'] },
      { attribute: 'visits', contactId: grace, value: 2.5 },
    ]);
    const named = (email: string) =>
      inTransaction((transaction) => ContactRow.create({ email, name: 'Ada', values: {} }, { transaction }));
    await expect(named('ADA@example.org')).rejects.toThrow();
    // Accents tell people apart, as case does not, however they are encoded.
    await named('ad\u00e1@example.org');
    await expect(named('ada\u0301@example.org')).rejects.toThrow();
    const rows = await ContactRow.findAll({ raw: true, where: { name: 'Ada' }, order: ['id'] });
    expect(rows.map(({ emailKey }) => emailKey)).toEqual(['ada@example.org', 'ad\u00e1@example.org']);
  } finally {
    await admin.query(`DROP DATABASE \`${name}\``);
    await sequelize.close();
    await admin.close();
  }
});
