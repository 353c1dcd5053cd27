import { spawnSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { startDatabase } from './database.mjs';
import { Refusal, run } from './say.mjs';
import { ensureDebianPackages, ensureNodeModules, ensureWebBuild, root } from './setup.mjs';

await run(async () => {
  const folder = join(root, '.data-bench');
  ensureDebianPackages(['mariadb-server', 'chromium']);
  ensureNodeModules();
  ensureWebBuild();
  mkdirSync(folder, { recursive: true });
  const database = await startDatabase(folder);
  try {
    const done = spawnSync(process.execPath, ['--import', 'tsx', 'bench/main.ts', ...process.argv.slice(2)], {
      cwd: root,
      env: { ...process.env, NODE_ENV: 'production', BENCH_DATABASE_SERVER: database.url('').slice(0, -1) },
      stdio: ['ignore', 'inherit', 'inherit'],
    });
    if (done.status !== 0)
      throw new Refusal('The benchmark did not finish, or a bar does not hold; see above.');
  } finally {
    await database.stop();
  }
});
