import { type ChildProcess, fork } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { z } from 'zod';

const main = fileURLToPath(new URL('../../server/main.ts', import.meta.url));
const readySchema = z.object({ address: z.string() });

/** A server of Apple Porch in a process of its own, which can be killed and started again at the same address. */
export class TestServer {
  private child: ChildProcess | undefined;
  private port = 0;

  constructor(private readonly databaseUrl: string) {}

  get isAlive(): boolean {
    return this.child !== undefined && this.child.exitCode === null && this.child.signalCode === null;
  }

  get address(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  async start(): Promise<void> {
    const child = fork(main, {
      execArgv: ['--import', 'tsx'],
      env: {
        ...process.env,
        DATABASE_URL: this.databaseUrl,
        PORT: String(this.port),
        LOG_LEVEL: 'error',
        // Visitors come from networks of their own, as through a proxy.
        TRUST_PROXY: '1',
      },
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    });
    const { address } = await new Promise<z.infer<typeof readySchema>>((resolve, reject) => {
      child.once('message', (ready) => resolve(readySchema.parse(ready)));
      child.once('exit', (code) => reject(new Error(`the server ended with ${code} before it served`)));
    });
    this.port = Number(new URL(address).port);
    this.child = child;
  }

  async kill(signal: NodeJS.Signals): Promise<void> {
    const { child } = this;
    if (!child || !this.isAlive) return;
    const end = new Promise((resolve) => child.once('exit', resolve));
    child.kill(signal);
    await end;
  }
}
