import { randomBytes } from 'node:crypto';
import { setTimeout as delay } from 'node:timers/promises';
import mysql from 'mysql2/promise';
import type { LoggedChange } from '../contract/changes.ts';
import { mapTests } from '../core/conditions/rewrite.ts';
import type { Content, Node } from '../core/documents/document.ts';
import { words } from '../core/documents/text.ts';
import { demoAccount } from '../demo/scenario.ts';
import { AudienceRow } from '../server/audiences/rows.ts';
import { loadDemoWhenEmpty } from '../server/demo/rows.ts';
import { DocumentRow } from '../server/documents/rows.ts';
import { AttributeRow } from '../server/people/rows.ts';
import { inTransaction } from '../server/store/transaction.ts';
import { openDatabase } from '../server/tables.ts';
import { isMadeOf } from '../web/data/made-of.ts';
import { attributes, randomAudiences, randomPage } from './crowd.ts';
import { cookiesOf, filled, releaseAll } from './heaviest.ts';
import { median, type Result, result } from './result.ts';
import { processorTime, type Server, startServer } from './server-process.ts';
import { sized } from './size.ts';

const small = { pages: 20, audiences: 20 };
const large = sized({ pages: 300, audiences: 200 }, small);
const saves = sized(24, 1);

/** What the studio has open while a page is edited. It reads those again that a change may have altered. */
const onScreen = [
  '/documents',
  '/audiences',
  '/attributes',
  '/library',
  '/pictures',
  '/settings',
  '/releases/pending',
];

interface Cost {
  /** Processor time of the server, in milliseconds. */
  readonly processor: number;
  /** As long as whoever waits for it waits, in milliseconds. */
  readonly wait: number;
  /** What crosses the wire, both ways and as it is before compression, in bytes. */
  readonly bytes: number;
}

interface Costs {
  readonly save: Cost;
  readonly oneHeading: Cost;
  readonly everything: Cost;
}

/**
 * What grows with a site and what must not: the same work on an instance with 20 pages and 20 audiences and on one with 300
 * and 200. The ratio is the cost at the small one over the cost at the large one.
 */
export async function growthBench(): Promise<Result[]> {
  const few = await measured(small);
  const many = await measured(large);
  const row = (work: string, of: keyof Costs, bar: number) =>
    result(
      'growth',
      `${work}, ${large.pages} pages and ${large.audiences} audiences: ${said(many[of])}`,
      `${small.pages} and ${small.audiences}: ${said(few[of])}`,
      few[of].processor / many[of].processor,
      bar,
    );
  const bound = (work: string, milliseconds: number, most: number) =>
    result(
      'growth',
      `${work}: ${milliseconds.toFixed(0)} ms`,
      `the bound of ${most} ms`,
      most / milliseconds,
      1,
    );
  return [
    row('a save of one heading, and all that the studio reads again', 'save', 0.4),
    bound('processor time of that save', many.save.processor, 60),
    row('whom a release affects, one heading changed', 'oneHeading', 0.3),
    bound('the wait for whom a release affects, one heading changed', many.oneHeading.wait, 300),
    bound('the wait for whom a release affects, everything changed', many.everything.wait, 10_000),
  ];
}

function mean(costs: readonly Cost[]): number {
  return costs.reduce((sum, { processor }) => sum + processor, 0) / costs.length;
}

function said({ processor, bytes }: Cost): string {
  return `${processor.toFixed(0)} ms, ${(bytes / 1024).toFixed(0)} KiB`;
}

async function measured(size: { readonly pages: number; readonly audiences: number }): Promise<Costs> {
  const name = `apple_porch_bench_${randomBytes(6).toString('hex')}`;
  const url = `${process.env.BENCH_DATABASE_SERVER}/${name}`;
  const sequelize = await openDatabase(url);
  await loadDemoWhenEmpty(Date.now());
  await grow(size);
  await sequelize.close();
  const server = await startServer(url);
  try {
    const studio = await Studio.open(server);
    await releaseAll(server.address);
    const costs: Cost[] = [];
    await studio.save('page-0', 'Warm');
    await delay(sized(2000, 0));
    await studio.seeIdle();
    for (let n = 0; n < saves; n++) costs.push(await studio.cost(() => studio.save('page-0', `Words ${n}`)));
    const oneHeading = await studio.cost(() => studio.impact());
    for (let page = 0; page < size.pages; page++) await studio.change(`page-${page}`, `Other ${page}`);
    for (let audience = 0; audience < size.audiences; audience++) await studio.turn(`a${audience}`);
    const everything = await studio.cost(() => studio.impact());
    const middle = (of: keyof Cost) => median(costs.map((cost) => cost[of]));
    return {
      // Of the processor the mean, since that is counted in hundredths of a second.
      save: { processor: mean(costs), wait: middle('wait'), bytes: middle('bytes') },
      oneHeading,
      everything,
    };
  } finally {
    server.process.kill('SIGTERM');
    const connection = await mysql.createConnection(process.env.BENCH_DATABASE_SERVER ?? '');
    await connection.query(`DROP DATABASE \`${name}\``);
    await connection.end();
  }
}

