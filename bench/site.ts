import { randomBytes } from 'node:crypto';
import { Agent, request } from 'node:http';
import type { AddressInfo } from 'node:net';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import express from 'express';
import helmet from 'helmet';
import { QueryTypes, type Sequelize } from 'sequelize';
import { not, test } from '../core/conditions/condition.ts';
import { mapTests } from '../core/conditions/rewrite.ts';
import type { Content, Node } from '../core/documents/document.ts';
import { words } from '../core/documents/text.ts';
import { demoAccount, demoSitePassword } from '../demo/scenario.ts';
import { startApp } from '../server/app.ts';
import { AudienceRow } from '../server/audiences/rows.ts';
import { readConfiguration } from '../server/configuration.ts';
import { loadDemoWhenEmpty } from '../server/demo/rows.ts';
import { DocumentRow } from '../server/documents/rows.ts';
import { AttributeRow } from '../server/people/rows.ts';
import { inTransaction } from '../server/store/transaction.ts';
import { openDatabase } from '../server/tables.ts';
import { attributes, randomAudiences, randomPage } from './crowd.ts';
import { median, type Result, result } from './result.ts';
import { sized } from './size.ts';

const connections = 16;
const requestsARound = sized(3000, 100);
const rounds = sized(7, 1);
const manyRequests = sized(200_000, 200);
const heaviest = 'heaviest';
const ofVisit = 'heaviest-visit';

/**
 * Requests per second of the live site against the same Express with the same security headers sending the same bytes
 * unchanged, asked in turn from this process: the demo's home page, and a page of 30 slots over 40 audiences as it is for
 * anonymous visitors, for visitors whose visit decides, and for somebody signed in. Then 200,000 requests: what they leave
 * in memory, and how many questions to the database they ask.
 */
export async function siteBench(): Promise<Result[]> {
  const name = `apple_porch_bench_${randomBytes(6).toString('hex')}`;
  const url = `${process.env.BENCH_DATABASE_SERVER}/${name}`;
  const sequelize = await openDatabase(url);
  await loadDemoWhenEmpty(Date.now());
  await addHeaviestPages();
  const app = await startApp(sequelize, readConfiguration({ DATABASE_URL: url, PORT: '0' }));
  await releaseAll(app.address);
  const member = await signedIn(app.address, 'noor.vale@example.org');

  const results: Result[] = [];
  for (const [subject, path, cookie] of [
    ['the home page', '/site/', ''],
    ['30 slots, 40 audiences, anonymous', `/site/${heaviest}`, ''],
    ['30 slots, 41 audiences, anonymous, decided by the visit', `/site/${ofVisit}`, ''],
    ['30 slots, 40 audiences, signed in', `/site/${heaviest}`, member],
  ] as const) {
    const own = { address: app.address + path, cookie };
    const peer = await unchanged(await (await fetch(own.address, { headers: { cookie } })).text());
    for (const of of [own, peer]) await load(of);
    const speeds: number[] = [];
    const tails: number[] = [];
    for (let round = 0; round < rounds; round++) {
      const [mine, theirs] = [await load(own), await load(peer)];
      speeds.push(mine.perSecond / theirs.perSecond);
      tails.push(theirs.p99 / mine.p99);
    }
    peer.stop();
    const same = 'the same bytes unchanged';
    results.push(result('site', `${subject}: requests per second`, same, median(speeds), 0.7));
    results.push(result('site', `${subject}: p99`, `${same}, three times`, 3 * median(tails), 1));
  }

  const collect = collector();
  const anonymous = { address: `${app.address}/site/${ofVisit}`, cookie: '' };
  for (let round = 0; round < 3; round++) await load(anonymous);
  collect();
  const before = process.memoryUsage().heapUsed;
  const questionsBefore = await questionsOf(sequelize);
  for (let sent = 0; sent < manyRequests; sent += requestsARound) await load(anonymous);
  const asked = (await questionsOf(sequelize)) - questionsBefore;
  collect();
  const grown = Math.max(1, process.memoryUsage().heapUsed - before) / 2 ** 20;
  results.push(
    result(
      'site',
      `memory kept after ${manyRequests.toLocaleString('en')} requests, ${grown.toFixed(1)} MiB`,
      'the bound of 4 MiB',
      4 / grown,
      1,
    ),
    result(
      'site',
      `questions to the database in ${manyRequests.toLocaleString('en')} anonymous requests: ${asked}`,
      'none at all, but for what runs by the clock',
      1 / (1 + asked / manyRequests),
      0.999,
    ),
  );
  await sequelize.query(`DROP DATABASE \`${name}\``);
  await app.stop();
  return results;
}

/** How many questions the database was asked so far, by its own count. */
async function questionsOf(sequelize: Sequelize): Promise<number> {
  const rows = await sequelize.query<{ Value: string }>("SHOW GLOBAL STATUS LIKE 'Com_select'", {
    type: QueryTypes.SELECT,
  });
  return Number(rows[0]?.Value ?? 0);
}

