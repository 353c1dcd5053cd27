import { spawn } from 'node:child_process';
import cluster from 'node:cluster';
import { watch } from 'node:fs';
import { join } from 'node:path';
import { say } from './say.mjs';
import { root } from './setup.mjs';

/**
 * Starts the application's server and waits until it serves.
 *
 * @returns {Promise<{ended: Promise<number>, stop: () => Promise<void>, ready: object}>} rejects with the exit code as
 * `code` when the server ends before it serves
 */
export function startServer({ env }) {
  const child = spawn(process.execPath, ['--import', 'tsx', 'server/main.ts'], {
    cwd: root,
    env: { ...process.env, ...env },
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    detached: true,
  });
  const ended = new Promise((resolve) =>
    child.once('exit', (code, signal) => resolve(signal ? 1 : (code ?? 1))),
  );
  const stop = async () => {
    if (child.exitCode === null && child.signalCode === null) child.kill('SIGTERM');
    await ended;
  };
  return new Promise((resolve, reject) => {
    child.once('message', (ready) => resolve({ ended, stop, ready }));
    ended.then((code) => reject(Object.assign(new Error('the server ended before it served'), { code })));
  });
}

/**
 * Starts several servers that share one port: Node's cluster hands each new connection to the next of them. One that ends by
 * itself is started again. A proxy in between would be one more program and one more hop for the same.
 *
 * @returns as {@link startServer}, once all of them serve; `ended` is fulfilled when none is left
 */
export async function startServers({ env, count }) {
  cluster.setupPrimary({ exec: join(root, 'server/main.ts'), execArgv: ['--import', 'tsx'], cwd: root });
  const workers = new Set();
  let isStopping = false;
  let served = false;
  let end;
  const ended = new Promise((resolve) => {
    end = resolve;
  });
  const start = () =>
    new Promise((resolve, reject) => {
      const worker = cluster.fork(env);
      workers.add(worker);
      worker.once('message', resolve);
      worker.once('exit', (code) => {
        workers.delete(worker);
        reject(Object.assign(new Error('the server ended before it served'), { code: code ?? 1 }));
        if (isStopping || !served) {
          if (workers.size === 0) end(code ?? 1);
          return;
        }
        say('A server ended by itself; it is started again …');
        setTimeout(() => !isStopping && start().catch(() => undefined), 1000);
      });
    });
  const stop = async () => {
    isStopping = true;
    for (const worker of workers) worker.process.kill('SIGTERM');
    if (workers.size > 0) await ended;
  };
  try {
    const [ready] = await Promise.all(Array.from({ length: count }, start));
    served = true;
    return { ended, stop, ready };
  } catch (error) {
    await stop();
    throw error;
  }
}

/** Calls back, once for a burst, when a source that the server runs from changes. */
export function watchSources(changed) {
  let timer;
  for (const folder of ['server', 'core', 'contract', 'demo'])
    watch(join(root, folder), { recursive: true }, (_event, name) => {
      if (!/\.ts$/.test(name ?? '') || /\.test\.ts$/.test(name ?? '')) return;
      clearTimeout(timer);
      timer = setTimeout(changed, 150);
    });
}
