import { setTimeout as delay } from 'node:timers/promises';
import AxeBuilder from '@axe-core/playwright';
import type { Page, Request } from '@playwright/test';
import { demoAccount } from '../../demo/scenario.ts';
import { choose, expect, lookAs, quiet, test } from './studio.ts';

const screens = [
  '/people',
  '/people/1',
  '/people/import',
  '/people/attributes',
  '/people/sync',
  '/people/attributes/joined',
  '/people/facts',
  '/audiences',
  '/audiences/regulars-near-renewal',
  '/audiences/new',
  '/pages',
  '/pages/home',
  '/pages/guide',
  '/preview/home',
  '/shared',
  '/collections',
  '/collections/guides',
  '/media',
  '/site-settings',
  '/other-sites',
  '/emails',
  '/emails/monthly-almanac',
  '/lineup/home',
  '/lineup/monthly-almanac',
  '/releases',
  '/mailbox',
  '/nowhere',
];

// WCAG 2.2 A and AA, contrast among them, by axe-core's rules.
for (const path of screens)
  test(`axe finds nothing serious on ${path}`, async ({ studio: page }) => {
    await page.emulateMedia({ colorScheme: 'light', reducedMotion: 'reduce' });
    await page.goto(path);
    await quiet(page);
    await expect(page.locator('main, #work').first()).toBeVisible();
    for (const colorScheme of ['light', 'dark'] as const) {
      await page.emulateMedia({ colorScheme });
      // Other colours are all that differs in the dark.
      const axe = new AxeBuilder({ page });
      const { violations } = await (colorScheme === 'dark'
        ? axe.withRules(['color-contrast'])
        : axe
      ).analyze();
      const serious = violations
        .filter(({ impact }) => impact === 'serious' || impact === 'critical')
        .map(({ id, nodes }) => [
          id,
          ...nodes.slice(0, 3).map((node) => `${node.target.join(' ')}: ${node.failureSummary}`),
        ]);
      expect([colorScheme, ...serious]).toEqual([colorScheme]);
    }
  });

const sitePages = [
  '/site/',
  '/site/membership',
  '/site/sky-guides',
  '/site/guides/double-cluster',
  '/site/shop',
  '/site/goods/red-lamp',
  '/site/welcome',
  '/site/survey',
  '/site/outcome',
  '/site/search?q=moon',
  '/site/sign-in',
  '/site/nowhere',
];
for (const width of [360, 1280])
  test(`axe finds nothing serious on the site at a width of ${width}, and nothing is wider`, async ({
    page,
  }) => {
    await page.setViewportSize({ width, height: 800 });
    for (const path of sitePages) {
      await page.goto(path);
      const { violations } = await new AxeBuilder({ page }).analyze();
      const serious = violations.filter(({ impact }) => impact === 'serious' || impact === 'critical');
      expect([path, ...serious.map(({ id }) => id)]).toEqual([path]);
      const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
      expect([path, wide <= 0]).toEqual([path, true]);
    }
  });

test('the sign-in page stands axe', async ({ page }) => {
  await page.goto('/people');
  await expect(page.getByRole('button', { name: 'Sign in to the demo' })).toBeVisible();
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.filter(({ impact }) => impact === 'serious' || impact === 'critical')).toEqual([]);
});

// 320 is a window of 1280 at a zoom of 400% (WCAG 2.2, 1.4.10).
test('nothing is wider than the window, from 320 to 1920', async ({ studio: page }) => {
  for (const path of [
    '/people',
    '/audiences/regulars-near-renewal',
    '/pages/home',
    '/pages/guide',
    '/preview/home',
    '/shared',
    '/collections',
    '/collections/guides',
    '/media',
    '/site-settings',
    '/other-sites',
    '/lineup/home',
    '/releases',
    '/people/attributes/tier',
    '/people/import',
    '/people/facts',
    '/people/sync',
    '/people/1',
    '/audiences',
    '/audiences/compare',
    '/emails/monthly-almanac',
    '/pages',
    '/mailbox',
    '/activity',
  ]) {
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.goto(path);
    await quiet(page);
    for (const width of [1280, 1024, 1920, 640, 320]) {
      await page.setViewportSize({ width, height: 800 });
      // Two frames later whatever follows the size has followed it.
      const over = await page.evaluate(async () => {
        for (let frame = 0; frame < 2; frame++) await new Promise(requestAnimationFrame);
        return document.documentElement.scrollWidth - window.innerWidth;
      });
      expect([path, width, over]).toEqual([path, width, 0]);
    }
  }
});

test('the live site fits a phone of 360', async ({ page }) => {
  await page.setViewportSize({ width: 360, height: 740 });
  for (const path of ['/site/', '/site/membership', '/site/sign-in']) {
    await page.goto(path);
    const over = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    expect([path, over]).toEqual([path, 0]);
  }
});

