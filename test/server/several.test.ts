import { setTimeout as delay } from 'node:timers/promises';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Node } from '../../core/documents/document.ts';
import { Random } from '../../demo/random.ts';
import { demoSitePassword } from '../../demo/scenario.ts';
import { Caller } from './instance.ts';
import { SeveralServers } from './several-servers.ts';

// Several servers on one database. What somebody changes by one of them they find by whichever answers them next.

const operations = Number(process.env.OPERATIONS ?? 120);
const random = new Random(Number(process.env.SEED ?? 12));

let several: SeveralServers;
let marketer: Caller;
beforeAll(async () => {
  several = await SeveralServers.start(3);
  marketer = await new Caller(several.servers[0]?.address ?? '').signIn();
});
afterAll(() => several.stop());

/** Two of the servers: one to change something by, another to look at it by. */
function two(): [string, string] {
  const addresses = several.servers.map(({ address }) => address);
  const first = random.between(0, addresses.length - 1);
  const second = (first + random.between(1, addresses.length - 1)) % addresses.length;
  return [addresses[first] ?? '', addresses[second] ?? ''];
}

let made = 0;
const fresh = (what: string) => `${what} ${++made}`;

/** Whether something comes true soon, for those who don't say what they were told before. */
async function soon(isTrue: () => Promise<boolean>): Promise<boolean> {
  for (let tries = 0; tries < 400; tries++) {
    if (await isTrue()) return true;
    await delay(50);
  }
  return false;
}

async function releasedBy(here: Caller, note: string): Promise<number> {
  const { fingerprint } = (await here.get('/api/releases/pending')).body;
  return (await here.call('POST', '/api/releases', { note, fingerprint })).body.id;
}

const formOf = async (caller: Caller, page: string) =>
  /action="(\/site\/forms\/[^"]+)"/.exec((await caller.get(page)).text)?.[1] ?? '';

const outcomes = { moon: 'The Moon it is', planets: 'Planets it is', sun: 'The Sun it is' };

