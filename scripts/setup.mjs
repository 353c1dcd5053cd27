import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Refusal, say } from './say.mjs';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));

const debianPackages = {
  'mariadb-server': { program: 'mariadbd', why: 'the database that Apple Porch keeps its data in' },
  chromium: { program: 'chromium', why: 'the browser that the tests drive' },
  // A library, beside the folder of programs.
  'galera-4': {
    program: '../lib/galera/libgalera_smm.so',
    why: 'what makes several databases one, in the test of a cluster',
  },
  'mariadb-backup': { program: 'mariadb-backup', why: 'what a database that joins a cluster is filled by' },
  socat: { program: 'socat', why: 'the way from one database of a cluster to another' },
};

/** The full path of a program, also where the PATH of an ordinary user leaves out the system folders. */
export function findProgram(name) {
  const folders = [...(process.env.PATH ?? '').split(':'), '/usr/local/sbin', '/usr/sbin', '/usr/bin'];
  return folders.map((folder) => join(folder || '.', name)).find((path) => existsSync(path));
}

/** Installs missing Debian packages as root; for others it says the command to run, and stops. */
export function ensureDebianPackages(names) {
  const missing = names.filter((name) => !findProgram(debianPackages[name].program));
  if (missing.length === 0) return;
  for (const name of missing) say(`Missing: the Debian package ${name}, ${debianPackages[name].why}.`);
  const command = `apt-get update && apt-get install -y ${missing.join(' ')}`;
  if (process.getuid?.() !== 0)
    throw new Refusal(`Please have it installed, then try again:\n\n  sudo sh -c '${command}'\n`);
  if (!findProgram('apt-get')) throw new Refusal(`Please install ${missing.join(', ')} and try again.`);
  say(`Installing ${missing.join(', ')} …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const done = spawnSync('sh', ['-c', command], { env, encoding: 'utf8', maxBuffer: 1 << 28 });
  if (done.status !== 0)
    throw new Refusal(`${command}\nfailed:\n${(done.stderr || done.stdout || '').slice(-2000)}`);
}

/** Runs `npm ci` when node_modules is missing or was made from another lock file. */
export function ensureNodeModules() {
  const [major = 0, minor = 0] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    throw new Refusal(`Node.js 20.19 or newer is needed; this is ${process.versions.node}.`);
  const stamp = join(root, 'node_modules', '.lock-of-this-install');
  const lock = digest([readFileSync(join(root, 'package-lock.json'))]);
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  say('Installing the Node.js packages (npm ci) …');
  const done = spawnSync('npm', ['ci', '--no-audit', '--no-fund', '--include=dev'], {
    cwd: root,
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  if (done.status !== 0) throw new Refusal('npm ci failed; see above.');
  writeFileSync(stamp, lock);
}

/** Builds the web application when its sources changed since the last build. */
export function ensureWebBuild() {
  const sources = ['web', 'core', 'contract', 'vite.config.ts', 'package-lock.json'];
  const state = digest(sources.flatMap((source) => [...fileStates(join(root, source))]));
  const stamp = join(root, 'dist', 'web', '.sources');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === state) return;
  say('Building the web application …');
  const done = spawnSync(process.execPath, ['node_modules/vite/bin/vite.js', 'build', '--logLevel', 'warn'], {
    cwd: root,
    // Whoever asks: what is built is what is served.
    env: { ...process.env, NODE_ENV: 'production' },
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  if (done.status !== 0) throw new Refusal('The web application did not build; see above.');
  mkdirSync(dirname(stamp), { recursive: true });
  writeFileSync(stamp, state);
}

function* fileStates(path) {
  const found = statSync(path);
  if (!found.isDirectory()) yield `${path} ${found.size} ${found.mtimeMs}`;
  else for (const name of readdirSync(path).sort()) yield* fileStates(join(path, name));
}

function digest(pieces) {
  const hash = createHash('sha256');
  for (const piece of pieces) hash.update(piece);
  return hash.digest('hex');
}