/** Adds pages of a heading and three slots with one to three variants each, and audiences. */
async function grow({
  pages,
  audiences,
}: {
  readonly pages: number;
  readonly audiences: number;
}): Promise<void> {
  const crowd = attributes.map((attribute, position) => {
    const definition = { ...attribute, id: `crowd-${attribute.id}`, label: `crowd ${attribute.label}` };
    return { id: definition.id, position: 100 + position, definition };
  });
  await inTransaction(async (transaction) => {
    await AttributeRow.bulkCreate(crowd, { transaction });
    await AudienceRow.bulkCreate(
      randomAudiences(audiences).map((audience) => ({
        ...audience,
        condition: mapTests(audience.condition, (one) => ({ ...one, attribute: `crowd-${one.attribute}` })),
      })),
      { transaction },
    );
    for (let page = 0; page < pages; page++) {
      const id = `page-${page}`;
      const content = withHeading(filled(randomPage(3, audiences, 100 + page)), id);
      await DocumentRow.create({ id, kind: 'page', name: id, slug: id, content }, { transaction });
    }
  });
}

function withHeading(content: Content, text: string): Content {
  const heading: Node = { kind: 'heading', id: 'first', level: 2, content: words(text) };
  return { ...content, body: [heading, ...content.body.filter(({ id }) => id !== 'first')] };
}

/** Somebody at work in the studio. */
class Studio {
  private bytes = 0;
  /** Processor time that the server takes while nobody asks it anything, in seconds a second. */
  private idle = 0;

  private constructor(
    private readonly server: Server,
    private readonly cookie: string,
  ) {}

  static async open(server: Server): Promise<Studio> {
    const { email, password } = demoAccount;
    const answer = await fetch(`${server.address}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ email, password }),
    });
    return new Studio(server, cookiesOf(answer));
  }

  async cost(work: () => Promise<void>): Promise<Cost> {
    // What is still done of the work before belongs to that.
    await delay(200);
    this.bytes = 0;
    let wait = 0;
    const seconds = await processorTime([this.server], async () => {
      const start = performance.now();
      await work();
      wait = performance.now() - start;
      await delay(200);
    });
    const byTheClock = (this.idle * (wait + 200)) / 1000;
    return { processor: Math.max(5, 1000 * (seconds - byTheClock)), wait, bytes: this.bytes };
  }

  /** Sees what is done by the clock, which belongs to no work. */
  async seeIdle(): Promise<void> {
    const time = sized(5000, 200);
    this.idle = (1000 * (await processorTime([this.server], () => delay(time)))) / time;
  }

  /** Changes the heading of a page, and reads again what shows that. */
  async save(id: string, text: string): Promise<void> {
    await this.change(id, text);
    const change: LoggedChange = { position: 1, kind: 'document', ids: [id], revision: null };
    const again = onScreen.filter((path) => isMadeOf(path, [change]));
    await Promise.all(again.map((path) => this.ask('GET', path)));
  }

  async change(id: string, text: string): Promise<void> {
    const stored = JSON.parse(await this.ask('GET', `/documents/${id}`, undefined, false));
    const { revision, name, slug, content } = stored;
    await this.ask('PUT', `/documents/${id}`, { revision, name, slug, content: withHeading(content, text) });
  }

  /** Makes the opposite of an audience of it. */
  async turn(id: string): Promise<void> {
    const audiences = JSON.parse(await this.ask('GET', '/audiences'));
    const { revision, name, description, condition, examples } = audiences.find(
      (one: { id: string }) => one.id === id,
    );
    await this.ask('PUT', `/audiences/${id}`, {
      revision,
      name,
      description,
      examples,
      condition: { kind: 'not', of: condition },
    });
  }

  async impact(): Promise<void> {
    while ('job' in JSON.parse(await this.ask('GET', '/releases/impact'))) await delay(50);
  }

  private async ask(method: string, path: string, body?: unknown, counts = true): Promise<string> {
    const sent = body === undefined ? undefined : JSON.stringify(body);
    const answer = await fetch(`${this.server.address}/api${path}`, {
      method,
      headers: { cookie: this.cookie, ...(sent !== undefined && { 'content-type': 'application/json' }) },
      ...(sent !== undefined && { body: sent }),
    });
    const text = await answer.text();
    if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status} ${text}`);
    if (counts) this.bytes += Buffer.byteLength(text) + Buffer.byteLength(sent ?? '');
    return text;
  }
}