/** Each does something by one server and says what another has to show of it: the expected beside the seen. */
const kinds: { [kind: string]: (here: Caller, there: Caller) => Promise<[unknown, unknown]> } = {
  async 'a page saved'(here, there) {
    const name = fresh('Home');
    const stored = (await here.get('/api/documents/home')).body;
    const { status, body } = await here.call('PUT', '/api/documents/home', { ...stored, name });
    const seen = (await there.get('/api/documents/home')).body;
    const listed = (await there.get('/api/documents')).body.find(({ id }: { id: string }) => id === 'home');
    return [
      [200, name, body.revision, name],
      [status, seen.name, seen.revision, listed.name],
    ];
  },
  async 'an audience made, changed and deleted'(here, there) {
    const condition = { kind: 'test', attribute: 'email', op: 'is-set', values: [] };
    const draft = { name: fresh('Everybody'), description: '', condition };
    const { id, revision } = (await here.call('POST', '/api/audiences', draft)).body;
    const find = async (caller: Caller) =>
      (await caller.get('/api/audiences')).body.find((one: { id: string }) => one.id === id);
    const first = await find(there);
    const name = fresh('All');
    await there.call('PUT', `/api/audiences/${id}`, { ...draft, name, revision });
    const second = await find(here);
    await here.call('DELETE', `/api/audiences/${id}`);
    return [
      [draft.name, name, undefined],
      [first?.name, second?.name, await find(there)],
    ];
  },
  async 'a contact changed'(here, there) {
    const id = random.between(1, 2000);
    const city = fresh('Tarnley');
    const { updatedAt } = (await here.get(`/api/contacts/${id}`)).body;
    await here.call('PUT', `/api/contacts/${id}`, { updatedAt, values: { city } });
    const condition = { kind: 'test', attribute: 'city', op: 'is-one-of', values: [city] };
    const seen = (await there.get(`/api/contacts/${id}`)).body.values.city;
    const counted = (await there.call('POST', '/api/audiences/count', { condition, audience: null })).body;
    return [
      [city, 1],
      [seen, counted.count],
    ];
  },
  async 'somebody added and erased'(here, there) {
    const email = `person.${++made}@example.org`;
    const { id } = (await here.call('POST', '/api/contacts', { email, values: {} })).body;
    const found = (await there.get(`/api/contacts?search=${email}`)).body.contacts.length;
    await there.call('DELETE', `/api/contacts/${id}`);
    return [
      [1, 404, 0],
      [
        found,
        (await here.get(`/api/contacts/${id}`)).status,
        (await here.get(`/api/contacts?search=${email}`)).body.contacts.length,
      ],
    ];
  },
  async 'the settings changed'(here, there) {
    const before = (await here.get('/api/settings')).body;
    const settings = { ...before, name: fresh('Observatory') };
    await here.call('PUT', '/api/settings', { before, settings });
    return [settings.name, (await there.get('/api/settings')).body.name];
  },
  async 'a release made'(here, there) {
    const words = fresh('Tonight');
    const stored = (await here.get('/api/documents/survey')).body;
    const body = stored.content.body.map((node: Node) =>
      node.kind === 'heading' ? { ...node, content: [{ type: 'text', text: words }] } : node,
    );
    await here.call('PUT', '/api/documents/survey', { ...stored, content: { ...stored.content, body } });
    const id = await releasedBy(here, words);
    const [latest] = (await there.get('/api/releases')).body;
    const { text } = await there.get('/site/survey');
    return [
      [id, true, true],
      [latest.id, latest.live, text.includes(words)],
    ];
  },
  async 'a form answered'(here, there) {
    const visitor = new Caller(here.address);
    const email = `gazer.${++made}@example.org`;
    const answer = random.pick(['moon', 'planets', 'sun'] as const);
    const action = await formOf(visitor, '/site/survey');
    const network = { 'x-forwarded-for': `203.0.113.${made % 250}` };
    await visitor.call('POST', action, new URLSearchParams({ email, tags: answer }), network);
    const { text } = await visitor.at(there.address).get('/site/outcome');
    const known = (await there.get(`/api/contacts?search=${email}`)).body.contacts[0];
    return [
      [true, [answer]],
      [text.includes(outcomes[answer]), known?.values.tags],
    ];
  },
  async 'somebody signed in and out on the site'(here, there) {
    const visitor = new Caller(here.address);
    const form = new URLSearchParams({ email: 'ruth.pellow@example.org', password: demoSitePassword });
    await visitor.call('POST', '/site/sign-in', form);
    const isIn = async (caller: Caller) => (await caller.get('/site/')).text.includes('Sign out');
    const beside = visitor.at(there.address);
    const seen = [await isIn(visitor), await isIn(beside)];
    // Whoever took the cookies before knows of no position, and is out within a second all the same.
    const copy = { ...visitor.cookieHeader };
    await beside.call('POST', '/site/sign-out');
    const thief = new Caller(here.address);
    const isCopyIn = async () =>
      (await thief.call('GET', '/site/', undefined, copy)).text.includes('Sign out');
    return [
      [true, true, false, true],
      [...seen, await isIn(visitor), await soon(async () => !(await isCopyIn()))],
    ];
  },
  async 'a key made and deleted'(here, there) {
    const draft = { name: fresh('Shop'), origins: [], isSecret: true };
    const { id, key } = (await here.call('POST', '/api/api-keys', draft)).body;
    const asked = async (caller: Caller) => {
      const body = JSON.stringify({ key, slots: [] });
      return (await new Caller(caller.address).call('POST', '/v1/decide', body)).status;
    };
    const first = await soon(async () => (await asked(there)) === 200);
    await here.call('DELETE', `/api/api-keys/${id}`);
    return [
      [true, true],
      [first, await soon(async () => (await asked(there)) === 401)],
    ];
  },
  async 'an item changed'(here, there) {
    const [collection] = (await here.get('/api/collections')).body;
    const [item] = (await here.get(`/api/collections/${collection.id}/items`)).body;
    const title = fresh('Guide');
    const { collection: _c, id, position: _p, updatedAt: _u, ...draft } = item;
    const { status } = await here.call('PUT', `/api/items/${id}`, { ...draft, title });
    const items = (await there.get(`/api/collections/${collection.id}/items`)).body;
    const library = (await there.get('/api/library')).body.items;
    const titleIn = (all: { id: string; title: string }[]) => all.find((one) => one.id === id)?.title;
    return [
      [200, title, title],
      [status, titleIn(items), titleIn(library)],
    ];
  },
};

it(`shows what was changed by one server on the next that is asked, ${operations} times`, {
  timeout: 600_000 + operations * 5000,
}, async () => {
  const names = Object.keys(kinds);
  const done = new Map<string, number>();
  for (let n = 0; n < operations; n++) {
    const name = names[n < names.length ? n : random.between(0, names.length - 1)] ?? '';
    const [here, there] = two();
    const result = await kinds[name]?.(marketer.at(here), marketer.at(there));
    expect(result?.[1], `${n}: ${name}`).toEqual(result?.[0]);
    done.set(name, (done.get(name) ?? 0) + 1);
  }
  expect([...done.keys()].sort()).toEqual(names.sort());
});
