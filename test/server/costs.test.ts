import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { LoggedChange } from '../../contract/changes.ts';
import { inAudience } from '../../core/conditions/condition.ts';
import { words } from '../../core/documents/text.ts';
import { AudienceRow } from '../../server/audiences/rows.ts';
import { DocumentRow } from '../../server/documents/rows.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { isMadeOf } from '../../web/data/made-of.ts';
import { type Instance, startInstance } from './instance.ts';

let instance: Instance;
/** How many statements the server sent to its database. */
let statements = 0;

beforeAll(async () => {
  instance = await startInstance();
  instance.sequelize.addHook('afterQuery', (_options, query) => {
    // Not what is asked by the clock, such as what others changed and what there is to do.
    if (!/\b(?:changes|change_position|jobs)\b/.test(String(Reflect.get(query, 'sql')))) statements++;
  });
});
afterAll(() => instance.stop());

/** What the studio shows while a page is edited, with the tag of what it has. */
const shown = new Map<string, string>([
  ['/audiences', ''],
  ['/attributes', ''],
  ['/collections', ''],
  ['/library', ''],
  ['/settings', ''],
  ['/releases/pending', ''],
]);

/** Adds pages with a slot each, and audiences, as many as are wanted. */
async function grow(from: number, to: number): Promise<void> {
  await inTransaction(async (transaction) => {
    for (let n = from; n < to; n++) {
      const id = `grown-${n}`;
      await AudienceRow.create(
        { id, name: id, description: '', condition: inAudience('midnight-members') },
        { transaction },
      );
      const variants = [{ id: `v${n}`, audience: id, content: [] }];
      const content = {
        subject: [],
        preview: [],
        body: [{ kind: 'slot' as const, id: 's', name: 'Slot', variants, otherwise: [] }],
      };
      await DocumentRow.create({ id, kind: 'page', name: id, slug: id, content }, { transaction });
    }
  });
}

/** Releases everything, so that only the edited page counts as not live. */
async function releaseAll(): Promise<void> {
  const { body: pending } = await instance.studio.get('/api/releases/pending');
  const made = await instance.studio.call('POST', '/api/releases', {
    note: 'All',
    fingerprint: pending.fingerprint,
  });
  expect(made.status).toBe(201);
}

/** Reads what is on screen, as the studio does; how many bytes of it crossed the wire. */
async function read(paths: Iterable<string>): Promise<number> {
  let bytes = 0;
  for (const path of paths) {
    const tag = shown.get(path);
    const headers: Record<string, string> = tag ? { 'if-none-match': tag, 'cache-control': 'max-age=0' } : {};
    const answer = await instance.studio.call('GET', `/api${path}`, undefined, headers);
    expect([path, [200, 304].includes(answer.status)]).toEqual([path, true]);
    bytes += answer.text.length;
    if (shown.has(path)) shown.set(path, answer.headers.get('etag') ?? '');
  }
  return bytes;
}

/** Opens a page for editing, changes its heading, and reads again what that changed. */
async function costsOfEdit(text: string): Promise<{ statements: number; bytes: number }> {
  const id = 'membership';
  const { body: stored } = await instance.studio.get(`/api/documents/${id}`);
  await read(shown.keys());
  const heading = { kind: 'heading', id: 'own', level: 2, content: words(text) };
  const body = [heading, ...stored.content.body.filter((node: { id: string }) => node.id !== 'own')];
  const change = { revision: stored.revision, name: stored.name, content: { ...stored.content, body } };
  statements = 0;
  const saved = await instance.studio.call('PUT', `/api/documents/${id}`, change);
  expect(saved.status).toBe(200);
  // What was sent is not sent back.
  expect(saved.body.content).toBeUndefined();
  const changed: LoggedChange = { position: 1, kind: 'document', ids: [id], revision: stored.revision + 1 };
  const again = [...shown.keys()].filter((path) => isMadeOf(path, [changed]));
  const bytes = saved.text.length + (await read([`/documents?ids=${id}`, ...again]));
  return { statements, bytes };
}

describe('an edit of one page', () => {
  it('costs as many statements and bytes on a large site as on a small one', async () => {
    await grow(0, 5);
    await releaseAll();
    await costsOfEdit('First');
    const small = await costsOfEdit('Second');
    await grow(5, 65);
    await releaseAll();
    await costsOfEdit('Third');
    const large = await costsOfEdit('Fourth');
    expect(large.statements).toBe(small.statements);
    expect(Math.abs(large.bytes - small.bytes)).toBeLessThan(100);
    expect(small.statements).toBeLessThan(20);
  });

  it('is told with the content where the server made it harmless', async () => {
    const { body: stored } = await instance.studio.get('/api/documents/membership');
    const { revision, name, content } = stored;
    const html = { kind: 'html', id: 'raw', html: '<p>Fine</p><script>alert(1)</script>' };
    const saved = await instance.studio.call('PUT', '/api/documents/membership', {
      revision,
      name,
      content: { ...content, body: [...content.body, html] },
    });
    expect(saved.body.content.body.at(-1)).toEqual({ ...html, html: '<p>Fine</p>' });
    expect((await instance.studio.get('/api/documents/membership')).body.content).toEqual(saved.body.content);
  });
});

describe('a list that is as it was', () => {
  it('does not cross the wire again', async () => {
    for (const path of ['/api/audiences', '/api/attributes', '/api/documents']) {
      const first = await instance.studio.get(path);
      const headers = { 'if-none-match': first.headers.get('etag') ?? '', 'cache-control': 'max-age=0' };
      const again = await instance.studio.call('GET', path, undefined, headers);
      expect([path, again.status, again.text]).toEqual([path, 304, '']);
    }
  });

  it('is told in part where that is asked for, without what is gone', async () => {
    const { body: all } = await instance.studio.get('/api/documents');
    const { body: some } = await instance.studio.get('/api/documents?ids=membership,gone,home');
    const wanted = new Set(['membership', 'home']);
    expect(some).toEqual(all.filter(({ id }: { id: string }) => wanted.has(id)));
    expect(some.length).toBe(2);
  });
});
