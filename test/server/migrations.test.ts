import { randomBytes } from 'node:crypto';
import { Sequelize } from 'sequelize';
import { expect, it } from 'vitest';
import { migrations } from '../../server/store/migrations/index.ts';
import { AudienceRow, ContactRow, defineModels } from '../../server/store/models.ts';

it('brings a database of the first version up to date with everything that is in it', async () => {
  const server = process.env.TEST_DATABASE_SERVER;
  if (!server) throw new Error('TEST_DATABASE_SERVER is not set; run the tests with npm test');
  const name = `apple_porch_test_${randomBytes(6).toString('hex')}`;
  const admin = new Sequelize(`${server}/`, { dialect: 'mysql', logging: false });
  await admin.query(`CREATE DATABASE \`${name}\` CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci`);
  const sequelize = new Sequelize(`${server}/${name}`, { dialect: 'mysql', logging: false });
  try {
    const [first, ...later] = migrations;
    await first?.up({ context: sequelize.getQueryInterface() });
    await sequelize.query(
      `INSERT INTO contacts (email, name, \`values\`) VALUES ('Ada@example.org', 'Ada', '{"city":"Tarnley"}')`,
    );
    await sequelize.query(
      `INSERT INTO audiences (id, name, description, \`condition\`) VALUES ('all', 'All', '', '{"kind":"all","of":[]}')`,
    );
    for (const { up } of later) await up({ context: sequelize.getQueryInterface() });
    defineModels(sequelize);
    expect(await ContactRow.findAll({ raw: true })).toMatchObject([
      { email: 'Ada@example.org', externalId: null, values: { city: 'Tarnley' } },
    ]);
    expect(await AudienceRow.findAll({ raw: true })).toMatchObject([
      { name: 'All', examples: [], archivedAt: null, condition: { kind: 'all', of: [] } },
    ]);
    expect(await ContactRow.findAll({ raw: true })).toMatchObject([
      { emailKey: 'ada@example.org', folded: { city: 'tarnley', email: 'ada@example.org' } },
    ]);
    const named = (email: string) => ContactRow.create({ email, name: 'Ada', values: {} });
    await expect(named('ADA@example.org')).rejects.toThrow();
    // Accents tell people apart, as case does not, however they are encoded.
    await named('ad\u00e1@example.org');
    await expect(named('ada\u0301@example.org')).rejects.toThrow();
    const rows = await ContactRow.findAll({ raw: true, order: ['id'] });
    expect(rows.map(({ emailKey }) => emailKey)).toEqual(['ada@example.org', 'ad\u00e1@example.org']);
  } finally {
    await admin.query(`DROP DATABASE \`${name}\``);
    await sequelize.close();
    await admin.close();
  }
});
