import { randomBytes } from 'node:crypto';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { type Browser, chromium, type Page } from '@playwright/test';
import mysql from 'mysql2/promise';
import { demoAccount } from '../demo/scenario.ts';
import { loadDemoWhenEmpty } from '../server/demo/rows.ts';
import { openDatabase } from '../server/tables.ts';
import { median, type Result, result } from './result.ts';
import { startServer } from './server-process.ts';
import { sized } from './size.ts';

/** A slow fourth-generation network, and a processor four times slower than this one, as phones and old laptops have. */
const slowNetwork = {
  offline: false,
  latency: 150,
  downloadThroughput: (1.6 * 1024 * 1024) / 8,
  uploadThroughput: (0.75 * 1024 * 1024) / 8,
};
const slowerProcessor = 4;
const runs = sized(3, 1);

interface Screen {
  readonly name: string;
  readonly path: string;
  readonly isSignedIn: boolean;
  readonly ready: (page: Page) => Promise<unknown>;
  /** Longest time to the largest paint, in milliseconds. */
  readonly most: number;
}

const screens: Screen[] = [
  {
    name: 'sign-in',
    path: '/',
    isSignedIn: false,
    ready: (page) => page.getByLabel('Password').waitFor(),
    most: 2500,
  },
  {
    name: 'People',
    path: '/people',
    isSignedIn: true,
    ready: (page) => page.getByRole('row').nth(5).waitFor(),
    most: 3500,
  },
  {
    name: 'the canvas',
    path: '/pages/home',
    isSignedIn: true,
    ready: (page) =>
      page.getByRole('region', { name: 'Canvas' }).getByText('Come and look up').first().waitFor(),
    most: 5000,
  },
];

/**
 * When the largest thing of a screen is painted that somebody opens for the first time in a browser, on a slow network and
 * processor: against a bound, and against a page that is a heading and one script of as many bytes as
 * came over the wire for the screen.
 */
export async function paintBench(): Promise<Result[]> {
  const name = `apple_porch_bench_${randomBytes(6).toString('hex')}`;
  const url = `${process.env.BENCH_DATABASE_SERVER}/${name}`;
  const sequelize = await openDatabase(url);
  await loadDemoWhenEmpty(Date.now());
  await sequelize.close();
  const server = await startServer(url);
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
  const results: Result[] = [];
  try {
    for (const screen of screens) {
      const own: number[] = [];
      const peer: number[] = [];
      for (let run = 0; run < runs; run++) {
        const { paint, bytes } = await opened(browser, server.address, screen);
        own.push(paint);
        const plain = await plainPage(bytes);
        peer.push(
          (
            await opened(browser, plain.address, {
              ...screen,
              path: '/',
              isSignedIn: false,
              ready: (page) => page.getByRole('heading').waitFor(),
            })
          ).paint,
        );
        await plain.stop();
      }
      const [mine, theirs] = [median(own), median(peer)];
      results.push(
        result(
          'paint',
          `${screen.name} on a slow network and processor: ${mine.toFixed(0)} ms`,
          `the bound of ${screen.most} ms`,
          screen.most / mine,
          1,
        ),
        result(
          'paint',
          `${screen.name} on a slow network and processor`,
          'a heading and a script of the same bytes',
          theirs / mine,
          0.4,
        ),
      );
    }
  } finally {
    await browser.close();
    server.process.kill('SIGTERM');
    const connection = await mysql.createConnection(process.env.BENCH_DATABASE_SERVER ?? '');
    await connection.query(`DROP DATABASE \`${name}\``);
    await connection.end();
  }
  return results;
}

/** Opens a screen with nothing kept of it but who was there; when its largest paint was, and what came over the wire. */
async function opened(
  browser: Browser,
  address: string,
  { path, isSignedIn, ready }: Screen,
): Promise<{ paint: number; bytes: number }> {
  const context = await browser.newContext({ baseURL: address, viewport: { width: 1280, height: 800 } });
  if (isSignedIn) {
    const { email, password } = demoAccount;
    await context.request.post('/api/session', { data: { email, password } });
  }
  const page = await context.newPage();
  const devtools = await context.newCDPSession(page);
  await devtools.send('Network.enable');
  await devtools.send('Network.emulateNetworkConditions', slowNetwork);
  await devtools.send('Emulation.setCPUThrottlingRate', { rate: slowerProcessor });
  let bytes = 0;
  devtools.on('Network.loadingFinished', ({ encodedDataLength }) => {
    bytes += encodedDataLength;
  });
  await page.goto(path, { waitUntil: 'commit' });
  await ready(page);
  await page.waitForTimeout(300);
  const paint = await page.evaluate(
    () =>
      new Promise<number>((resolve) => {
        new PerformanceObserver((list) => resolve(list.getEntries().at(-1)?.startTime ?? Number.NaN)).observe(
          {
            type: 'largest-contentful-paint',
            buffered: true,
          },
        );
      }),
  );
  await context.close();
  return { paint, bytes };
}

/** A server of one page, which shows its heading once its script is there. */
async function plainPage(bytes: number): Promise<{ address: string; stop: () => Promise<void> }> {
  const script = `/*${randomBytes(Math.ceil(bytes / 2))
    .toString('hex')
    .slice(0, bytes)}*/`;
  const server = createServer((request, response) => {
    if (request.url === '/script.js') response.setHeader('content-type', 'text/javascript').end(script);
    else
      response
        .setHeader('content-type', 'text/html')
        .end('<!doctype html><title>Plain</title><script src="/script.js"></script><h1>Here it is</h1>');
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  return {
    address: `http://127.0.0.1:${port}`,
    stop: () => new Promise((resolve) => server.close(() => resolve())),
  };
}
