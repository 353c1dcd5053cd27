import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { isFree, keepDatabase } from './database.mjs';
import { Refusal, run, say } from './say.mjs';
import { startServer, startServers, watchSources } from './server-process.mjs';
import { ensureDebianPackages, ensureNodeModules, ensureWebBuild, root } from './setup.mjs';

const { values: options } = parseArgs({
  options: { dev: { type: 'boolean' }, servers: { type: 'string', default: '1' } },
});
const dev = options.dev === true;
const count = Number(options.servers);

await run(async () => {
  const port = Number(process.env.PORT ?? 4310);
  if (!Number.isInteger(port) || port < 1 || port > 65_535)
    throw new Refusal(`PORT must be a number from 1 to 65535; it is “${process.env.PORT}”.`);
  if (!Number.isInteger(count) || count < 1 || count > 64)
    throw new Refusal(`--servers must be a number from 1 to 64; it is “${options.servers}”.`);
  if (dev && count > 1) throw new Refusal('--dev is for one server; leave out --servers.');
  if (!(await isFree(port)))
    throw new Refusal(
      `Port ${port} is in use. Stop what uses it, or choose another: PORT=${port === 65_535 ? 4311 : port + 1} npm start`,
    );
  const folder = process.env.APPLE_PORCH_DATA ?? join(root, '.data');
  const own = !process.env.DATABASE_URL;
  if (own) ensureDebianPackages(['mariadb-server']);
  ensureNodeModules();
  if (!dev) ensureWebBuild();

  let stopping = false;
  const stops = [];
  const stopAll = async () => {
    for (const stop of stops.splice(0).reverse()) await stop();
  };
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
    process.on(signal, async () => {
      if (stopping) return;
      stopping = true;
      say('\nStopping …');
      await stopAll();
      process.exit(0);
    });

  const database = own ? await keepDatabase(folder) : undefined;
  if (database) stops.push(database.stop);
  if (stopping) return void (await stopAll());
  const env = {
    PORT: String(port),
    APPLE_PORCH_DATA: folder,
    CONTACT_FOLDER: process.env.CONTACT_FOLDER ?? join(folder, 'contacts'),
    DATABASE_URL: process.env.DATABASE_URL || database?.url('apple_porch') || '',
    APPLE_PORCH_DEV: dev ? '1' : '',
    NODE_ENV: dev ? 'development' : 'production',
  };
  try {
    let server = count > 1 ? await startServers({ env, count }) : await startServer({ env });
    stops.push(() => server.stop());
    const { address, demo, site } = server.ready;
    say(`\nApple Porch is ready:  ${address}${count > 1 ? `  (${count} servers)` : ''}`);
    if (demo) say(`Demo sign-in:          ${demo.email}  /  ${demo.password}`);
    say(`The live site:         ${site}\n\nCtrl-C stops it.`);
    if (dev) {
      watchSources(async () => {
        say('A source changed: restarting the server …');
        await server.stop();
        server = await startServer({ env }).catch((error) => {
          say('The server did not start; it is tried again at the next change.');
          return { stop: async () => {}, error };
        });
      });
      return;
    }
    const code = await server.ended;
    if (!stopping) {
      await stopAll();
      throw new Refusal(`The server ended by itself (exit code ${code}); see above. Nothing saved was lost.`);
    }
  } catch (error) {
    if (stopping) return;
    await stopAll();
    if (error.code !== undefined && !(error instanceof Refusal))
      throw new Refusal('Apple Porch did not start; the reason stands above.');
    throw error;
  }
});
