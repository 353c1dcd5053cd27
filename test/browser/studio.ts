import { setTimeout as delay } from 'node:timers/promises';
import {
  type BrowserContext,
  test as base,
  expect,
  type Locator,
  type Page,
  type Request as PlaywrightRequest,
} from '@playwright/test';
import { demoAccount } from '../../demo/scenario.ts';

/** How many times slower the browser works: `SLOWER=4 npx playwright test` finds what only a slow machine would. */
const slower = Number(process.env.SLOWER ?? 1);

/**
 * Tests in which nothing goes wrong in any page of the browser, signed in or not: an error that nobody caught, one in the
 * console, or an answer of 500 and more fails the test. `mayFail` names what a test brings about on purpose.
 */
export const test = base.extend<{ studio: Page; mayFail: RegExp | undefined; nothingFails: undefined }>({
  mayFail: [undefined, { option: true }],
  nothingFails: [
    async ({ browser, context, mayFail }, use) => {
      const faults: string[] = [];
      const note = (fault: string) => {
        if (!mayFail?.test(fault)) faults.push(fault);
      };
      const watch = (of: BrowserContext) => {
        of.on('weberror', (error) => note(error.error().message));
        of.on('response', (response) => {
          if (response.status() >= 500) note(`${response.status()} ${response.url()}`);
        });
        of.on('console', (message) => {
          // A refused request is what some tests are about; the browser reports it here too.
          if (message.type() === 'error' && !/Failed to load resource/.test(message.text()))
            note(message.text());
        });
        return of;
      };
      watch(context);
      const { newContext } = browser;
      browser.newContext = async (...given) => watch(await newContext.apply(browser, given));
      await use(undefined);
      browser.newContext = newContext;
      expect(faults).toEqual([]);
    },
    { auto: true },
  ],
  page: async ({ page }, use) => {
    const asked = new Set<PlaywrightRequest>();
    underWay.set(page, asked);
    page.on('request', (request) => {
      // The stream of changes stays open.
      if (!/\/api\/changes/.test(request.url())) asked.add(request);
    });
    page.on('requestfinished', (request) => asked.delete(request));
    page.on('requestfailed', (request) => asked.delete(request));
    if (slower > 1)
      await (await page.context().newCDPSession(page)).send('Emulation.setCPUThrottlingRate', {
        rate: slower,
      });
    await use(page);
  },
  studio: async ({ page }, use) => {
    await page.request.post('/api/session', {
      data: { email: demoAccount.email, password: demoAccount.password },
    });
    await use(page);
  },
});

export { expect };

/** What each page has asked for and not got yet. */
const underWay = new WeakMap<Page, Set<PlaywrightRequest>>();

/** Waits until a page has everything that it asked for, and asks for nothing more for half a second. */
export async function quiet(page: Page): Promise<void> {
  await page.waitForLoadState('load');
  for (let calm = 0; calm < 5; calm++) {
    await delay(100);
    if ((underWay.get(page)?.size ?? 0) > 0) calm = -1;
  }
}

/** Chooses an option of a list that is opened from a field. */
export async function choose(field: Locator, option: string | RegExp): Promise<void> {
  await field.click();
  await field.page().getByRole('option', { name: option, exact: true }).click();
}

/** Looks as a person by the viewer bar. */
export async function lookAs(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: /^Someone else/ }).click();
  await page.getByRole('combobox', { name: 'Look as' }).fill(name);
  await page
    .getByRole('option', { name: new RegExp(name) })
    .first()
    .click();
}

/** Releases everything that changed. */
export async function release(page: Page, note: string): Promise<void> {
  await page.getByRole('button', { name: 'Release…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Release' });
  await dialog.getByLabel('Release note').fill(note);
  await dialog.getByRole('button', { name: 'Make it live' }).click();
  await expect(page.getByText(/Release \d+ is live/)).toBeVisible();
}

export async function saved(page: Page): Promise<void> {
  await expect(page.getByRole('status').filter({ hasText: /^saved / })).toBeVisible();
}
