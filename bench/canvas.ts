import { randomBytes } from 'node:crypto';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { type Browser, type CDPSession, chromium, type Page } from '@playwright/test';
import mysql from 'mysql2/promise';
import type { Node } from '../core/documents/document.ts';
import { words } from '../core/documents/text.ts';
import { demoAccount } from '../demo/scenario.ts';
import { loadDemoWhenEmpty } from '../server/demo/rows.ts';
import { DocumentRow } from '../server/documents/rows.ts';
import { inTransaction } from '../server/store/transaction.ts';
import { openDatabase } from '../server/tables.ts';
import { type Result, result } from './result.ts';
import { type Server, startServer } from './server-process.ts';
import { sized } from './size.ts';

const slots = sized(100, 3);
const plainBlocks = sized(700, 10);
const timedKeys = sized(300, 5);
const keys = sized(5000, 5);
const keysBefore = sized(500, 5);
const rounds = sized(100, 1);
const roundsBefore = sized(4, 1);
/** The browser tells of what takes longer than this from a key to the paint after it (Event Timing, W3C), in milliseconds. */
const shortestTold = 16;
const megabyte = 1_000_000;

/**
 * Writing on a page of a thousand blocks, a hundred of them slots: how long a key takes until it is painted, against the
 * browser's own editing of one paragraph among as many; and what stays in memory of keys, and of a long session.
 */
export async function canvasBench(): Promise<Result[]> {
  const name = `apple_porch_bench_${randomBytes(6).toString('hex')}`;
  const url = `${process.env.BENCH_DATABASE_SERVER}/${name}`;
  const sequelize = await openDatabase(url);
  await loadDemoWhenEmpty(Date.now());
  await addLongPage();
  await sequelize.close();
  const server = await startServer(url);
  const browser = await launch();
  // What the browser compiles of code that runs often is not what the studio keeps.
  const uncompiled = await launch('--js-flags=--no-opt --no-maglev --no-sparkplug');
  try {
    const own = await writing(browser, server);
    const theirs = await plainWriting(browser);
    const session = await longSession(uncompiled, server);
    const bound = (subject: string, most: number, unit: string, measured: number) =>
      result(
        'canvas',
        `${subject}: ${measured.toFixed(1)} ${unit}`,
        `the bound of ${most} ${unit}`,
        most / measured,
        1,
      );
    return [
      bound(`a key on a page of 1,000 blocks and ${slots} slots, 95th percentile`, 50, 'ms', own.late),
      result(
        'canvas',
        `a key on that page: ${own.late.toFixed(0)} ms`,
        `the browser’s own editing of a page as long: ${theirs.toFixed(0)} ms`,
        theirs / own.late,
        0.3,
      ),
      bound(`memory that stays of ${keys} keys`, 2, 'MB', Math.max(0.1, own.grown / megabyte)),
      result(
        'canvas',
        `memory after ${5 * rounds} places and ${2 * rounds} edits: ${(session.end / megabyte).toFixed(1)} MB`,
        `after the first ${5 * roundsBefore}: ${(session.start / megabyte).toFixed(1)} MB`,
        session.start / session.end,
        1 / 1.1,
      ),
    ];
  } finally {
    await browser.close();
    await uncompiled.close();
    server.process.kill('SIGTERM');
    const connection = await mysql.createConnection(process.env.BENCH_DATABASE_SERVER ?? '');
    await connection.query(`DROP DATABASE \`${name}\``);
    await connection.end();
  }
}

function launch(...flags: string[]): Promise<Browser> {
  return chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', ...flags] });
}

const paragraph = (id: string, text: string): Node => ({
  kind: 'text',
  id,
  content: [{ type: 'paragraph', content: words(text) }],
});

/** A page of which every tenth part is a slot with two variants. */
async function addLongPage(): Promise<void> {
  const audiences = ['midnight-members', 'regulars-near-renewal'];
  const some = 'What is to be seen in the sky this week, and when the dome is open. ';
  const body: Node[] = [];
  const plain: Node[] = [];
  for (let at = 0; at < Math.max(slots, plainBlocks); at++) {
    if (at < slots)
      body.push({
        kind: 'slot',
        id: `slot-${at}`,
        name: `Slot ${at}`,
        variants: audiences.map((audience) => ({
          id: `variant-${at}-${audience}`,
          audience,
          content: [paragraph(`words-${at}-${audience}`, some)],
        })),
        otherwise: [paragraph(`words-${at}-others`, some)],
      });
    if (at < plainBlocks) plain.push(paragraph(`plain-${at}`, `${at}. ${some}${some}`));
  }
  for (let at = 0; at < plain.length; at += 10)
    body.push({
      kind: 'section',
      id: `section-${at}`,
      name: `Section ${at}`,
      tone: 'plain',
      layout: 'stack',
      children: plain.slice(at, at + 10),
    });
  const content = { subject: [], preview: [], body };
  await inTransaction((transaction) =>
    DocumentRow.create({ id: 'long', kind: 'page', name: 'Long', slug: 'long', content }, { transaction }),
  );
}

