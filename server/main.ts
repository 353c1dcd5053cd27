import { demoAccount } from '../demo/scenario.ts';
import { startApp } from './app.ts';
import { readConfiguration, WrongConfiguration } from './configuration.ts';
import { loadDemoWhenEmpty } from './demo/rows.ts';
import { onlyOne } from './store/database.ts';
import { openDatabase } from './tables.ts';

try {
  const configuration = readConfiguration(process.env);
  const sequelize = await openDatabase(configuration.DATABASE_URL);
  if (configuration.DEMO) await onlyOne(sequelize, () => loadDemoWhenEmpty(Date.now()));
  const app = await startApp(sequelize, configuration);
  // Nothing that nobody waits for may end the server with all that others are doing.
  process.on('unhandledRejection', (error) => {
    process.stderr.write(`Something failed that nobody waited for: ${explain(error)}\n`);
  });
  let stopping = false;
  const stop = async () => {
    if (stopping) return;
    stopping = true;
    await app.stop();
    process.exit(0);
  };
  process.on('SIGTERM', stop);
  process.on('SIGINT', stop);
  // The start command is gone: without it nobody stops the database in order, so this ends too.
  process.on('disconnect', stop);
  process.send?.({ address: app.address, site: `${app.address}/site/`, demo: app.demo ? demoAccount : null });
} catch (error) {
  process.stderr.write(`${explain(error)}\n`);
  process.exit(1);
}

function explain(error: unknown): string {
  if (error instanceof WrongConfiguration) return error.message;
  const cause = error instanceof Error && 'original' in error ? error.original : error;
  const message = cause instanceof Error ? cause.message : String(cause);
  if (/ECONNREFUSED|ETIMEDOUT|ENOTFOUND/.test(message))
    return `The database of DATABASE_URL can’t be reached: ${message}`;
  if (/Access denied/.test(message))
    return `The database of DATABASE_URL refuses the user or password: ${message}`;
  if (/ENOSPC|No space left|is full/i.test(message)) return `The disk is full: ${message}`;
  return error instanceof Error ? `${message}\n${error.stack ?? ''}` : message;
}
