import { afterAll, beforeAll, expect, it } from 'vitest';
import { changeEventSchema, type LoggedChange } from '../../contract/changes.ts';
import { differenceEncoding, positionHeader } from '../../contract/headers.ts';
import { inAudience } from '../../core/conditions/condition.ts';
import { AudienceRow } from '../../server/audiences/rows.ts';
import { ItemRow } from '../../server/collections/rows.ts';
import { DocumentRow } from '../../server/documents/rows.ts';
import { ContactRow } from '../../server/people/rows.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { isMadeOf } from '../../web/data/made-of.ts';
import { changedDocuments, listPath } from '../../web/data/some-documents.ts';
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

/** Changes of one thing each; every other time back to what it was, so that what crosses the wire is as long. */
const edits: { readonly [what: string]: (round: number) => Promise<unknown> } = {
  'a contact': async (round) => {
    const { values, updatedAt } = await get('/contacts/3');
    const { email: _, ...own } = values;
    return put('/contacts/3', {
      values: { ...own, city: round % 2 === 0 ? 'Ash' : 'Elm' },
      mail: true,
      updatedAt,
    });
  },
  'an audience': async (round) => {
    const { name, description, condition, examples, revision } = await one('/audiences', 'midnight-members');
    const renamed = { name: otherName(name, round), description, condition, examples, revision };
    return put('/audiences/midnight-members', renamed);
  },
  'the words of a page': async (round) => {
    const { id: _id, kind: _kind, updatedAt: _at, content, ...page } = await get('/documents/membership');
    const heading = { kind: 'heading', id: 'costs', level: 2, content: [] };
    const words = { ...heading, content: [{ type: 'text', text: round % 2 === 0 ? 'One' : 'Two' }] };
    const body = [words, ...content.body.filter(({ id }: { id: string }) => id !== 'costs')];
    return put('/documents/membership', { ...page, content: { ...content, body } });
  },
  'an attribute': async (round) => {
    const before = await one('/attributes', 'city');
    return put('/attributes/city', {
      before,
      attribute: { ...before, label: round % 2 === 0 ? 'town' : 'city' },
    });
  },
  'the settings': async (round) => {
    const before = await get('/settings');
    return put('/settings', { before, settings: { ...before, name: otherName(before.name, round) } });
  },
};

function otherName(name: string | undefined, round: number): string {
  return `${String(name).replace(/[01]$/, '')}${round % 2}`;
}

async function get(path: string) {
  const { status, body, text } = await instance.studio.get(`/api${path}`);
  expect([path, status, status === 200 ? '' : text]).toEqual([path, 200, '']);
  return body;
}

async function one(path: string, id: string) {
  return (await get(path)).find((entry: { id: string }) => entry.id === id);
}

async function put(path: string, body: unknown): Promise<void> {
  const { status, text } = await instance.studio.call('PUT', `/api${path}`, body);
  expect([path, status, status < 300 ? '' : text]).toEqual([path, status < 300 ? status : 200, '']);
}

interface Again {
  readonly requests: number;
  readonly statements: number;
  readonly bytes: number;
}

/** What each screen asks for again after one edit, by the screen and what was edited. */
async function costsOfEdits(round: number): Promise<Map<string, Again>> {
  const found = new Map<string, Again>();
  for (const [what, edit] of Object.entries(edits)) {
    const tags = new Map<string, string>();
    for (const path of new Set([...always, ...Object.values(screens).flat()])) {
      const tag = (await instance.studio.get(`/api${path}`)).headers.get('etag');
      if (tag !== null) tags.set(path, tag);
    }
    const before = await latestPosition();
    await edit(round);
    const changes = await changesSince(before);
    expect([what, changes.length > 0]).toEqual([what, true]);
    const some = changedDocuments(changes);
    for (const [screen, paths] of Object.entries(screens)) {
      const again = [...always, ...paths].flatMap((path) => {
        // A history is longer after each edit, which is what was touched.
        if (path.endsWith('/history')) return [];
        if (path === listPath && some) return `${listPath}?ids=${[...some].join()}`;
        return isMadeOf(path, changes) ? path : [];
      });
      statements = 0;
      let bytes = 0;
      for (const path of again) {
        const tag = tags.get(path);
        const headers: Record<string, string> =
          tag === undefined
            ? {}
            : { 'if-none-match': tag, 'a-im': differenceEncoding, 'cache-control': 'max-age=0' };
        const { status, text } = await instance.studio.call('GET', `/api${path}`, undefined, headers);
        expect([path, [200, 226, 304].includes(status)]).toEqual([path, true]);
        bytes += Buffer.byteLength(text);
      }
      found.set(`${screen}, after ${what}`, { requests: again.length, statements, bytes });
    }
  }
  return found;
}

async function latestPosition(): Promise<number> {
  return Number((await instance.studio.get('/api/session')).headers.get(positionHeader));
}

async function changesSince(position: number): Promise<LoggedChange[]> {
  const { text } = await instance.studio.get(`/api/changes?after=${position}`);
  const events = [...text.matchAll(/^data: (.*)$/gm)].map(([, data = '']) =>
    changeEventSchema.parse(JSON.parse(data)),
  );
  return events.flatMap(({ changes }) => changes);
}

it('one edit has no screen ask for more on a large site than on a small one', async () => {
  await costsOfEdits(0);
  const small = await costsOfEdits(1);
  await grow(65, 125);
  await costsOfEdits(0);
  const large = await costsOfEdits(1);
  const grown = [...large].filter(([about, { requests, statements: asked, bytes }]) => {
    const before = small.get(about);
    // Numbers in an answer may have a digit more.
    return (
      !before || requests !== before.requests || asked !== before.statements || bytes > before.bytes + 100
    );
  });
  expect(grown.map(([about, now]) => [about, small.get(about), now])).toEqual([]);
}, 60_000);

it('opening any screen takes as many statements on a large site as on a small one, and few', async () => {
  await grow(0, 5);
  const small = await costs();
  await grow(5, 65);
  expect(await costs()).toEqual(small);
  for (const [screen, count] of Object.entries(small)) expect([screen, count <= 12]).toEqual([screen, true]);
});
