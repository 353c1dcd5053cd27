import { spawn, spawnSync } from 'node:child_process';
import { closeSync, existsSync, mkdirSync, openSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { userInfo } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import mysql from 'mysql2/promise';
import { freePort } from './database.mjs';
import { Refusal } from './say.mjs';
import { findProgram } from './setup.mjs';

const address = '127.0.0.1';
const user = 'apple_porch';
const password = 'of-a-test-only';
const provider = '/usr/lib/galera/libgalera_smm.so';

/**
 * Starts a Galera cluster of MariaDB nodes on loopback, for tests. Every node takes reads and writes.
 *
 * @param folder where the nodes keep their files; emptied first
 * @returns {Promise<{nodes: Node[], url: (name: string) => string, stop: () => Promise<void>}>} the nodes, the address of a
 * database that names all of them, and the end of it
 */
export async function startCluster(folder, count = 3) {
  if (!existsSync(provider)) throw new Refusal('The Debian package galera-4 is not installed.');
  rmSync(folder, { recursive: true, force: true });
  const ports = [];
  for (let port = 0; port < count * 4; port++) ports.push(await freePort());
  const members = Array.from({ length: count }, (_, at) => ports[at * 4 + 1]);
  const nodes = Array.from(
    { length: count },
    (_, at) => new Node(join(folder, `node-${at + 1}`), ports.slice(at * 4, at * 4 + 4), members),
  );
  await nodes[0].start(true);
  for (const node of nodes.slice(1)) await node.start();
  return {
    nodes,
    url: (name) =>
      `mysql://${user}:${password}@${nodes.map(({ port }) => `${address}:${port}`).join(',')}/${name}`,
    async stop() {
      for (const node of [...nodes].reverse()) await node.kill('SIGTERM');
    },
  };
}

/** How often a node that can't join is started again. */
const mostStarts = 5;

/** One node: a MariaDB server with its own files and ports. */
class Node {
  constructor(folder, [port, member, transfer, increment], members) {
    Object.assign(this, { folder, port, member, transfer, increment, members });
    this.data = join(folder, 'data');
    this.child = undefined;
  }

  get isAlive() {
    return this.child !== undefined && this.child.exitCode === null && this.child.signalCode === null;
  }

  /** Starts it, as the first of a new cluster or by joining the others, and waits until it can be worked on. */
  async start(isFirst = false) {
    if (!existsSync(this.data)) {
      mkdirSync(this.folder, { recursive: true });
      const made = spawnSync(
        findProgram('mariadb-install-db') ?? 'mariadb-install-db',
        [
          '--no-defaults',
          `--user=${userInfo().username}`,
          `--datadir=${this.data}`,
          '--auth-root-authentication-method=socket',
          '--skip-test-db',
        ],
        { encoding: 'utf8' },
      );
      if (made.status !== 0) throw new Refusal(`${made.stdout}${made.stderr}`.slice(-1500));
    }
    const init = join(this.folder, 'init.sql');
    writeFileSync(
      init,
      [
        `CREATE USER IF NOT EXISTS '${user}'@'${address}' IDENTIFIED BY '${password}';`,
        `GRANT ALL ON *.* TO '${user}'@'${address}';`,
        '',
      ].join('\n'),
    );
    // A node ends where it can't join, such as while another is joining; it is started again, as systemd does it.
    for (let tries = 0; tries < mostStarts; tries++) {
      if (await this.tryToStart(isFirst ? init : undefined)) return;
      await this.kill('SIGKILL');
      await wait(2000);
    }
    const lines = readFileSync(join(this.folder, 'log'), 'utf8').split('\n').slice(-40).join('\n');
    throw new Refusal(`A node did not start:\n${lines}`);
  }

  /** Whether it could be started, and can be worked on. */
  async tryToStart(init) {
    const log = openSync(join(this.folder, 'log'), 'a');
    this.child = spawn(findProgram('mariadbd') ?? 'mariadbd', this.options(init), {
      stdio: ['ignore', log, log],
    });
    closeSync(log);
    for (let waited = 0; waited < 600 && this.isAlive; waited++) {
      if (await this.isSynced()) return true;
      await wait(100);
    }
    return false;
  }

  options(init) {
    return [
      '--no-defaults',
      ...(userInfo().uid === 0 ? ['--user=root'] : []),
      `--datadir=${this.data}`,
      `--socket=${join(this.folder, 'socket')}`,
      `--pid-file=${join(this.folder, 'pid')}`,
      `--port=${this.port}`,
      `--bind-address=${address}`,
      ...(init ? [`--init-file=${init}`, '--wsrep-new-cluster'] : []),
      '--character-set-server=utf8mb4',
      '--collation-server=utf8mb4_unicode_ci',
      '--max-allowed-packet=64M',
      '--skip-name-resolve',
      '--binlog-format=ROW',
      '--innodb-autoinc-lock-mode=2',
      '--wsrep-on=ON',
      `--wsrep-provider=${provider}`,
      '--wsrep-cluster-name=apple_porch_test',
      `--wsrep-cluster-address=gcomm://${this.members.map((member) => `${address}:${member}`).join(',')}`,
      `--wsrep-node-address=${address}:${this.member}`,
      '--wsrep-sst-method=mariabackup',
      '--wsrep-sst-auth=root:',
      `--wsrep-sst-receive-address=${address}:${this.transfer}`,
      `--wsrep-provider-options=gmcast.listen_addr=tcp://${address}:${this.member};ist.recv_addr=${address}:${this.increment};ist.recv_bind=${address}:${this.increment};gcache.size=128M`,
    ];
  }

  async isSynced() {
    try {
      const connection = await mysql.createConnection({ host: address, port: this.port, user, password });
      const [[row]] = await connection.query("SHOW STATUS LIKE 'wsrep_local_state_comment'");
      await connection.end();
      return row?.Value === 'Synced';
    } catch {
      return false;
    }
  }

  async kill(signal) {
    if (!this.isAlive) return;
    const ended = new Promise((resolve) => this.child.once('exit', resolve));
    this.child.kill(signal);
    await ended;
  }
}
