import { type ChildProcess, fork } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { fileURLToPath } from 'node:url';
import mysql from 'mysql2/promise';
import { z } from 'zod';

const main = fileURLToPath(new URL('../../server/main.ts', import.meta.url));
const readySchema = z.object({ address: z.string() });

/** A server in a process of its own. */
export interface ServerProcess {
  readonly address: string;
  readonly process: ChildProcess;
}

/** Servers on one database with the demo, each in a process of its own. */
export class SeveralServers {
  readonly servers: ServerProcess[] = [];
  readonly databaseUrl =
    `${process.env.TEST_DATABASE_SERVER}/apple_porch_test_${randomBytes(6).toString('hex')}`;

  static async start(count: number): Promise<SeveralServers> {
    const several = new SeveralServers();
    // At once: one of them makes the tables and fills them, while the others wait for it.
    await Promise.all(Array.from({ length: count }, () => several.add()));
    return several;
  }

  async add(): Promise<ServerProcess> {
    const child = fork(main, {
      execArgv: ['--import', 'tsx'],
      // Visitors come from networks of their own, as through a proxy.
      env: { ...process.env, DATABASE_URL: this.databaseUrl, PORT: '0', TRUST_PROXY: '1' },
    });
    const { address } = await new Promise<z.infer<typeof readySchema>>((resolve, reject) => {
      child.once('message', (ready) => resolve(readySchema.parse(ready)));
      child.once('exit', (code) => reject(new Error(`the server ended with ${code} before it served`)));
    });
    const server = { address, process: child };
    this.servers.push(server);
    return server;
  }

  async stop(): Promise<void> {
    await Promise.all(this.servers.map(({ process: child }) => ended(child, 'SIGTERM')));
    const connection = await mysql.createConnection(process.env.TEST_DATABASE_SERVER ?? '');
    await connection.query(`DROP DATABASE \`${new URL(this.databaseUrl).pathname.slice(1)}\``);
    await connection.end();
  }
}

async function ended(child: ChildProcess, signal: NodeJS.Signals): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const end = new Promise((resolve) => child.once('exit', resolve));
  child.kill(signal);
  await end;
}