async function addHeaviestPages(): Promise<void> {
  // Beside the demo's own, some of which have the same names.
  const rows = attributes.map((attribute, position) => {
    const definition = { ...attribute, id: `crowd-${attribute.id}`, label: `crowd ${attribute.label}` };
    return { id: definition.id, position: 100 + position, definition };
  });
  const phone = test('visit-device', 'is-one-of', 'phone');
  const audiences = [
    ...randomAudiences(40).map((audience) => ({
      ...audience,
      name: `heavy ${audience.name}`,
      condition: mapTests(audience.condition, (one) => ({ ...one, attribute: `crowd-${one.attribute}` })),
    })),
    { id: 'on-a-computer', name: 'On a computer', description: '', condition: not(phone) },
  ];
  const content = filled(randomPage(30, 40));
  const [first] = content.body;
  const forVisit: Content = {
    ...content,
    body:
      first?.kind === 'slot'
        ? [
            {
              ...first,
              variants: [
                { id: 'computer', audience: 'on-a-computer', content: [heading('c', 'On a computer')] },
              ],
            },
            ...content.body.slice(1),
          ]
        : content.body,
  };
  await inTransaction(async (transaction) => {
    await AttributeRow.bulkCreate(rows, { transaction });
    await AudienceRow.bulkCreate(audiences, { transaction });
    for (const [id, own] of [
      [heaviest, content],
      [ofVisit, forVisit],
    ] as const)
      await DocumentRow.create({ id, kind: 'page', name: id, slug: id, content: own }, { transaction });
  });
}

function heading(id: string, text: string): Node {
  return { kind: 'heading', id, level: 2, content: words(text) };
}

/** Each variant of each slot with a heading and a paragraph of its own. */
function filled(content: Content): Content {
  const shown = (id: string): Node[] => [
    heading(`h${id}`, `What ${id} is about`),
    {
      kind: 'text',
      id: `t${id}`,
      content: [{ type: 'paragraph', content: words(`${id} `.repeat(30)) }],
    },
  ];
  return {
    ...content,
    body: content.body.map((node) =>
      node.kind === 'slot'
        ? {
            ...node,
            variants: node.variants.map((variant) => ({ ...variant, content: shown(variant.id) })),
            otherwise: shown(node.id),
          }
        : node,
    ),
  };
}

async function releaseAll(address: string): Promise<void> {
  const json = { 'content-type': 'application/json' };
  const session = await fetch(`${address}/api/session`, {
    method: 'POST',
    headers: json,
    body: JSON.stringify({ email: demoAccount.email, password: demoAccount.password }),
  });
  const headers = { ...json, cookie: cookiesOf(session) };
  const pending = (await (await fetch(`${address}/api/releases/pending`, { headers })).json()) as {
    fingerprint: string;
  };
  const made = await fetch(`${address}/api/releases`, {
    method: 'POST',
    headers,
    body: JSON.stringify({ note: 'The heaviest pages', fingerprint: pending.fingerprint }),
  });
  if (made.status !== 201) throw new Error(`the release was refused: ${await made.text()}`);
}

async function signedIn(address: string, email: string): Promise<string> {
  const answer = await fetch(`${address}/site/sign-in`, {
    method: 'POST',
    redirect: 'manual',
    body: new URLSearchParams({ email, password: demoSitePassword }),
  });
  return cookiesOf(answer);
}

function cookiesOf(answer: Response): string {
  return answer.headers
    .getSetCookie()
    .map((one) => one.split(';')[0])
    .join('; ');
}

interface Target {
  readonly address: string;
  readonly cookie: string;
}

/** A plain Express that sends some bytes to everybody. */
async function unchanged(bytes: string): Promise<Target & { stop: () => void }> {
  const plain = express();
  plain.disable('x-powered-by');
  plain.use(helmet());
  plain.get('/site/', (_request, response) => {
    response.set({ 'Cache-Control': 'private, no-cache', Vary: 'Cookie' });
    response.type('html').send(bytes);
  });
  const listening = plain.listen(0, '127.0.0.1');
  await new Promise((resolve) => listening.once('listening', resolve));
  const { port } = listening.address() as AddressInfo;
  return {
    address: `http://127.0.0.1:${port}/site/`,
    cookie: '',
    stop: () => {
      listening.closeAllConnections();
      listening.close();
    },
  };
}

/** Requests per second over some connections kept open, and the time that one in a hundred takes longer than, in ms. */
async function load({ address, cookie }: Target): Promise<{ perSecond: number; p99: number }> {
  const agent = new Agent({ keepAlive: true, maxSockets: connections });
  const times = new Float64Array(requestsARound);
  let next = 0;
  const start = performance.now();
  await Promise.all(
    Array.from({ length: connections }, async () => {
      for (let own = next++; own < requestsARound; own = next++) {
        const asked = performance.now();
        await get(address, cookie, agent);
        times[own] = performance.now() - asked;
      }
    }),
  );
  const seconds = (performance.now() - start) / 1000;
  agent.destroy();
  times.sort();
  return {
    perSecond: requestsARound / seconds,
    p99: times[Math.floor(requestsARound * 0.99)] ?? Number.NaN,
  };
}

function get(address: string, cookie: string, agent: Agent): Promise<void> {
  return new Promise((resolve, reject) => {
    const asked = request(address, { agent, headers: cookie === '' ? {} : { cookie } }, (response) => {
      if (response.statusCode !== 200) reject(new Error(`status ${response.statusCode}`));
      response.resume();
      response.once('end', resolve);
    });
    asked.once('error', (error) => {
      // A connection that stood idle was closed at the very moment it was to be used again: Node.js, request.reusedSocket.
      if (asked.reusedSocket && 'code' in error && error.code === 'ECONNRESET')
        get(address, cookie, agent).then(resolve, reject);
      else reject(error);
    });
    asked.end();
  });
}

/** Frees what nobody holds any more, so that only what is kept is counted. */
function collector(): () => void {
  setFlagsFromString('--expose-gc');
  return runInNewContext('gc') as () => void;
}