test('the main task by keyboard alone: look as somebody, choose a block, change its words', async ({
  studio: page,
}) => {
  await page.goto('/pages/membership');
  await expect(page.getByRole('region', { name: 'Canvas' })).toContainText('Membership');
  await page.keyboard.press('v');
  await page.keyboard.type('Ines Marlow');
  await expect(page.getByRole('option', { name: /Ines Marlow/ })).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Looking as' })).toContainText('Ines Marlow');
  const row = page.getByRole('navigation', { name: 'Blocks' }).getByRole('button', { name: 'Membership' });
  await row.focus();
  await page.keyboard.press('Enter');
  const editor = page.getByRole('textbox', { name: 'Text of this block' });
  await expect(editor).toBeFocused();
  await page.keyboard.type(' for all');
  await expect(
    page.getByRole('region', { name: 'Canvas' }).getByRole('heading', { name: 'Membership for all' }),
  ).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(editor).toHaveCount(0);
  await page.keyboard.press('ControlOrMeta+z');
  await expect(
    page.getByRole('region', { name: 'Canvas' }).getByRole('heading', { name: 'Membership', exact: true }),
  ).toBeVisible();
});

test('what is typed while a panel and its list are still on their way is searched for', async ({
  studio: page,
}) => {
  for (const part of ['popover-panel', 'people-found', 'commands-found'])
    await page.route(new RegExp(`/assets/${part}[^/]*\\.js$`), async (route) => {
      await delay(1500);
      await route.continue();
    });
  await page.goto('/people');
  await expect(page.getByRole('heading', { name: 'People' })).toBeVisible();
  await page.keyboard.press('v');
  await page.keyboard.type('Ines Marx');
  await page.keyboard.press('Backspace');
  await page.keyboard.type('low');
  await expect(page.getByRole('combobox', { name: 'Look as' })).toHaveValue('Ines Marlow');
  await expect(page.getByRole('option', { name: /Ines Marlow/ })).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Looking as' })).toContainText('Ines Marlow');
  // Opened again, the search begins with nothing.
  await page.keyboard.press('v');
  await expect(page.getByRole('combobox', { name: 'Look as' })).toHaveValue('');
  await page.reload();
  await page.getByRole('heading', { name: 'People' }).waitFor();
  await page.keyboard.press('ControlOrMeta+k');
  await page.keyboard.type('families');
  await expect(page.getByRole('option', { name: 'Families nearby' })).toBeVisible();
});

test('commands find people, places and things to do', async ({ studio: page }) => {
  await page.goto('/people');
  await expect(page.getByRole('heading', { name: 'People' })).toBeVisible();
  await page.keyboard.press('ControlOrMeta+k');
  await page.keyboard.type('zzqqzz');
  await expect(page.getByText('No matches.')).toBeVisible();
  await page.keyboard.press('ControlOrMeta+a');
  await page.keyboard.type('families');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/audiences\/families-nearby/);
});

test('the viewer bar follows on every screen', async ({ studio: page }) => {
  await page.goto('/audiences');
  await lookAs(page, 'Petra Kolm');
  await page.getByRole('link', { name: 'Lineup' }).click();
  await expect(page.getByRole('region', { name: 'Looking as' })).toContainText('Petra Kolm');
  await page.goto('/pages/home');
  await expect(page.getByRole('region', { name: 'Canvas' })).toContainText('Hello again, Petra');
  await choose(page.getByLabel('Signed in or recognised'), 'recognised');
  await expect(page.getByRole('region', { name: 'Canvas' })).toContainText('Sign in');
});

test('the lineup opens with the page or email that was open', async ({ studio: page }) => {
  for (const [place, name] of [
    ['/pages/membership', 'Membership (page)'],
    ['/emails/renewal-reminder', 'Renewal reminder (email)'],
  ] as const) {
    await page.goto(place);
    await page.getByRole('link', { name: 'Lineup' }).click();
    await expect(page).toHaveURL(new RegExp(`${place.replace(/.*\//, '/lineup/')}(\\?|$)`));
    await expect(page.getByLabel('Page or email')).toHaveText(name);
  }
});

// What crosses the wire, as it crosses it: a compressed size that a browser never gets is none.
test('faces in the lineup are as large as they were set last', async ({ studio: page }) => {
  await page.goto('/lineup/home');
  const size = page.getByLabel('Size of the faces');
  const first = page.getByRole('region', { name: 'Viewers side by side' }).getByRole('columnheader').first();
  const width = async () => (await first.boundingBox())?.width ?? 0;
  await expect(first).toBeVisible();
  const before = await width();
  await size.focus();
  await page.keyboard.press('End');
  await expect.poll(width).toBeGreaterThan(before + 100);
  const largest = await width();
  await page.reload();
  await expect.poll(width).toBe(largest);
  await size.focus();
  await page.keyboard.press('Home');
  await expect.poll(width).toBeLessThan(before);
});

