import { randomBytes } from 'node:crypto';
import type { Sequelize } from 'sequelize';
import { positionHeader } from '../../contract/headers.ts';
import { type Import, type ImportStatus, importSchema } from '../../contract/imports.ts';
import type { Impact } from '../../contract/releases.ts';
import type { ImportPlan } from '../../core/exchange/plan.ts';
import { demoAccount } from '../../demo/scenario.ts';
import { type RunningApp, startApp } from '../../server/app.ts';
import { readConfiguration } from '../../server/configuration.ts';
import { loadDemoWhenEmpty } from '../../server/demo/rows.ts';
import { openDatabase } from '../../server/tables.ts';

/** The moment the demo is loaded at; dates in it are laid around this day. */
export const loadedAt = Date.now();

export interface Answer {
  status: number;
  // biome-ignore lint/suspicious/noExplicitAny: tests look into answers of every shape
  body: any;
  headers: Headers;
  text: string;
}

/** A caller that keeps its cookies, as a browser does, and what it was told of changes, as the studio does. */
export class Caller {
  private cookies = new Map<string, string>();
  private told = { position: '0' };

  constructor(readonly address: string) {}

  /** The same caller, who comes to another server. */
  at(address: string): Caller {
    const caller = new Caller(address);
    caller.cookies = this.cookies;
    caller.told = this.told;
    return caller;
  }

