import type { Page } from '@playwright/test';
import { expect, test } from '../browser/studio.ts';
import { RandomUser } from './random-user.ts';

// Somebody who presses and writes whatever any place of the studio offers. Nothing is thrown, no answer is a fault of the
// server, no part of a screen breaks down, and the place can be opened again afterwards. SEEDS, FIRST_SEED and ACTIONS as
// on the canvas; this file comes last, as what is pressed is done.

const places = [
  '/people',
  '/people/12',
  '/people/import',
  '/people/attributes',
  '/people/facts',
  '/people/sync',
  '/audiences',
  '/audiences/compare',
  '/pages',
  '/shared',
  '/collections',
  '/collections/guides',
  '/media',
  '/site-settings',
  '/other-sites',
  '/lineup/home',
  '/releases',
  '/mailbox',
];
const seeds = Number(process.env.SEEDS ?? 1);
const firstSeed = Number(process.env.FIRST_SEED ?? 1);
const actions = Number(process.env.ACTIONS ?? 20);

const zones = { panel: 'main', head: 'header', viewer: '[aria-label="Looking as"]' };
const weights = { panel: 80, head: 5, viewer: 5, keys: 10 };
/** Ends the session, or asks the browser for a file. */
const avoid = /^(Sign out|Choose a file|Choose or drop|Upload|Replace everywhere|Import people from)/;

for (let seed = firstSeed; seed < firstSeed + seeds; seed++)
  for (const [at, place] of places.entries())
    test(`whatever is done at ${place} breaks nothing: ${seed}`, async ({ studio: page }) => {
      test.setTimeout(300_000);
      page.on('dialog', (dialog) => void dialog.accept());
      await page.goto(place);
      const user = new RandomUser(page, seed * 100 + at, zones, weights, avoid);
      const done: string[] = [];
      for (let step = 1; step <= actions; step++) {
        done.push(`${step} ${await user.act()}`);
        const said = `seed ${seed} at ${place}, after\n${done.slice(-12).join('\n')}`;
        expect(await brokenPart(page), said).toBeUndefined();
        // What leads elsewhere is looked at there, by the others.
        if (new URL(page.url()).pathname !== place) await page.goto(place);
      }
      await page.goto(place);
      await expect(page.getByRole('main').locator('h1, h2').first()).toBeVisible();
    });

/** What a part of the screen that broke down says; undefined where all is well. */
async function brokenPart(page: Page): Promise<string | undefined> {
  const broken = page.getByText('Something went wrong');
  return (await broken.count()) > 0 ? ((await broken.first().textContent()) ?? '') : undefined;
}
