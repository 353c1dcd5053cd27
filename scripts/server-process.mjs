import { spawn } from 'node:child_process';
import { root } from './setup.mjs';

/**
 * Starts the application's server and waits until it serves.
 *
 * @returns {Promise<{ended: Promise<number>, stop: () => Promise<void>, ready: object}>} rejects with the exit code as
 * `code` when the server ends before it serves
 */
export function startServer({ env, watch = false }) {
  const child = spawn(
    process.execPath,
    [...(watch ? ['--watch', '--watch-preserve-output'] : []), '--import', 'tsx', 'server/main.ts'],
    {
      cwd: root,
      env: { ...process.env, ...env },
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
      detached: true,
    },
  );
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
