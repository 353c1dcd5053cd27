import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { afterAll, beforeAll, expect, it } from 'vitest';

let folder: string;
let port: number;
const started: ChildProcess[] = [];

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'apple-porch-'));
  port = await new Promise((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const address = server.address();
      server.close(() => resolve(typeof address === 'object' && address ? address.port : 0));
    });
  });
});

afterAll(async () => {
  for (const child of started) child.kill('SIGKILL');
  for (const pid of processesOf(folder)) process.kill(pid, 'SIGKILL');
  await wait(300);
  rmSync(folder, { recursive: true, force: true });
});

/** Processes whose command line or environment names the folder: the start command, the server, the database. */
function processesOf(path: string): number[] {
  return readdirSync('/proc')
    .map(Number)
    .filter((pid) => {
      if (!pid || pid === process.pid) return false;
      try {
        return (
          readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(path) ||
          readFileSync(`/proc/${pid}/environ`, 'utf8').includes(`APPLE_PORCH_DATA=${path}\0`)
        );
      } catch {
        return false;
      }
    });
}

/** Those of the processes that are servers. */
const serversOf = (path: string) =>
  processesOf(path).filter((pid) => readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('server/main.ts'));

interface Started {
  child: ChildProcess;
  output: () => string;
  ended: Promise<number | null>;
}

function start(...options: string[]): Started {
  const child = spawn(process.execPath, ['scripts/start.mjs', ...options], {
    env: { ...process.env, PORT: String(port), APPLE_PORCH_DATA: folder, DATABASE_URL: '' },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  started.push(child);
  let output = '';
  child.stdout?.on('data', (chunk) => {
    output += chunk;
  });
  child.stderr?.on('data', (chunk) => {
    output += chunk;
  });
  const ended = new Promise<number | null>((resolve) => child.once('exit', resolve));
  return { child, output: () => output, ended };
}

async function ready(process: Started): Promise<void> {
  for (let tries = 0; !process.output().includes('is ready'); tries++) {
    if (tries > 600 || process.child.exitCode !== null) throw new Error(`not ready:\n${process.output()}`);
    await wait(100);
  }
}

const site = async () => (await fetch(`http://127.0.0.1:${port}/site/`)).text();

/** As {@link site}, asked once more by somebody whose request had just been given to a server that died. */
async function siteAgain(): Promise<string> {
  const ask = () => fetch(`http://127.0.0.1:${port}/site/`, { signal: AbortSignal.timeout(10_000) });
  return (await ask().catch(ask)).text();
}

/** What the first request is answered that finds somebody listening. */
async function firstAnswer(): Promise<string> {
  for (let tries = 0; tries < 6000; tries++) {
    try {
      const answer = await fetch(`http://127.0.0.1:${port}/site/`);
      return `${answer.status} ${await answer.text()}`;
    } catch {
      await wait(10);
    }
  }
  return 'nobody ever listened';
}

it('starts, refuses a taken port, stops cleanly, and recovers after kill -9 of everything', async () => {
  const first = start();
  const asked = firstAnswer();
  await ready(first);
  // Who asks while it starts waits, and gets what there is.
  expect(await asked).toMatch(/^200 .*Come and look up/s);
  expect(first.output()).toContain(`http://127.0.0.1:${port}`);
  expect(first.output()).toContain('maya@example.org');
  expect(await site()).toContain('Come and look up');
  expect(statSync(join(folder, 'database-access.json')).mode & 0o777).toBe(0o600);

  const second = start();
  expect(await second.ended).toBe(1);
  expect(second.output()).toContain(`Port ${port} is in use`);
  expect(await site()).toContain('Come and look up');

  first.child.kill('SIGTERM');
  expect(await first.ended).toBe(0);
  expect(processesOf(folder)).toEqual([]);
  expect(existsSync(join(folder, 'database.pid'))).toBe(false);

  const third = start();
  await ready(third);
  for (const pid of processesOf(folder)) process.kill(pid, 'SIGKILL');
  await third.ended;
  const fourth = start();
  await ready(fourth);
  expect(await site()).toContain('Come and look up');

  // Only the start command dies: its server follows, and the next start takes the database over.
  fourth.child.kill('SIGKILL');
  await fourth.ended;
  for (let tries = 0; tries < 100 && (await site().catch(() => '')) !== ''; tries++) await wait(100);
  const fifth = start();
  await ready(fifth);
  expect(await site()).toContain('Come and look up');
  fifth.child.kill('SIGINT');
  expect(await fifth.ended).toBe(0);
  expect(processesOf(folder)).toEqual([]);
});

it('runs several servers behind one port, and starts one again that was killed', async () => {
  const all = start('--servers', '3');
  await ready(all);
  expect(serversOf(folder)).toHaveLength(3);
  const [victim = 0] = serversOf(folder);
  process.kill(victim, 'SIGKILL');
  for (let request = 0; request < 20; request++) expect(await siteAgain()).toContain('Come and look up');
  for (let tries = 0; tries < 300 && !all.output().includes('started again'); tries++) await wait(100);
  for (let tries = 0; tries < 300 && serversOf(folder).length < 3; tries++) await wait(100);
  expect(serversOf(folder)).toHaveLength(3);
  expect(serversOf(folder)).not.toContain(victim);
  all.child.kill('SIGTERM');
  expect(await all.ended).toBe(0);
  expect(processesOf(folder)).toEqual([]);

  const none = start('--servers', 'three');
  expect(await none.ended).toBe(1);
  expect(none.output()).toContain('--servers must be a number from 1 to 64; it is “three”');
});