  async call(
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<Answer> {
    const form = body instanceof URLSearchParams;
    const response = await fetch(this.address + path, {
      method,
      redirect: 'manual',
      headers: {
        ...this.cookieHeader,
        [positionHeader]: this.told.position,
        ...(body !== undefined && !form && { 'content-type': 'application/json' }),
        ...headers,
      },
      ...(body !== undefined && {
        body:
          form || typeof body === 'string' || body instanceof Uint8Array
            ? (body as BodyInit)
            : JSON.stringify(body),
      }),
    });
    for (const cookie of response.headers.getSetCookie()) {
      const [pair = ''] = cookie.split(';');
      const at = pair.indexOf('=');
      if (/expires=Thu, 01 Jan 1970/i.test(cookie)) this.cookies.delete(pair.slice(0, at));
      else this.cookies.set(pair.slice(0, at), pair.slice(at + 1));
    }
    this.told.position = response.headers.get(positionHeader) ?? this.told.position;
    const isStream = response.headers.get('content-type')?.startsWith('text/event-stream');
    const text = isStream ? await beginningOf(response) : await response.text();
    const json = response.headers.get('content-type')?.includes('json');
    return {
      status: response.status,
      body: json ? JSON.parse(text) : undefined,
      headers: response.headers,
      text,
    };
  }

  get cookieHeader(): { cookie: string } {
    return { cookie: [...this.cookies].map(([name, value]) => `${name}=${value}`).join('; ') };
  }

  get(path: string): Promise<Answer> {
    return this.call('GET', path);
  }

  async signIn(): Promise<this> {
    const { email, password } = demoAccount;
    const { status, text } = await this.call('POST', '/api/session', { email, password });
    if (status !== 200) throw new Error(`signing in was answered with ${status}: ${text}`);
    return this;
  }
}

/** What comes at once of an answer that never ends. */
async function beginningOf(response: Response): Promise<string> {
  const reader = response.body?.getReader();
  const soon = new Promise<undefined>((resolve) => setTimeout(resolve, 100));
  const first = await Promise.race([reader?.read(), soon]);
  await reader?.cancel();
  return new TextDecoder().decode(first?.value);
}

export interface Instance {
  readonly app: RunningApp;
  readonly sequelize: Sequelize;
  readonly databaseUrl: string;
  /** Signed in to the studio. */
  readonly studio: Caller;
  readonly visitor: () => Caller;
  stop(): Promise<void>;
}

/**
 * A whole instance with the demo, in a database of its own on the MariaDB server of the test run; or another one on the
 * database of one that is there, or one without anything, where nobody can sign in yet.
 */
export async function startInstance(
  beside?: Instance,
  { isEmpty = false }: { isEmpty?: boolean } = {},
): Promise<Instance> {
  const server = process.env.TEST_DATABASE_SERVER;
  if (!server) throw new Error('TEST_DATABASE_SERVER is not set; run the tests with npm test');
  const name = `apple_porch_test_${randomBytes(6).toString('hex')}`;
  const databaseUrl = beside?.databaseUrl ?? `${server}/${name}`;
  const sequelize = await openDatabase(databaseUrl);
  if (!isEmpty) await loadDemoWhenEmpty(loadedAt);
  const app = await startApp(
    sequelize,
    readConfiguration({ ...process.env, DATABASE_URL: databaseUrl, PORT: '0' }),
  );
  const studio = new Caller(app.address);
  if (!isEmpty) await studio.signIn();
  // Lists have their counts once contacts are in memory, which takes its time beside other tests.
  const { people, drafts } = app;
  const nobody = { kind: 'any' as const, of: [] };
  await people.asks.some(people.scopeOf(await drafts.snapshot()), people.now(), nobody, 1);
  return {
    app,
    sequelize,
    databaseUrl,
    studio,
    visitor: () => new Caller(app.address),
    async stop() {
      if (!beside) await sequelize.query(`DROP DATABASE \`${name}\``);
      await app.stop();
    },
  };
}

/** The plan that was guessed for a file. */
export type Guessed = ImportPlan;

/** Brings a file in as the import screen does: reads it, tries the plan, and does it where that is asked for. */
export async function importFile(
  studio: Caller,
  text: string | Uint8Array,
  {
    plan = (guessed) => guessed,
    run = true,
    name = 'people.csv',
  }: {
    plan?: (guessed: ImportPlan) => ImportPlan;
    run?: boolean;
    name?: string;
  } = {},
): Promise<Import> {
  const uploaded = await uploadFile(studio, text, name);
  const read = await importThat(studio, uploaded.body.id, 'read', 'failed');
  if (read.status === 'failed' || !read.plan) return read;
  const planned = await studio.call('PUT', `/api/imports/${read.id}/plan`, plan(read.plan));
  if (planned.status !== 200) throw new Error(planned.text);
  if (planned.body.problems.length > 0) return planned.body;
  const checked = await importThat(studio, read.id, 'checked');
  if (!run) return checked;
  await studio.call('POST', `/api/imports/${read.id}/run`);
  return importThat(studio, read.id, 'imported', 'checked');
}

export function uploadFile(studio: Caller, text: string | Uint8Array, name = 'people.csv'): Promise<Answer> {
  const body = typeof text === 'string' ? new TextEncoder().encode(text) : text;
  return studio.call('POST', `/api/imports?name=${encodeURIComponent(name)}`, body, {
    'content-type': 'application/octet-stream',
  });
}

/** An import as soon as it stands where it was waited for. */
export async function importThat(studio: Caller, id: number, ...statuses: ImportStatus[]): Promise<Import> {
  for (let tries = 0; tries < 3000; tries++) {
    const { body } = await studio.get(`/api/imports/${id}`);
    if (statuses.includes(body.status)) return importSchema.parse(body);
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
  throw new Error(`import ${id} never came to be ${statuses.join(' or ')}`);
}

/** Sends the monthly email, or another, and waits until that is done; the refusal, where it is not begun at all. */
export async function sendEmail(
  studio: Caller,
  request: { document?: string; contacts?: readonly number[]; audience?: string | null },
): Promise<Answer> {
  const body = { document: 'monthly-almanac', contacts: [], audience: null, ...request };
  const begun = await studio.call('POST', '/api/sends', body);
  if (begun.status !== 202) return begun;
  for (;;) {
    const answer = await studio.get(`/api/sends/${begun.body.id}`);
    if (answer.body.isFinished || answer.body.job === null) return answer;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

/** What releasing the drafts, or going back to a release, would change; once that is worked out. */
export async function impactFrom(studio: Caller, release?: number): Promise<Impact> {
  const path = release === undefined ? '/api/releases/impact' : `/api/releases/${release}/impact`;
  for (;;) {
    const { status, body, text } = await studio.get(path);
    if (status === 200) return body;
    if (status !== 202) throw new Error(text);
  }
}
