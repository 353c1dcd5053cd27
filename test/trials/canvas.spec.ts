import type { APIRequestContext, Page } from '@playwright/test';
import { storedDocumentSchema } from '../../contract/documents.ts';
import { expect, test } from '../browser/studio.ts';
import { type Kind, makeDocument } from './canvas-content.ts';
import { differenceOn, lookingNow } from './canvas-words.ts';
import { madeOf, whoIs } from './made.ts';
import { RandomUser } from './random-user.ts';

// Somebody who presses, drags and writes whatever the canvas offers, on every kind of block. After each step what is on
// the canvas is what the server makes of what is stored, for whoever is looked as; and undoing everything leads back to
// where it began. A seed stands for one sequence: SEEDS says how many there are, FIRST_SEED where they begin.

const seeds = Number(process.env.SEEDS ?? 3);
const firstSeed = Number(process.env.FIRST_SEED ?? 1);
const actions = Number(process.env.ACTIONS ?? 120);
const run = Date.now().toString(36);

const zones = {
  outline: 'nav[aria-label="Blocks"]',
  canvas: '[aria-label="Canvas"]',
  panel: '#selection',
  head: 'div:has(> [aria-label^="Name of the"]), div:has(> span > [aria-label^="Undo"])',
  viewer: '[aria-label="Looking as"]',
};
const weights = { outline: 14, canvas: 22, panel: 40, head: 5, viewer: 5, keys: 10, drag: 4 };
/** Sends mail, saves a file, or chooses a file. */
const avoid = /^(Send to…|This face as one HTML file|Choose a file|Upload)/;

/** What may be refused rightly: an address or a collection that another page has. */
const rightlyRefused = /another page|already|taken/;

for (let seed = firstSeed; seed < firstSeed + seeds; seed++) {
  const kind = seed % 3 === 0 ? 'email' : seed % 4 === 0 ? 'page of items' : 'page';
  test(`whatever is done to ${kind === 'email' ? 'an' : 'a'} ${kind} is shown, stored and undone: ${seed}`, async ({
    studio: page,
  }) => {
    test.setTimeout(600_000);
    const id = await makeDocument(page.request, kind, `Trial ${seed} ${run}${test.info().retry}`);
    await page.goto(`/${kind === 'email' ? 'emails' : 'pages'}/${id}`);
    await expect(page.getByRole('region', { name: 'Canvas' }).locator('[data-block]').first()).toBeVisible();
    const start = await stored(page.request, id);
    const user = new RandomUser(page, seed, zones, weights, avoid);
    const done: string[] = [];
    for (let step = 1; step <= actions; step++) {
      done.push(`${step} ${await user.act()}`);
      const difference = await differenceNow(page, id, kind);
      expect(
        difference,
        `seed ${seed}, after\n${done.slice(-Number(process.env.TOLD ?? 12)).join('\n')}`,
      ).toBeUndefined();
    }
    for (let escapes = 0; escapes < 3; escapes++) await page.keyboard.press('Escape');
    const undo = page.getByRole('button', { name: 'Undo (Ctrl Z)' });
    while (await undo.isEnabled()) await undo.click();
    await store(page);
    expect(await stored(page.request, id), `seed ${seed}, all undone`).toEqual(start);
    expect(await differenceNow(page, id, kind), `seed ${seed}, all undone`).toBeUndefined();
  });
}

/** What is stored, but for what changes with each save. */
async function stored(request: APIRequestContext, id: string) {
  const {
    revision: _revision,
    updatedAt: _updatedAt,
    ...rest
  } = storedDocumentSchema.parse(await (await request.get(`/api/documents/${id}`)).json());
  return rest;
}

/** Stores what is on screen; what the screen says of it. */
async function store(page: Page): Promise<string> {
  await page.keyboard.press('Control+s');
  const line = page.locator('[role=status]').filter({ hasText: /^(saved |not saved)/ });
  await line.first().waitFor({ timeout: 10_000 });
  return (await line.first().textContent()) ?? '';
}

/** How canvas and server differ; undefined where they don't. */
async function differenceNow(page: Page, id: string, kind: Kind): Promise<string | undefined> {
  const said = await store(page);
  if (said.startsWith('not saved')) {
    // Only the notice: the rest of the panel shows words of the page.
    const why = (await page.locator('#selection > div').first().textContent()) ?? '';
    if (!rightlyRefused.test(why)) return `${said}: ${why.slice(0, 300)}`;
    await page.getByRole('button', { name: 'Undo (Ctrl Z)' }).click();
    return differenceNow(page, id, kind);
  }
  const viewer = await page.evaluate(lookingNow);
  const difference = await page.evaluate(differenceOn, await madeOf(page.request, id, kind, viewer));
  // Somebody else may have come to be looked as meanwhile.
  const isSame = whoIs(viewer) === whoIs(await page.evaluate(lookingNow));
  return difference === undefined || isSame ? difference : differenceNow(page, id, kind);
}