test('commands make things from the keyboard, ? shows the shortcuts, and the tab says what is open', async ({
  studio: page,
}) => {
  const run = async (command: string) => {
    await page.keyboard.press('Control+k');
    await page.keyboard.type(command);
    await page.keyboard.press('Enter');
  };
  await page.goto('/people');
  await expect(page).toHaveTitle('People · Apple Porch');
  const attributes = page.getByRole('link', { name: 'Attributes' });
  await attributes.focus();
  await page.keyboard.press('?');
  const shortcuts = page.getByRole('dialog', { name: 'Keyboard shortcuts' });
  await expect(shortcuts.getByText('Look as someone else')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(shortcuts).toHaveCount(0);
  await expect(attributes).toBeFocused();
  // In a field it is a character like any other.
  const search = page.getByLabel('Search by name or email address');
  await search.focus();
  await page.keyboard.type('?');
  await expect(search).toHaveValue('?');
  await expect(shortcuts).toHaveCount(0);
  await search.fill('');

  await run('add contact');
  await expect(page.getByRole('dialog', { name: 'Add contact' }).getByLabel('Email')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page).toHaveURL(/\/people$/);
  await run('new email');
  await expect(page.getByRole('dialog', { name: 'New email' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await run('new page');
  await expect(page.getByRole('dialog', { name: 'New page' }).getByLabel('Name')).toBeFocused();
  const name = `By command ${Date.now().toString(36)}`;
  await page.keyboard.type(name);
  await page.keyboard.press('Enter');
  await expect(page).toHaveTitle(`${name} · Apple Porch`);
  await run('keyboard shortcuts');
  await expect(shortcuts).toBeVisible();
});

test('each screen loads script and style within its budget, compressed and kept for good', async ({
  browser,
}) => {
  const { email, password } = demoAccount;
  const loaded = async (path: string, isSignedIn: boolean, ready: (page: Page) => Promise<void>) => {
    const context = await browser.newContext();
    if (isSignedIn) await context.request.post('/api/session', { data: { email, password } });
    const page = await context.newPage();
    const reading: Promise<number>[] = [];
    page.on('requestfinished', (request) => {
      if (/\.(?:js|css)$/.test(new URL(request.url()).pathname)) reading.push(bytesOf(request));
    });
    await page.goto(path);
    await ready(page);
    // What is loaded for later is loaded, too.
    await delay(1500);
    const sizes = await Promise.all(reading);
    await context.close();
    expect(sizes.length).toBeGreaterThan(1);
    return sizes.reduce((sum, size) => sum + size, 0);
  };
  const screens = [
    [
      'sign-in',
      80_000,
      await loaded('/', false, (page) => expect(page.getByLabel('Password')).toBeVisible()),
    ],
    [
      'People',
      200_000,
      await loaded('/people', true, (page) =>
        expect(page.getByRole('link', { name: 'Attributes' })).toBeVisible(),
      ),
    ],
    [
      'canvas',
      450_000,
      await loaded('/pages/home', true, (page) =>
        expect(page.getByRole('region', { name: 'Canvas' })).toContainText('Come and look up'),
      ),
    ],
  ] as const;
  test.info().annotations.push({ type: 'bytes', description: JSON.stringify(screens) });
  for (const [screen, most, bytes] of screens)
    expect(bytes, `${screen}: ${bytes} of ${most} bytes`).toBeLessThanOrEqual(most);
});

async function bytesOf(request: Request): Promise<number> {
  const { pathname } = new URL(request.url());
  const { responseBodySize } = await request.sizes();
  const headers = (await (await request.response())?.allHeaders()) ?? {};
  if (pathname.startsWith('/assets/')) {
    expect([pathname, headers['cache-control']]).toEqual([pathname, 'public, max-age=31536000, immutable']);
    if (responseBodySize > 1024) expect([pathname, headers['content-encoding']]).toEqual([pathname, 'br']);
  }
  return responseBodySize;
}

test('audiences are there before they are counted, and say why', async ({ studio: page }) => {
  let isCounted = false;
  await page.route('**/api/audiences', async (route) => {
    const { 'if-none-match': _tag, ...headers } = route.request().headers();
    const answer = await route.fetch({ headers });
    const audiences: object[] = await answer.json();
    await route.fulfill({
      response: answer,
      json: isCounted ? audiences : audiences.map((one) => ({ ...one, count: null, liveCount: null })),
    });
  });
  await page.route('**/api/contacts/reading', (route) =>
    route.fulfill({ json: { reading: { read: 120_000, of: 1_000_000 } } }),
  );
  await page.goto('/audiences');
  const row = page.getByRole('row', { name: /Midnight members/ }).first();
  await expect(row).toContainText('…');
  await expect(page.getByRole('status').filter({ hasText: 'Counts are not ready yet' })).toContainText(
    '120,000 of 1,000,000 so far',
  );
  isCounted = true;
  await expect(row).toContainText(/\d/);
  await expect(page.getByText('Counts are not ready yet')).toHaveCount(0);
});
