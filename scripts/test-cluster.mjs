// npm run test:cluster: three nodes of MariaDB and three servers, of which one after another is killed. KILLS=20 SEED=1.
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { run } from './say.mjs';
import { ensureDebianPackages, ensureNodeModules, ensureWebBuild, root } from './setup.mjs';

await run(async () => {
  ensureDebianPackages(['mariadb-server', 'galera-4', 'mariadb-backup', 'socat']);
  ensureNodeModules();
  ensureWebBuild();
  const { status } = spawnSync(
    process.execPath,
    [join('node_modules', 'vitest/vitest.mjs'), 'run', '--config', 'vitest.cluster.config.ts'],
    { cwd: root, stdio: ['ignore', 'inherit', 'inherit'] },
  );
  process.exit(status ?? 1);
});
