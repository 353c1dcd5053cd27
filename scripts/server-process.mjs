import { spawn } from 'node:child_process';
import { watch } from 'node:fs';
import { join } from 'node:path';
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
