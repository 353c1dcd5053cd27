import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { isFree, startDatabase } from './database.mjs';
import { Refusal, run, say } from './say.mjs';
import { ensureDebianPackages, ensureNodeModules, root } from './setup.mjs';

await run(async () => {
  const folder = process.env.APPLE_PORCH_DATA ?? join(root, '.data');
  const own = !process.env.DATABASE_URL;
  if (own) ensureDebianPackages(['mariadb-server']);
  ensureNodeModules();
  const database = own ? await startDatabase(folder) : undefined;
  if (database?.found && !(await isFree(Number(process.env.PORT ?? 4310))))
    throw new Refusal('Apple Porch is running. Stop it with Ctrl-C first, then restore the demo.');
  const done = spawnSync(process.execPath, ['--import', 'tsx', 'server/demo/reset-demo.ts'], {
    cwd: root,
    env: { ...process.env, DATABASE_URL: process.env.DATABASE_URL || database?.url('apple_porch') || '' },
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  await database?.stop();
  if (done.status !== 0) throw new Refusal('The demo was not restored; the reason stands above.');
  say('The demo is as it was. Start with npm start.');
});
