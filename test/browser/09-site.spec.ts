import { readFile } from 'node:fs/promises';
import type { Browser, Page } from '@playwright/test';
import { demoSitePassword } from '../../demo/scenario.ts';
import { choose, expect, lookAs, release, saved, test } from './studio.ts';

const people = {
  nobody: null,
  tobias: 'tobias.orrin@example.org',
  ines: 'ines.marlow@example.org',
  noor: 'noor.vale@example.org',
} as const;

/** What somebody gets at some addresses, as bytes; signed in unless it is nobody. */
async function bytesFor(
  browser: Browser,
  baseURL: string | undefined,
  email: string | null,
  paths: readonly string[],
): Promise<string[]> {
  const context = await browser.newContext({ baseURL: baseURL ?? '' });
  if (email)
    await context.request.post('/site/sign-in', {
      form: { email, password: demoSitePassword },
      maxRedirects: 0,
    });
  const answers: string[] = [];
  for (const path of paths) answers.push(await (await context.request.get(path)).text());
  await context.close();
  return answers;
}

const add = async (page: Page, kind: string) => {
  await page.getByRole('button', { name: 'Add a block' }).click();
  await page.getByRole('combobox', { name: 'Which block?' }).fill(kind);
  await page.keyboard.press('Enter');
};
const write = async (page: Page, words: string) => {
  await page.getByRole('textbox', { name: 'Text of this block' }).focus();
  await page.keyboard.press('ControlOrMeta+a');
  await page.keyboard.type(words);
};
const differ = async (page: Page, how: string, audience: RegExp) => {
  await page.getByRole('button', { name: 'Make this differ for…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: how }).click();
  await dialog.getByRole('option', { name: audience }).click();
};

test('a membership page is composed from nothing, released, and checked as four visitors', async ({
  studio: page,
  browser,
  baseURL,
}) => {
  test.setTimeout(120_000);
  const name = `Join us ${test.info().retry}`;
  const slug = `join-us-${test.info().retry}`;
  await page.goto('/pages');
  await page.getByRole('button', { name: 'New page' }).click();
  await page.getByLabel('Name', { exact: true }).fill(name);
  await page.getByRole('button', { name: 'Create page' }).click();
  const canvas = page.getByRole('region', { name: 'Canvas' });
  const outline = page.getByRole('navigation', { name: 'Blocks' });
  await expect(canvas.getByRole('heading', { name })).toBeVisible();

  // The card by access: members nothing of it, the lowest tier another, who is signed out the way in.
  await add(page, 'Heading');
  await write(page, 'Sign up this week');
  await differ(page, 'Differs for…', /^Dusk members/);
  await lookAs(page, 'Tobias Orrin');
  await canvas.getByRole('heading', { name: 'Sign up this week' }).click();
  await write(page, 'Move up to Twilight this week');
  await page.getByRole('button', { name: 'A variant for…' }).click();
  await page
    .getByRole('dialog')
    .getByRole('option', { name: /^Members of any tier/ })
    .click();
  await lookAs(page, 'Ines Marlow');
  await canvas.getByRole('heading', { name: 'Move up to Twilight this week' }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Delete this block' }).click();

  // The list of what both tiers get.
  await add(page, 'List of items');
  await choose(page.getByLabel('Items of'), 'Sky guides');
  await differ(page, 'Show only to…', /^Members of any tier/);
  // What only the highest gets, hidden from everybody else.
  await add(page, 'Quotation');
  await write(page, 'The key hangs behind the clock');
  await differ(page, 'Show only to…', /^Midnight members/);
  await saved(page);

  const shown = async (person: string) => {
    await lookAs(page, person);
    return {
      signUp: await canvas.getByRole('heading', { name: 'Sign up this week' }).count(),
      upgrade: await canvas.getByRole('heading', { name: 'Move up to Twilight this week' }).count(),
      list: await canvas.getByRole('link', { name: 'Frost, dew and your lens' }).count(),
      premium: await canvas.getByText('The key hangs behind the clock').count(),
    };
  };
  const wanted = {
    nobody: { signUp: 1, upgrade: 0, list: 0, premium: 0 },
    tobias: { signUp: 0, upgrade: 1, list: 1, premium: 0 },
    ines: { signUp: 0, upgrade: 0, list: 1, premium: 0 },
    noor: { signUp: 0, upgrade: 0, list: 1, premium: 1 },
  };
  expect(await shown('Anonymous')).toEqual(wanted.nobody);
  expect(await shown('Tobias Orrin')).toEqual(wanted.tobias);
  expect(await shown('Ines Marlow')).toEqual(wanted.ines);
  expect(await shown('Noor Vale')).toEqual(wanted.noor);
  await expect(outline.getByRole('button', { name: /List of items/ }).first()).toBeVisible();

  await release(page, 'Come in');
  for (const [who, email] of Object.entries(people)) {
    const [bytes = ''] = await bytesFor(browser, baseURL, email, [`/site/${slug}`]);
    expect({
      who,
      signUp: Number(bytes.includes('Sign up this week')),
      upgrade: Number(bytes.includes('Move up to Twilight this week')),
      list: Number(bytes.includes('Frost, dew and your lens')),
      premium: Number(bytes.includes('The key hangs behind the clock')),
    }).toEqual({ who, ...wanted[who as keyof typeof wanted] });
  }
});

test('an item is closed to all but one tier, and gone for the others wherever it could turn up', async ({
  studio: page,
  browser,
  baseURL,
}) => {
  // A list of links leads to it, too.
  const stored = await (await page.request.get('/api/documents/welcome')).json();
  const link = {
    kind: 'link',
    id: 'to-chart',
    label: [{ type: 'text', text: 'The chart' }],
    address: '/site/guides/star-chart',
  };
  const links = { kind: 'links', id: 'charts', name: 'Charts', look: 'menu', children: [link] };
  const { body } = stored.content;
  await page.request.put('/api/documents/welcome', {
    data: {
      ...stored,
      content: {
        ...stored.content,
        body: [...body.filter(({ id }: { id: string }) => id !== 'charts'), links],
      },
    },
  });
  await page.goto('/collections');
  await page.getByRole('link', { name: 'Sky guides' }).click();
  await page.getByRole('button', { name: 'Reading a star chart', exact: true }).click();
  const panel = page.getByRole('complementary', { name: 'The item' });
  await choose(panel.getByLabel('Who can open it'), 'Midnight members');
  await panel.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('“Reading a star chart” is saved')).toBeVisible();
  await release(page, 'Charts for the dome');

  const paths = [
    '/site/sky-guides',
    '/site/welcome',
    '/site/search?q=bear',
    '/site/search?q=chart',
    '/site/guides/feed.xml',
    '/site/sitemap.xml',
    '/site/guides/star-chart',
    '/site/files/demo-star-chart',
  ];
  const traces = [
    'Reading a star chart',
    'Hold the chart over your head',
    'guides/star-chart',
    'East and west change places',
  ];
  for (const [who, email] of Object.entries(people)) {
    const answers = await bytesFor(browser, baseURL, email, paths);
    const found = paths.filter((_, at) => traces.some((trace) => answers[at]?.includes(trace)));
    const open = [
      '/site/sky-guides',
      '/site/welcome',
      '/site/search?q=chart',
      '/site/guides/feed.xml',
      '/site/sitemap.xml',
      '/site/guides/star-chart',
    ];
    expect({ who, found }).toEqual({ who, found: who === 'noor' ? open : [] });
    expect(answers.at(-1)?.includes('<svg')).toBe(who === 'noor');
  }
  // And back, as it was.
  await page.getByRole('button', { name: 'Reading a star chart', exact: true }).click();
  await choose(panel.getByLabel('Who can open it'), 'everybody');
  await panel.getByRole('button', { name: 'Save' }).click();
  await release(page, 'Charts for everybody');
});

test('the canvas leaves out items whose page is closed to whoever is looked as', async ({ studio: page }) => {
  const all = await (await page.request.get('/api/documents')).json();
  const { id } = all.find(({ collection }: { collection?: string | null }) => collection === 'guides');
  const close = async (access: object | null) => {
    const stored = await (await page.request.get(`/api/documents/${id}`)).json();
    const answer = await page.request.put(`/api/documents/${id}`, { data: { ...stored, access } });
    expect(answer.status()).toBe(200);
  };
  await close({ audience: 'midnight-members', otherwise: 'not-found' });
  await page.goto('/pages/sky-guides');
  const guide = page.getByRole('region', { name: 'Canvas' }).getByText('Reading a star chart');
  await lookAs(page, 'Noor Vale');
  await expect(guide).toBeVisible();
  await lookAs(page, 'Ines Marlow');
  await expect(guide).toHaveCount(0);
  await close(null);
  await page.reload();
  await expect(guide).toBeVisible();
});

test('another site shows the right variants, its own words with the server away, and passes its check only with the script', async ({
  studio: page,
  context,
}) => {
  const { foreignSite } = await (await page.request.get('/api/embedding')).json();
  // How long the script waits by itself is for the end of this test: a busy machine may need longer to answer.
  const patient = await context.newPage();
  await patient.addInitScript(() =>
    new MutationObserver(() =>
      document.querySelector('script[data-key]')?.setAttribute('data-wait', '10000'),
    ).observe(document, { childList: true, subtree: true }),
  );
  const errors: string[] = [];
  patient.on('console', (message) => message.type() === 'error' && errors.push(message.text()));
  const filled = patient.locator('[data-porch-slot]').first();
  await patient.goto(foreignSite);
  await expect(filled).toContainText('Come and look up');
  await patient.getByRole('link', { name: 'Noor' }).click();
  await expect(filled).toContainText('The dome is yours tonight, Noor');
  await patient.getByRole('link', { name: 'Tobias' }).click();
  await expect(filled).toContainText('Hello again, Tobias');
  // A strict policy is kept to: nothing was blocked.
  expect(errors).toEqual([]);
  await patient.close();

  const shop = await context.newPage();
  const places = shop.locator('[data-porch-slot]');
  // A frame grows to what is in it.
  await shop.goto(`${foreignSite}/frame`);
  const frame = shop.locator('iframe');
  await expect.poll(async () => (await frame.boundingBox())?.height ?? 0).not.toBe(122);
  await expect
    .poll(() =>
      shop
        .frameLocator('iframe')
        .locator('html')
        .evaluate((html) => html.scrollHeight - html.clientHeight),
    )
    .toBe(0);

  // With no answer in time its own words stay, and are to be seen.
  for (const away of ['refused', 'slow'] as const) {
    await shop.route('**/v1/decide', async (route) => {
      if (away === 'refused') return route.abort('connectionrefused');
      await new Promise((resolve) => setTimeout(resolve, 1500));
      await route.continue().catch(() => undefined);
    });
    await shop.goto(foreignSite);
    await expect(places.first()).toBeVisible();
    await expect(places.first()).toContainText('Lenses, mirrors and everything between');
    await shop.unroute('**/v1/decide');
  }
  await shop.close();

  await page.goto('/other-sites');
  const check = page.getByRole('region', { name: 'Is it installed?' });
  await check.getByRole('button', { name: 'Check it' }).click();
  await expect(check.getByText('Everything is in its place')).toBeVisible();
  await check.getByLabel('Address of a page').fill(`${foreignSite}/without-script`);
  await check.getByRole('button', { name: 'Check it' }).click();
  await expect(check.getByText('The script is missing.')).toBeVisible();
  await expect(check.getByText('Something is not right')).toBeVisible();
});

test('blocks are moved, chosen together, copied to another page, and words in a line differ', async ({
  studio: page,
}) => {
  await page.goto('/pages/shop');
  const outline = page.getByRole('navigation', { name: 'Blocks' });
  const rows = outline.getByRole('button');
  await expect(rows.first()).toContainText('Shop');
  await rows.first().focus();
  await page.keyboard.press('Alt+ArrowDown');
  await expect(rows.first()).toContainText('Member price');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(rows.first()).toContainText('Shop');

  // Two blocks are chosen and made to differ together, then taken back.
  await rows.nth(0).click();
  await page.keyboard.press('Escape');
  await rows.nth(1).click({ modifiers: ['Shift'] });
  await expect(page.getByRole('region', { name: '2 blocks' })).toBeVisible();
  await page.getByRole('button', { name: 'Make them differ for…' }).click();
  await page
    .getByRole('dialog')
    .getByRole('option', { name: /^Educators/ })
    .click();
  await expect(rows.first()).toContainText('Group');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(rows.first()).toContainText('Shop');

  // Copied here, pasted on another page.
  await outline.getByRole('button', { name: 'List of items' }).click();
  await page.keyboard.press('ControlOrMeta+c');
  await page.goto('/pages/welcome');
  await expect(page.getByRole('region', { name: 'Canvas' })).toBeVisible();
  await page.keyboard.press('ControlOrMeta+v');
  await expect(outline.getByRole('button', { name: 'List of items' }).first()).toBeVisible();
  await expect(
    page.getByRole('region', { name: 'Canvas' }).getByRole('link', { name: 'Red lamp' }),
  ).toBeVisible();
  await saved(page);
  await page.keyboard.press('ControlOrMeta+z');
  await expect(outline.getByRole('button', { name: 'List of items' })).toHaveCount(0);
  await saved(page);

  // A few words within a line.
  await page.goto('/pages/membership');
  const canvas = page.getByRole('region', { name: 'Canvas' });
  // Earlier tests wrote other words there.
  await canvas.getByRole('heading', { level: 1 }).click();
  await page.keyboard.press('ControlOrMeta+a');
  await page.keyboard.type('Membership for ');
  await page.getByRole('button', { name: 'Varying words' }).click();
  await choose(page.getByLabel('Audience of the words A'), 'Midnight members');
  await page.getByLabel('Words A', { exact: true }).fill('night owls');
  await page.getByLabel('Words for everyone else').fill('everybody');
  await saved(page);
  await lookAs(page, 'Noor Vale');
  await expect(canvas.getByRole('heading', { level: 1 })).toContainText('Membership for night owls');
  await lookAs(page, 'Anonymous');
  await expect(canvas.getByRole('heading', { level: 1 })).toContainText('Membership for everybody');
});

test('two people on one page see each other', async ({ studio: page, browser, baseURL }) => {
  const context = await browser.newContext({ baseURL: baseURL ?? '' });
  await context.request.post('/api/session', {
    data: { email: 'theo@example.org', password: 'look-up-tonight' },
  });
  const theirs = await context.newPage();
  await page.goto('/pages/outcome');
  await theirs.goto('/pages/outcome');
  await expect(page.getByText('Theo Lund is here too')).toBeVisible({ timeout: 15_000 });
  await expect(theirs.getByText('Maya Brook is here too')).toBeVisible({ timeout: 15_000 });
  await theirs.goto('/pages');
  await expect(page.getByText('Theo Lund is here too')).toBeHidden({ timeout: 30_000 });
  await context.close();
});

test('the window of an item is typed as the clocks show it where the site is', async ({
  browser,
  baseURL,
}) => {
  const context = await browser.newContext({ baseURL: baseURL ?? '', timezoneId: 'Asia/Kathmandu' });
  await context.request.post('/api/session', {
    data: { email: 'maya@example.org', password: 'look-up-tonight' },
  });
  const page = await context.newPage();
  await page.goto('/collections/guides');
  await page
    .getByRole('button', { name: /New item/ })
    .first()
    .click();
  await page.getByLabel('Title').fill('Seen from afar');
  await page.getByLabel('Published from').fill('2026-07-01T09:30');
  await page.getByLabel('Until', { exact: true }).fill('2026-12-01T09:30');
  await page.getByRole('button', { name: 'Add item' }).click();
  await expect(page.getByText('“Seen from afar” is saved')).toBeVisible();
  await expect(page.getByLabel('Published from')).toHaveValue('1 Jul 2026, 09:30');
  const items: { id: string; title: string; from: string; until: string }[] = await (
    await context.request.get('/api/collections/guides/items')
  ).json();
  const item = items.find(({ title }) => title === 'Seen from afar');
  // London is an hour ahead of UTC in July and level with it in December.
  expect([item?.from, item?.until]).toEqual(['2026-07-01T08:30:00.000Z', '2026-12-01T09:30:00.000Z']);
  await context.request.delete(`/api/items/${item?.id}`);
  await context.close();
});

test('an open part of the site’s menu closes with Escape, and with a press elsewhere', async ({ page }) => {
  const script = await readFile(new URL('../../server/site/assets/site.js', import.meta.url), 'utf8');
  await page.setContent(
    `<details class="site-menu-more"><summary>More</summary><a href="#inside">Inside</a></details><p>Elsewhere</p><script>${script}</script>`,
  );
  const inside = page.getByRole('link', { name: 'Inside' });
  await page.getByText('More').click();
  await expect(inside).toBeVisible();
  await inside.focus();
  await page.keyboard.press('Escape');
  await expect(inside).toBeHidden();
  await expect(page.locator('summary')).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(inside).toBeVisible();
  await page.getByText('Elsewhere').click();
  await expect(inside).toBeHidden();
});
