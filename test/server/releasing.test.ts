import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Pending } from '../../contract/releases.ts';
import { DocumentRow } from '../../server/documents/rows.ts';
import { takeApart } from '../../server/releases/parts.ts';
import { ReleaseRow, storeParts } from '../../server/releases/rows.ts';
import { SettingRow } from '../../server/store/rows.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { type Instance, startInstance } from './instance.ts';

let first: Instance;
let instance: Instance;
const others: Instance[] = [];
beforeAll(async () => {
  first = await startInstance();
  instance = first;
});
afterAll(async () => {
  for (const one of others) await one.app.stop();
  await first.stop();
});

/** Another server on the same database, as one that starts anew. */
async function restart(): Promise<void> {
  instance = await startInstance(first);
  others.push(instance);
}

const pending = async (): Promise<Pending> => (await instance.studio.get('/api/releases/pending')).body;
const release = async (note: string) => {
  const { fingerprint } = await pending();
  return instance.studio.call('POST', '/api/releases', { note, fingerprint });
};
const rename = async (name: string) => {
  const stored = (await instance.studio.get('/api/documents/home')).body;
  const answer = await instance.studio.call('PUT', '/api/documents/home', { ...stored, name });
  expect(answer.status).toBe(200);
};

describe('a page from HTML', () => {
  it('of thousands of paragraphs is stored, released, and shown by a server that starts anew', async () => {
    const made = await instance.studio.call('POST', '/api/documents/from-html', {
      name: 'Long',
      slug: 'long',
      html: '<p>A paragraph</p>'.repeat(2001),
    });
    expect(made.status).toBe(201);
    expect((await release('A long page')).status).toBe(201);
    await restart();
    expect((await instance.visitor().get('/site/long')).text.match(/A paragraph/g)).toHaveLength(2001);
  });
});

describe('a release', () => {
  it('is made once, however many ask for it at the same time', async () => {
    await rename('Home, renamed');
    const before = await ReleaseRow.count();
    const answers = await Promise.all(Array.from({ length: 6 }, () => release('All at once')));
    const statuses = answers.map(({ status }) => status).sort();
    expect(statuses).toEqual([201, 422, 422, 422, 422, 422]);
    expect(await ReleaseRow.count()).toBe(before + 1);
  });

  it('that could not be shown is refused before anything is stored, with what is wrong', async () => {
    const row = await DocumentRow.findByPk('home');
    if (!row) throw new Error('the demo has a home page');
    const sound = row.content;
    // As another version, or somebody with the database open, may leave it.
    const broken = { ...sound, body: [{ ...sound.body[0], kind: 'hologram' }] } as never;
    await inTransaction((transaction) =>
      DocumentRow.update({ content: broken }, { where: { id: 'home' }, transaction }),
    );
    await restart();
    const before = await ReleaseRow.count();
    const answer = await release('A hologram');
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(await ReleaseRow.count()).toBe(before);
    await inTransaction((transaction) =>
      DocumentRow.update({ content: sound }, { where: { id: 'home' }, transaction }),
    );
    await restart();
    expect((await instance.visitor().get('/site/')).status).toBe(200);
  });
});

describe('a live release that can’t be read any more', () => {
  it('leaves the latest one that can on the site, says so, and can be replaced', async () => {
    await rename('Home before');
    const before = (await release('Can be read')).body.id;
    await rename('Home after');
    const after = (await release('Can’t be read')).body.id;
    const { contents, parts } = takeApart({ broken: true });
    await inTransaction(async (transaction) => {
      await storeParts(parts, transaction);
      await ReleaseRow.update({ contents }, { where: { id: after }, transaction });
    });
    await restart();
    const { liveRelease, unshown } = await pending();
    expect([liveRelease, unshown]).toEqual([before, after]);
    expect((await instance.visitor().get('/site/')).status).toBe(200);
    const refused = await instance.studio.call('POST', `/api/releases/${after}/live`);
    expect(refused.status).toBe(422);
    expect(refused.body.message).toContain(`Release ${after} can’t be shown`);
    expect((await SettingRow.findByPk('live-release'))?.value).toBe(after);
    await rename('Home again');
    expect((await release('Mended')).status).toBe(201);
    expect((await pending()).unshown).toBeNull();
  });
});

describe('the language of the site', () => {
  it.each(['en_GB', 'english', 'xx-XX-yy_', '12', 'a'])(
    'is refused where nothing can be written in it: %s',
    async (locale) => {
      const { body: settings } = await instance.studio.get('/api/settings');
      const answer = await instance.studio.call('PUT', '/api/settings', {
        before: settings,
        settings: { ...settings, locale },
      });
      expect(answer.status).toBe(400);
    },
  );
});

describe('an example that does not hold', () => {
  it('is told with the audience and holds a release back until it is said that it may stay so', async () => {
    const [person] = (await instance.studio.get('/api/contacts')).body.contacts;
    const audience = await instance.studio.call('POST', '/api/audiences', {
      name: 'Held to somebody',
      description: '',
      condition: { kind: 'any', of: [] },
      examples: [
        { contact: person.id, name: person.name, isIn: true },
        { contact: null, name: 'An anonymous visitor', isIn: false },
      ],
    });
    expect(audience.status).toBe(201);
    const listed = (await instance.studio.get('/api/audiences')).body;
    expect(listed.find(({ id }: { id: string }) => id === audience.body.id).brokenExamples).toBe(1);
    const { brokenExamples, fingerprint } = await pending();
    expect(brokenExamples).toEqual([
      {
        audience: audience.body.id,
        name: 'Held to somebody',
        contact: person.id,
        person: person.name,
        isIn: true,
      },
    ]);
    const asked = { note: '', fingerprint };
    const held = await instance.studio.call('POST', '/api/releases', asked);
    expect([held.status, held.body.message]).toEqual([
      422,
      `${person.name} should be in “Held to somebody” but isn’t. Fix the audience or its example, or release anyway.`,
    ]);
    const other = await instance.studio.call('POST', '/api/releases', {
      ...asked,
      accepted: [`${audience.body.id} ${person.id} out`],
    });
    expect(other.status).toBe(422);
    const accepted = [`${audience.body.id} ${person.id} in`];
    expect((await instance.studio.call('POST', '/api/releases', { ...asked, accepted })).status).toBe(201);
    // One that was accepted is asked for again the next time, as it may not be meant any more.
    await rename('Home once more');
    expect((await release('Again')).status).toBe(422);
    await instance.studio.call('DELETE', `/api/audiences/${audience.body.id}`);
    expect((await release('Without it')).status).toBe(201);
  });
});