async function signedIn(
  browser: Browser,
  { address }: Server,
): Promise<{ page: Page; devtools: CDPSession }> {
  const context = await browser.newContext({ baseURL: address, viewport: { width: 1280, height: 800 } });
  const { email, password } = demoAccount;
  await context.request.post('/api/session', { data: { email, password } });
  const page = await context.newPage();
  return { page, devtools: await context.newCDPSession(page) };
}

async function writing(browser: Browser, server: Server): Promise<{ late: number; grown: number }> {
  const { page, devtools } = await signedIn(browser, server);
  await page.goto('/pages/long');
  const canvas = page.getByRole('region', { name: 'Canvas' });
  await canvas.getByText(/^0\. What is to be seen/).click();
  await page.getByRole('textbox', { name: 'Text of this block' }).waitFor();
  await type(page, keysBefore);
  const late = await latePaint(page);
  const before = await memory(page, devtools);
  await type(page, keys);
  const grown = (await memory(page, devtools)) - before;
  await page.context().close();
  return { late, grown };
}

/** Types words as fast as they are taken. */
async function type(page: Page, count: number): Promise<void> {
  for (let key = 0; key < count; key++) await page.keyboard.press(key % 6 === 5 ? 'Space' : 'a');
}

/** How long the slowest twentieth of keys takes at least until it is painted, in milliseconds. */
async function latePaint(page: Page): Promise<number> {
  await page.evaluate((threshold) => {
    const told: number[] = [];
    Reflect.set(window, 'keysTold', told);
    new PerformanceObserver((list) => {
      for (const { name, duration } of list.getEntries()) if (name === 'keydown') told.push(duration);
    }).observe(Object.assign({ type: 'event' }, { durationThreshold: threshold }));
  }, shortestTold);
  for (let key = 0; key < timedKeys; key++) {
    await page.keyboard.press(key % 6 === 5 ? 'Space' : 'a');
    await page.waitForTimeout(60);
  }
  await page.waitForTimeout(500);
  const told: number[] = await page.evaluate(() => Reflect.get(window, 'keysTold'));
  const sorted = told.sort((left, right) => right - left);
  return sorted[Math.floor(timedKeys / 20)] ?? shortestTold;
}

/** What a page holds once everything that nobody needs is gone, in bytes. */
async function memory(page: Page, devtools: CDPSession): Promise<number> {
  await page.waitForTimeout(sized(3000, 100));
  await devtools.send('HeapProfiler.collectGarbage');
  await devtools.send('HeapProfiler.collectGarbage');
  return (await devtools.send('Runtime.getHeapUsage')).usedSize;
}

/** The same keys in one of as many paragraphs, which the browser edits by itself. */
async function plainWriting(browser: Browser): Promise<number> {
  const some = 'What is to be seen in the sky this week, and when the dome is open. ';
  const html = Array.from({ length: slots + plainBlocks }, (_, at) => `<p>${at}. ${some}${some}</p>`).join(
    '',
  );
  const server = createServer((_request, response) => {
    response
      .setHeader('content-type', 'text/html')
      .end(`<!doctype html><title>Plain</title><p contenteditable id="here">Here</p>${html}`);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  const page = await browser.newPage();
  await page.goto(`http://127.0.0.1:${port}`);
  await page.locator('#here').click();
  const late = await latePaint(page);
  await page.close();
  server.close();
  return late;
}

/** Goes from place to place and edits on the way; what is in memory soon after the beginning, and at the end. */
async function longSession(browser: Browser, server: Server): Promise<{ start: number; end: number }> {
  const { page, devtools } = await signedIn(browser, server);
  await page.goto('/pages');
  let start = 0;
  for (let round = 0; round < rounds; round++) {
    if (round === roundsBefore) start = await memory(page, devtools);
    await page.getByRole('link', { name: 'People', exact: true }).click();
    await page.getByRole('row').nth(5).waitFor();
    await page.getByRole('link', { name: 'Audiences', exact: true }).click();
    await page.getByRole('heading', { name: 'Audiences' }).waitFor();
    await page.getByRole('link', { name: 'Releases', exact: true }).click();
    await page.getByRole('heading', { name: 'Releases' }).waitFor();
    await page.getByRole('link', { name: 'Pages', exact: true }).click();
    await page.getByRole('link', { name: 'Membership', exact: true }).click();
    const named = page.getByLabel('Name of the page');
    await named.waitFor();
    for (const name of ['Membership again', 'Membership']) {
      await named.fill(name);
      await page
        .getByRole('status')
        .filter({ hasText: /^saved / })
        .waitFor();
    }
  }
  const end = await memory(page, devtools);
  await page.context().close();
  return { start: start || end, end };
}
