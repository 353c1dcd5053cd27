import { randomBytes } from 'node:crypto';
import type { Sequelize } from 'sequelize';
import { demoAccount } from '../../demo/scenario.ts';
import { type RunningApp, startApp } from '../../server/app.ts';
import { loadDemoWhenEmpty } from '../../server/services/demo.ts';
import { openDatabase } from '../../server/store/database.ts';

/** The moment the demo is loaded at; dates in it are laid around this day. */
export const loadedAt = Date.now();

export interface Answer {
  status: number;
  // biome-ignore lint/suspicious/noExplicitAny: tests look into answers of every shape
  body: any;
  headers: Headers;
  text: string;
}

/** A caller that keeps its cookies, as a browser does. */
export class Caller {
  private readonly cookies = new Map<string, string>();

  constructor(readonly address: string) {}

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
        cookie: [...this.cookies].map(([name, value]) => `${name}=${value}`).join('; '),
        ...(body !== undefined && !form && { 'content-type': 'application/json' }),
        ...headers,
      },
      ...(body !== undefined && { body: form || typeof body === 'string' ? body : JSON.stringify(body) }),
    });
    for (const cookie of response.headers.getSetCookie()) {
      const [pair = ''] = cookie.split(';');
      const at = pair.indexOf('=');
      if (/expires=Thu, 01 Jan 1970/i.test(cookie)) this.cookies.delete(pair.slice(0, at));
      else this.cookies.set(pair.slice(0, at), pair.slice(at + 1));
    }
    const text = await response.text();
    const json = response.headers.get('content-type')?.includes('json');
    return {
      status: response.status,
      body: json ? JSON.parse(text) : undefined,
      headers: response.headers,
      text,
    };
  }

  get(path: string): Promise<Answer> {
    return this.call('GET', path);
  }

  async signIn(): Promise<this> {
    await this.call('POST', '/api/session', { email: demoAccount.email, password: demoAccount.password });
    return this;
  }
}

export interface Instance {
  readonly app: RunningApp;
  readonly sequelize: Sequelize;
  /** Signed in to the studio. */
  readonly studio: Caller;
  readonly visitor: () => Caller;
  stop(): Promise<void>;
}

/** A whole instance with the demo, in a database of its own on the MariaDB server of the test run. */
export async function startInstance(): Promise<Instance> {
  const server = process.env.TEST_DATABASE_SERVER;
  if (!server) throw new Error('TEST_DATABASE_SERVER is not set; run the tests with npm test');
  const name = `apple_porch_test_${randomBytes(6).toString('hex')}`;
  const sequelize = await openDatabase(`${server}/${name}`);
  await loadDemoWhenEmpty(loadedAt);
  const app = await startApp(sequelize, 0);
  const studio = await new Caller(app.address).signIn();
  return {
    app,
    sequelize,
    studio,
    visitor: () => new Caller(app.address),
    async stop() {
      await sequelize.query(`DROP DATABASE \`${name}\``);
      await app.stop();
    },
  };
}
