import { fileURLToPath } from 'node:url';
import { simpleParser } from 'mailparser';
import { build, type Rolldown } from 'vite';
import { z } from 'zod';
import { listedAudienceSchema } from '../../contract/audiences.ts';
import { storedDocumentSchema } from '../../contract/documents.ts';
import { listedMessageSchema, sendReportSchema } from '../../contract/mail.ts';
import { attributesSchema, contactSchema } from '../../contract/people.ts';
import { settingsSchema } from '../../contract/releases.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { CompiledSnapshot } from '../../core/rendering/compiled.ts';
import { demoAccount } from '../../demo/scenario.ts';
import { expect, quiet, release, test } from './studio.ts';

const people = 200;

interface Rendered {
  choices: number[][];
  page: string;
  text: string;
}

/** The core as one script for a browser. */
async function coreScript(): Promise<string> {
  const entry = fileURLToPath(new URL('../../core/rendering/compiled.ts', import.meta.url));
  const built = await build({
    configFile: false,
    logLevel: 'silent',
    build: { write: false, minify: false, lib: { entry, formats: ['iife'], name: 'core' } },
  });
  const [output] = [built].flat() as Rolldown.RolldownOutput[];
  return output?.output[0].code ?? '';
}

/** Runs in Node and in the browser alike. */
function renderAll(
  Compiled: typeof CompiledSnapshot,
  given: {
    snapshot: Snapshot;
    base: string;
    viewers: { values: Record<string, unknown>; hasAccount: boolean }[];
    instant: number;
  },
): Rendered[] {
  const compiled = new Compiled(given.snapshot, given.base);
  return given.viewers.map(({ values, hasAccount }) => {
    const viewer = {
      contact: values,
      signedIn: hasAccount,
      visit: { 'visit-device': 'computer' },
      item: null,
      instant: given.instant,
    };
    const reader = { ...viewer, signedIn: false };
    const choose = (id: string, who: typeof viewer) => [
      ...compiled.decider.decide(id, compiled.decider.facts(who)),
    ];
    const answer = compiled.pages.at('', viewer);
    return {
      choices: [choose('home', viewer), choose('membership', viewer), choose('monthly-almanac', reader)],
      page: answer.kind === 'page' ? answer.html : '',
      text: compiled.emails.compose('monthly-almanac', reader, 'STOP').text,
    };
  });
}

test('the browser, the server and the email decide the same for 200 contacts', async ({
  browser,
  baseURL,
}) => {
  test.setTimeout(120_000);
  const context = await browser.newContext({ baseURL: baseURL ?? '', bypassCSP: true });
  const page = await context.newPage();
  const get = async <Output>(path: string, schema: z.ZodType<Output>): Promise<Output> =>
    schema.parse(await (await context.request.get(path)).json());
  await context.request.post('/api/session', {
    data: { email: demoAccount.email, password: demoAccount.password },
  });
  await page.goto('/releases');
  await quiet(page);
  if (await page.getByText('not live').first().isVisible()) await release(page, 'Before comparing');

  const snapshot: Snapshot = {
    settings: await get('/api/settings', settingsSchema),
    attributes: await get('/api/attributes', attributesSchema),
    audiences: await get('/api/audiences', z.array(listedAudienceSchema)),
    documents: await Promise.all(
      ['home', 'membership', 'monthly-almanac'].map((id) =>
        get(`/api/documents/${id}`, storedDocumentSchema),
      ),
    ),
  };
  const ids = Array.from({ length: people }, (_, index) => 1 + index * 12);
  const contacts = await Promise.all(ids.map((id) => get(`/api/contacts/${id}`, contactSchema)));
  const given = {
    snapshot,
    base: new URL(baseURL ?? '').origin,
    viewers: contacts.map(({ values, hasAccount }) => ({ values, hasAccount })),
    instant: Date.now(),
  };

  const inNode = renderAll(CompiledSnapshot, given);
  await page.addScriptTag({ content: await coreScript() });
  const inBrowser = await page.evaluate(
    ([run, data]) => {
      // biome-ignore lint/security/noGlobalEval: the test carries its own function over into the page
      const both: typeof renderAll = globalThis.eval(`(${run})`);
      const { core } = globalThis as unknown as { core: { CompiledSnapshot: typeof CompiledSnapshot } };
      return both(core.CompiledSnapshot, data);
    },
    [renderAll.toString(), given] as const,
  );
  expect(inBrowser).toEqual(inNode);
  // The comparison is worth something only when the 200 differ among themselves.
  expect(new Set(inNode.map(({ choices }) => choices.join('|'))).size).toBeGreaterThan(6);

  const begun = sendReportSchema.parse(
    await (
      await context.request.post('/api/sends', {
        data: { document: 'monthly-almanac', contacts: ids, audience: null },
      })
    ).json(),
  );
  let sent = begun;
  await expect
    .poll(async () => {
      sent = await get(`/api/sends/${begun.id}`, sendReportSchema);
      return sent.isFinished;
    })
    .toBe(true);
  expect(sent.sent + sent.refused.length).toBe(people);
  const stopped = new Set(sent.refused.map(({ email }) => email));
  const messages = (await get('/api/mailbox', z.array(listedMessageSchema))).slice(0, sent.sent);
  for (const [index, contact] of contacts.entries()) {
    if (stopped.has(contact.email)) continue;
    const message = messages.find(({ recipient }) => recipient === contact.email);
    const raw = await (await context.request.get(`/api/mailbox/${message?.id}/message.eml`)).body();
    const { text = '' } = await simpleParser(raw);
    const plain = text
      .replace(/http:\S+\/site\/unsubscribe\?token=\S+/, 'STOP')
      // Each reader's links say who comes.
      .replace(/\?k=[\w.-]+/g, '')
      .trim();
    expect(plain).toBe(inBrowser[index]?.text.trim());
  }
  await context.close();
});
