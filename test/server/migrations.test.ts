import { randomBytes } from 'node:crypto';
import { QueryTypes, Sequelize } from 'sequelize';
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
    const twice = sequelize.query(
      `INSERT INTO contacts (email, name, \`values\`) VALUES ('ADA@example.org', 'Ada', '{}')`,
    );
    await expect(twice).rejects.toThrow();
    // Accents tell people apart, as case does not.
    await sequelize.query(
      `INSERT INTO contacts (email, name, \`values\`) VALUES ('adá@example.org', 'Adá', '{}')`,
    );
    const rows = await sequelize.query('SELECT emailKey FROM contacts ORDER BY id', {
      type: QueryTypes.SELECT,
    });
    expect(rows).toEqual([{ emailKey: 'ada@example.org' }, { emailKey: 'adá@example.org' }]);
  } finally {
    await admin.query(`DROP DATABASE \`${name}\``);
    await sequelize.close();
    await admin.close();
  }
});
