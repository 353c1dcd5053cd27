import { dropEverything } from '../store/database.ts';
import { openDatabase } from '../tables.ts';
import { loadDemoWhenEmpty } from './rows.ts';

const url = process.env.DATABASE_URL;
if (!url) throw new Error('DATABASE_URL is not set');

const old = await openDatabase(url);
await dropEverything(old);
await old.close();
const sequelize = await openDatabase(url);
await loadDemoWhenEmpty(Date.now());
await sequelize.close();
