import { randomBytes } from 'node:crypto';
import { Agent, request } from 'node:http';
import type { AddressInfo } from 'node:net';
import express from 'express';
import helmet from 'helmet';
import { startApp } from '../server/app.ts';
import { loadDemoWhenEmpty } from '../server/services/demo.ts';
import { openDatabase } from '../server/store/database.ts';
import { median, type Result, result } from './result.ts';

const connections = 16;
const requestsARound = 3000;
const rounds = 7;

/**
 * Requests per second of /site/ for an anonymous visitor, against the same Express with the same security headers
 * sending the same bytes unchanged. Both are asked in turn from this process.
 */
export async function siteBench(): Promise<Result[]> {
  const name = `apple_porch_bench_${randomBytes(6).toString('hex')}`;
  const sequelize = await openDatabase(`${process.env.BENCH_DATABASE_SERVER}/${name}`);
  await loadDemoWhenEmpty(Date.now());
  const app = await startApp(sequelize, 0, '.data-bench');
  const page = await fetch(`${app.address}/site/`);
  const bytes = await page.text();

  const plain = express();
  plain.disable('x-powered-by');
  plain.use(helmet());
  plain.get('/site/', (_request, response) => {
    response.set({ 'Cache-Control': 'private, no-cache', Vary: 'Cookie' });
    response.type('html').send(bytes);
  });
  const listening = plain.listen(0, '127.0.0.1');
  await new Promise((resolve) => listening.once('listening', resolve));
  const peerAddress = `http://127.0.0.1:${(listening.address() as AddressInfo).port}`;

  const own = `${app.address}/site/`;
  const peer = `${peerAddress}/site/`;
  for (const address of [own, peer]) await load(address);
  const ratios: number[] = [];
  for (let round = 0; round < rounds; round++) ratios.push((await load(own)) / (await load(peer)));
  listening.closeAllConnections();
  listening.close();
  await sequelize.query(`DROP DATABASE \`${name}\``);
  await app.stop();
  return [result('site', '/site/, requests per second', 'the same bytes unchanged', median(ratios), 0.7)];
}

/** Requests per second over some connections kept open. */
async function load(address: string): Promise<number> {
  const agent = new Agent({ keepAlive: true, maxSockets: connections });
  let left = requestsARound;
  const start = performance.now();
  await Promise.all(
    Array.from({ length: connections }, async () => {
      while (left-- > 0) await get(address, agent);
    }),
  );
  const seconds = (performance.now() - start) / 1000;
  agent.destroy();
  return requestsARound / seconds;
}

function get(address: string, agent: Agent): Promise<void> {
  return new Promise((resolve, reject) => {
    const asked = request(address, { agent }, (response) => {
      if (response.statusCode !== 200) reject(new Error(`status ${response.statusCode}`));
      response.resume();
      response.once('end', resolve);
    });
    asked.once('error', reject);
    asked.end();
  });
}
