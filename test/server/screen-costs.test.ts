import { afterAll, beforeAll, expect, it } from 'vitest';
import { inAudience } from '../../core/conditions/condition.ts';
import { AudienceRow } from '../../server/audiences/rows.ts';
import { ItemRow } from '../../server/collections/rows.ts';
import { DocumentRow } from '../../server/documents/rows.ts';
import { ContactRow } from '../../server/people/rows.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { type Instance, startInstance } from './instance.ts';

let instance: Instance;
/** How many statements the server sent to its database. */
let statements = 0;

beforeAll(async () => {
  instance = await startInstance();
  instance.sequelize.addHook('afterQuery', (_options, query) => {
    // Not what is asked by the clock, such as what others changed and what there is to do.
    if (!/\b(?:change_position|jobs|FROM changes)\b/.test(String(Reflect.get(query, 'sql')))) statements++;
  });
});
afterAll(() => instance.stop());

const always = ['/session', '/releases/pending', '/settings'];
/** The requests that each screen makes when it is opened, besides those that every screen makes. */
const screens: { readonly [screen: string]: readonly string[] } = {
  People: ['/contacts?limit=50', '/audiences', '/attributes'],
  'a contact': ['/contacts/3', '/contacts/3/history', '/contacts/3/sees', '/attributes'],
  Attributes: ['/attributes', '/attributes/city/profile', '/set-aside'],
  Audiences: ['/audiences', '/attributes', '/facts', '/team'],
  'an audience': ['/audiences', '/audiences/midnight-members/versions', '/attributes'],
  Pages: ['/documents', '/audiences'],
  'a page': [
    '/documents/membership',
    '/documents/shared',
    '/audiences',
    '/attributes',
    '/library',
    '/pictures',
  ],
  Collections: ['/collections', '/library', '/audiences'],
  Releases: ['/releases'],
  Imports: ['/imports'],
  Activity: ['/jobs'],
  Mailbox: ['/mailbox?search='],
  Embedding: ['/embedding', '/api-keys'],
};

/** Adds as many pages, audiences, items and contacts as are wanted. */
async function grow(from: number, to: number): Promise<void> {
  const { body: collections } = await instance.studio.get('/api/collections');
  await inTransaction(async (transaction) => {
    for (let n = from; n < to; n++) {
      const id = `grown-${n}`;
      const condition = inAudience('midnight-members');
      await AudienceRow.create({ id, name: id, description: '', condition }, { transaction });
      const variants = [{ id: `v${n}`, audience: id, content: [] }];
      const body = [{ kind: 'slot' as const, id: 's', name: 'Slot', variants, otherwise: [] }];
      const content = { subject: [], preview: [], body };
      await DocumentRow.create({ id, kind: 'page', name: id, slug: id, content }, { transaction });
      const collectionId = collections[0].id;
      const window = { access: null, publishFrom: null, publishUntil: null };
      const item = { id, collectionId, slug: id, title: id, teaser: '', values: {}, position: n, ...window };
      await ItemRow.create(item, { transaction });
      await ContactRow.create({ email: `${id}@example.org`, name: id, values: {} }, { transaction });
    }
  });
}

/** How many statements opening each screen takes, once what all of them share is there. */
async function costs(): Promise<{ [screen: string]: number }> {
  const open = async (paths: readonly string[]) => {
    statements = 0;
    for (const path of paths) {
      const { status } = await instance.studio.get(`/api${path}`);
      expect([path, status]).toEqual([path, 200]);
    }
    return statements;
  };
  const found: { [screen: string]: number } = {};
  for (const [screen, paths] of Object.entries(screens)) {
    await open([...always, ...paths]);
    found[screen] = await open([...always, ...paths]);
  }
  return found;
}

it('opening any screen takes as many statements on a large site as on a small one, and few', async () => {
  await grow(0, 5);
  const small = await costs();
  await grow(5, 65);
  expect(await costs()).toEqual(small);
  for (const [screen, count] of Object.entries(small)) expect([screen, count <= 12]).toEqual([screen, true]);
});
