import { spawn, spawnSync } from 'node:child_process';
import { createHash, randomBytes, randomInt } from 'node:crypto';
import {
  chmodSync,
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { connect, createServer } from 'node:net';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { Refusal, say } from './say.mjs';
import { findProgram } from './setup.mjs';

const address = '127.0.0.1';
/** Longest path of a Unix socket on Linux is 107 bytes. */
const longestSocket = 100;

/**
 * Starts the private MariaDB server of a data folder, or takes over one that still runs there, and makes the
 * application's user. Recovers by itself after a kill.
 *
 * @param folder the data folder; the server's files are kept in `database/` below it
 * @param keepsPort waits until the port that it had is free, for those who go on asking there
 * @returns {Promise<{url: (name: string) => string, stop: () => Promise<void>, found: boolean}>} addresses of
 * databases whose name starts with `apple_porch`, a clean stop, and whether the server was running already
 */
export async function startDatabase(folder, keepsPort = false) {
  mkdirSync(folder, { recursive: true });
  const files = filesOf(folder);
  const access = await readAccess(files);
  const url = (name) => `mysql://${access.user}:${access.password}@${address}:${access.port}/${name}`;
  const running = runningPid(files);
  if (running && (await greets(access.port))) return { url, stop: () => stopProcess(running), found: true };
  for (let tries = 0; keepsPort && tries < 200 && !(await isFree(access.port)); tries++) await wait(100);
  if (!(await isFree(access.port))) {
    access.port = await databasePort();
    writeAccess(files, access);
  }
  installDataFolder(files);
  writeFileSync(files.init, initSql(access), { mode: 0o600 });
  const log = openSync(files.log, 'a');
  const child = spawn(findProgram('mariadbd') ?? 'mariadbd', serverArguments(files, access), {
    stdio: ['ignore', log, log],
    // Its own process group: Ctrl-C is for the start command, which stops the server in order.
    detached: true,
  });
  closeSync(log);
  let ended = false;
  child.once('exit', () => {
    ended = true;
  });
  child.once('error', () => {
    ended = true;
  });
  for (let tries = 0; !(await greets(access.port)); tries++) {
    if (ended || tries > 600) {
      if (!ended) child.kill('SIGKILL');
      throw new Refusal(startFailure(files));
    }
    await wait(50);
  }
  rmSync(files.init, { force: true });
  return { url, stop: () => (ended ? Promise.resolve() : stopProcess(child.pid)), found: false };
}

/**
 * As {@link startDatabase}, and starts the server again whenever it ends by itself, at the address that it had.
 *
 * @param folder the data folder
 * @returns {Promise<{url: (name: string) => string, stop: () => Promise<void>}>}
 */
export async function keepDatabase(folder) {
  let database = await startDatabase(folder);
  const files = filesOf(folder);
  let isKept = true;
  let starting = Promise.resolve();
  const startAgain = async () => {
    say('The database ended by itself; it is started again …');
    try {
      database = await startDatabase(folder, true);
      say('The database is back.');
    } catch (error) {
      say(error.message);
    }
  };
  const watch = async () => {
    if (!isKept) return;
    if (!runningPid(files)) {
      starting = startAgain();
      await starting;
    }
    setTimeout(watch, 500).unref();
  };
  setTimeout(watch, 500).unref();
  return {
    url: database.url,
    async stop() {
      isKept = false;
      await starting;
      await database.stop();
    },
  };
}

function filesOf(folder) {
  const socket = join(folder, 'database.sock');
  const short = createHash('sha256').update(folder).digest('hex').slice(0, 12);
  return {
    data: join(folder, 'database'),
    access: join(folder, 'database-access.json'),
    socket: Buffer.byteLength(socket) <= longestSocket ? socket : join(tmpdir(), `apple-porch-${short}.sock`),
    pid: join(folder, 'database.pid'),
    init: join(folder, 'database-init.sql'),
    log: join(folder, 'database.log'),
  };
}

async function readAccess(files) {
  if (existsSync(files.access)) return JSON.parse(readFileSync(files.access, 'utf8'));
  const access = {
    user: 'apple_porch',
    password: randomBytes(24).toString('hex'),
    port: await databasePort(),
  };
  writeAccess(files, access);
  return access;
}

/**
 * A free port below those that the system gives out by itself (RFC 6335, 6: the dynamic ports): who asks again and again for
 * one of them while nobody listens there may be connected to itself, and keep the server from coming back.
 */
async function databasePort() {
  for (let tries = 0; tries < 100; tries++) {
    const port = randomInt(20_000, 32_000);
    if (await isFree(port)) return port;
  }
  return freePort();
}

function writeAccess(files, access) {
  writeFileSync(files.access, `${JSON.stringify(access)}\n`, { mode: 0o600 });
  chmodSync(files.access, 0o600);
}

function installDataFolder(files) {
  if (existsSync(join(files.data, 'mysql'))) return;
  say('Making a private database …');
  const done = spawnSync(
    findProgram('mariadb-install-db') ?? 'mariadb-install-db',
    [
      '--no-defaults',
      `--user=${userInfo().username}`,
      `--datadir=${files.data}`,
      '--auth-root-authentication-method=socket',
      '--skip-test-db',
    ],
    { encoding: 'utf8' },
  );
  if (done.status !== 0)
    throw new Refusal(
      `The database could not be made in ${files.data}.\n${`${done.stdout}${done.stderr}`.slice(-1500)}`,
    );
}

function serverArguments(files, access) {
  return [
    '--no-defaults',
    ...(userInfo().uid === 0 ? ['--user=root'] : []),
    `--datadir=${files.data}`,
    `--socket=${files.socket}`,
    `--port=${access.port}`,
    `--bind-address=${address}`,
    `--pid-file=${files.pid}`,
    `--init-file=${files.init}`,
    '--character-set-server=utf8mb4',
    '--collation-server=utf8mb4_unicode_ci',
    '--max-allowed-packet=64M',
    '--innodb-buffer-pool-size=256M',
    // What does not fit into it is read from the operating system's cache, not from the disk.
    '--innodb-flush-method=fsync',
    '--skip-name-resolve',
  ];
}

/** Run by the server itself at each start; root stays reachable over the socket only. */
function initSql({ user, password }) {
  return [
    `CREATE USER IF NOT EXISTS '${user}'@'127.0.0.1' IDENTIFIED BY '${password}';`,
    `ALTER USER '${user}'@'127.0.0.1' IDENTIFIED BY '${password}';`,
    `GRANT ALL ON \`apple\\_porch%\`.* TO '${user}'@'127.0.0.1';`,
    '',
  ].join('\n');
}

function startFailure(files) {
  const log = existsSync(files.log) ? readFileSync(files.log, 'utf8').trim().split('\n').slice(-12) : [];
  const full = log.some((line) => /No space left|Errcode: 28|disk is full/i.test(line));
  return full
    ? 'The database did not start: the disk is full. Free some space and try again.'
    : `The database did not start. The end of ${files.log}:\n${log.join('\n')}`;
}

/** The process of a MariaDB server that runs on this folder, also one left behind by a killed start command. */
function runningPid(files) {
  if (!existsSync(files.pid)) return undefined;
  const pid = Number(readFileSync(files.pid, 'utf8').trim());
  try {
    const command = readFileSync(`/proc/${pid}/cmdline`, 'utf8');
    return command.includes('mariadbd') && command.includes(`--datadir=${files.data}\0`) ? pid : undefined;
  } catch {
    return undefined;
  }
}

async function stopProcess(pid) {
  const alive = () => {
    try {
      process.kill(pid, 0);
      return !isZombie(pid);
    } catch {
      return false;
    }
  };
  if (!alive()) return;
  process.kill(pid, 'SIGTERM');
  for (let tries = 0; alive() && tries < 600; tries++) await wait(50);
  if (alive()) process.kill(pid, 'SIGKILL');
}

function isZombie(pid) {
  try {
    return /\) Z /.test(readFileSync(`/proc/${pid}/stat`, 'utf8'));
  } catch {
    return false;
  }
}

/** Whether a MariaDB server greets on a port: it speaks first. */
function greets(port) {
  return new Promise((resolve) => {
    const socket = connect({ port, host: address });
    const end = (answer) => {
      socket.destroy();
      resolve(answer);
    };
    socket.setTimeout(1000, () => end(false));
    socket.once('error', () => end(false));
    socket.once('data', (data) => end(data.includes('MariaDB')));
  });
}

export function isFree(port) {
  return new Promise((resolve) => {
    const server = createServer();
    server.once('error', () => resolve(false));
    server.listen(port, address, () => server.close(() => resolve(true)));
  });
}

export function freePort() {
  return new Promise((resolve, reject) => {
    const server = createServer();
    server.once('error', reject);
    server.listen(0, address, () => {
      const { port } = server.address();
      server.close(() => resolve(port));
    });
  });
}
