import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { LoggedChange } from '../../contract/changes.ts';
import { inAudience } from '../../core/conditions/condition.ts';
import { words } from '../../core/documents/text.ts';
import { AudienceRow } from '../../server/audiences/rows.ts';
import { DocumentRow } from '../../server/documents/rows.ts';
import { ChangeLog } from '../../server/store/change-log.ts';
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

describe('which audiences are used', () => {
  interface Body {
    readonly name?: string;
    readonly body?: readonly object[];
  }
  const slotFor = (audience: string) => ({
    kind: 'slot',
    id: 's',
    name: 'Slot',
    variants: [{ id: 'v', audience, content: [] }],
    otherwise: [],
  });
  const heading = (text: string) => ({ kind: 'heading', id: 'h', level: 2, content: words(text) });

  /** Creates a page, and what tells whether something said that the uses are others than before. */
  async function page() {
    const { body: made } = await instance.studio.call('POST', '/api/documents', {
      kind: 'page',
      name: `Uses ${Math.random()}`,
      slug: `uses-${Math.random().toString(36).slice(2)}`,
    });
    let { revision, name, content } = made;
    const audiences = async () => {
      const { body } = await instance.studio.get('/api/audiences');
      return body
        .filter(({ uses }: { uses: { id: string }[] }) => uses.some(({ id }) => id === made.id))
        .map(({ id }: { id: string }) => id);
    };
    const isToldBy = async (change: () => Promise<unknown>) => {
      let isTold = false;
      const log = await ChangeLog.open(instance.sequelize);
      const stop = log.on(['use'], () => {
        isTold = true;
      });
      await change();
      await log.follow();
      stop();
      await log.stop();
      return isTold;
    };
    const save = (change: Body) =>
      isToldBy(async () => {
        name = change.name ?? name;
        content = { ...content, body: change.body ?? content.body };
        const saved = await instance.studio.call('PUT', `/api/documents/${made.id}`, {
          revision,
          name,
          content,
        });
        expect(saved.status).toBe(200);
        revision = saved.body.revision;
      });
    return { id: made.id, audiences, isToldBy, save };
  }

  it('is said when an edit changes it, and by no edit of words', async () => {
    const { id, audiences, isToldBy, save } = await page();
    expect(await save({ body: [heading('Words')] })).toBe(false);
    expect(await save({ body: [heading('Other words')] })).toBe(false);
    expect(await save({ body: [slotFor('midnight-members')] })).toBe(true);
    expect(await audiences()).toEqual(['midnight-members']);
    expect(await save({ body: [heading('Words'), slotFor('midnight-members')] })).toBe(false);
    expect(await save({ body: [slotFor('dusk-members')] })).toBe(true);
    expect(await audiences()).toEqual(['dusk-members']);
    expect(await save({ name: 'Another name' })).toBe(true);
    expect(await isToldBy(() => instance.studio.call('DELETE', `/api/documents/${id}`))).toBe(true);
    expect(await audiences()).toEqual([]);
  });

  it('is said when shared content comes in or differs for somebody else', async () => {
    const { audiences, isToldBy, save } = await page();
    const { body: piece } = await instance.studio.call('POST', '/api/documents', {
      kind: 'shared',
      name: `Piece ${Math.random()}`,
      slug: '',
    });
    const shared = { kind: 'shared', id: 'p', document: piece.id };
    expect(await save({ body: [shared] })).toBe(true);
    expect(await audiences()).toEqual([]);
    const change = { ...piece, content: { ...piece.content, body: [slotFor('dusk-members')] } };
    expect(await isToldBy(() => instance.studio.call('PUT', `/api/documents/${piece.id}`, change))).toBe(
      true,
    );
    expect(await audiences()).toEqual(['dusk-members']);
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
