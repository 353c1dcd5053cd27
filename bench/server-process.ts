import { type ChildProcess, fork } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

/** Linux counts processor time in hundredths of a second (proc_pid_stat(5)). */
export const ticksASecond = 100;

export interface Server {
  readonly process: ChildProcess;
  readonly address: string;
}

/** Starts a server on a database, on a port of its own. */
export async function startServer(url: string): Promise<Server> {
  const child = fork(fileURLToPath(new URL('../server/main.ts', import.meta.url)), {
    execArgv: ['--import', 'tsx'],
    env: { ...process.env, DATABASE_URL: url, PORT: '0', LOG_LEVEL: 'error', NODE_ENV: 'production' },
  });
  const address = await new Promise<string>((resolve, reject) => {
    child.once('message', (ready) => resolve(Object(ready).address));
    child.once('exit', (code) => reject(new Error(`a server ended with ${code} before it served`)));
  });
  return { process: child, address };
}

/** Starts a plain server in a process of its own, which sends some bytes to everybody. */
export async function startPlain(bytes: string): Promise<Server> {
  const child = fork(fileURLToPath(new URL('plain-process.ts', import.meta.url)), {
    execArgv: ['--import', 'tsx'],
    env: { ...process.env, NODE_ENV: 'production' },
  });
  const listens = new Promise<string>((resolve, reject) => {
    child.once('message', (ready) => resolve(Object(ready).address));
    child.once('exit', (code) => reject(new Error(`a plain server ended with ${code} before it served`)));
  });
  child.send(bytes);
  return { process: child, address: await listens };
}

/** Processor time that some servers take for some work, all their threads together, in seconds. */
export async function processorTime(of: readonly Server[], work: () => Promise<void>): Promise<number> {
  const before = of.map(({ process: { pid } }) => ticksOf(pid));
  await work();
  const after = of.map(({ process: { pid } }) => ticksOf(pid));
  return after.reduce((sum, ticks, at) => sum + ticks - (before[at] ?? 0), 0) / ticksASecond;
}

/** User and system time of a process: fields 14 and 15 of proc_pid_stat(5). */
function ticksOf(pid: number | undefined): number {
  const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
  const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
  return Number(fields[11]) + Number(fields[12]);
}
