import { readFile } from 'node:fs/promises';
import type { Locator, Page } from '@playwright/test';
import { choose, expect, lookAs, release, saved, test } from './studio.ts';

/** Names that no other run of these tests has given yet. */
const run = Date.now().toString(36);

const canvasOf = (page: Page): Locator => page.getByRole('region', { name: 'Canvas' });
const outlineOf = (page: Page): Locator => page.getByRole('navigation', { name: 'Blocks' });

/** A new page, or another document, opened in the editor. */
async function made(page: Page, kind: string, path: string, name: string): Promise<void> {
  await page.goto(path);
  await page.getByRole('button', { name: `New ${kind}` }).click();
  await page.getByLabel('Name', { exact: true }).fill(name);
  await page.getByRole('button', { name: `Create ${kind}` }).click();
  await expect(canvasOf(page)).toBeVisible();
}

/** Adds a block after the first of the page. */
async function add(page: Page, kind: string): Promise<void> {
  await outlineOf(page).getByRole('button').first().click();
  await page.getByRole('button', { name: 'Add a block' }).click();
  await page.getByRole('combobox', { name: 'Which block?' }).fill(kind);
  await page.getByRole('dialog').getByRole('option', { name: kind, exact: true }).click();
}

const picture = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);

test('every block is added, set and seen: on the canvas, and on the live site once released', async ({
  studio: page,
  browser,
  baseURL,
}) => {
  test.setTimeout(120_000);
  const name = `Everything ${run}${test.info().retry}`;
  const address = `/site/everything-${run}${test.info().retry}`;
  const piece = `A piece ${run}${test.info().retry}`;
  await made(page, 'piece', '/shared', piece);
  await saved(page);
  await made(page, 'page', '/pages', name);
  const canvas = canvasOf(page);

  await test.step('words, with a size and an author', async () => {
    await canvas.getByRole('heading', { name }).click();
    await choose(page.getByLabel('Size'), 'medium');
    await expect(canvas.getByRole('heading', { name, level: 2 })).toBeVisible();
    await choose(page.getByLabel('Size'), 'large, once a page');
    await add(page, 'Quotation');
    await page.getByLabel('Attribution').fill('Aunt Orla');
    await expect(canvas.getByText('Aunt Orla')).toBeVisible();
  });

  await test.step('a picture of one’s own, with its words', async () => {
    await add(page, 'Picture');
    const own = page.getByLabel('Or your own file');
    await own.setInputFiles({ name: 'page.txt', mimeType: 'text/plain', buffer: Buffer.from('words') });
    await expect(page.getByRole('alert')).toBeVisible();
    await own.setInputFiles({ name: 'dot.png', mimeType: 'image/png', buffer: picture });
    await page.getByLabel('Alt text').fill('A green dot');
    await expect(canvas.getByRole('img', { name: 'A green dot' })).toHaveAttribute('src', /\/files\//);
    await add(page, 'Video');
    await page
      .locator('#selection input[type=file]')
      .setInputFiles({ name: 'dot.png', mimeType: 'image/png', buffer: picture });
    await expect(page.getByText('This file is not a video.')).toBeVisible();
    await page.getByRole('button', { name: 'Delete this block' }).click();
  });

  await test.step('a button and a menu, whose addresses are held to be safe', async () => {
    await add(page, 'Button');
    const leadsTo = page.getByLabel('Link URL');
    await leadsTo.fill('javascript:alert(1)');
    await expect(page.getByText(/Not saved\.$/)).toBeVisible();
    await leadsTo.fill('/site/nowhere-at-all');
    await expect(page.getByText('A link leads nowhere')).toBeVisible();
    await leadsTo.fill('/site/membership');
    await expect(page.getByText('A link leads nowhere')).toBeHidden();
    await add(page, 'Links or menu');
    await choose(page.getByLabel('Look', { exact: true }), 'side by side, as a menu');
    await page.getByLabel('Name for screen readers').fill('Links');
    await expect(canvas.getByRole('navigation', { name: 'Links' })).toBeVisible();
  });

  await test.step('a section with a ground, and what keeps blocks apart', async () => {
    await add(page, 'Section');
    await page.getByLabel('Name in the outline').fill('The warm one');
    await choose(page.getByLabel('Background'), 'warm');
    await choose(page.getByLabel('Arrangement'), 'side by side, where there is room');
    await expect(outlineOf(page).getByRole('button', { name: 'The warm one' })).toBeVisible();
    await add(page, 'Space');
    await choose(page.getByLabel('Height'), 'large');
    await outlineOf(page).getByRole('button', { name: name }).first().click();
    await add(page, 'Divider');
    await expect(canvas.getByRole('separator')).toBeVisible();
  });

  await test.step('a countdown, an access notice, an account box, HTML from elsewhere', async () => {
    await add(page, 'Countdown');
    await page.getByLabel('Until').fill('2031-01-01T10:00');
    await page.getByLabel('Text before the countdown').fill('Until the comet');
    await expect(canvas.getByText('Until the comet')).toBeVisible();
    await expect(canvas.getByText(/\d+ days/)).toBeVisible();
    await add(page, 'Access notice');
    await page.getByLabel('Signed out').fill('Come in first');
    await page.getByLabel('Signed in without access').fill('Not with this card');
    await page.getByLabel('Link URL').fill('/site/membership');
    await expect(canvas.getByText('Come in first')).toBeVisible();
    await lookAs(page, 'Tobias Orrin');
    await expect(canvas.getByText('Not with this card')).toBeVisible();
    await lookAs(page, 'Anonymous');
    await add(page, 'Sign-in and account');
    await add(page, 'HTML');
    await page
      .getByRole('textbox', { name: 'HTML' })
      .fill('<p>Brought from <b>elsewhere</b></p><script>window.broken = 1</script>');
    await expect(canvas.getByText('Brought from elsewhere')).toBeVisible();
  });

  await test.step('shared content, chosen by its name', async () => {
    await add(page, 'Shared content');
    await choose(page.getByLabel('Which piece'), piece);
    await expect(canvas.getByRole('heading', { name: piece })).toBeVisible();
  });

  await test.step('a form that asks for some choices only', async () => {
    await add(page, 'Form');
    for (const attribute of ['first name', 'membership tier']) {
      await page.getByRole('button', { name: 'Add a field' }).click();
      await page.getByRole('dialog').getByRole('combobox').fill(attribute);
      await page.getByRole('dialog').getByRole('option', { name: attribute }).first().click();
    }
    await page.getByLabel('What is asked for first name').fill('Your first name');
    await page.getByLabel('Required').first().check();
    await page.getByText('all choices').click();
    await page.getByLabel('Midnight', { exact: true }).uncheck();
    await page.getByRole('button', { name: 'Move membership tier up' }).click();
    await page.getByLabel('Button text').fill('Tell us');
    await expect(canvas.getByRole('button', { name: 'Tell us' })).toBeVisible();
    await expect(canvas.getByLabel('Your first name')).toBeVisible();
  });

  await saved(page);
  await release(page, 'Everything there is');
  const context = await browser.newContext({ baseURL: baseURL ?? '' });
  const visitor = await context.newPage();
  await visitor.goto(address);
  for (const words of ['Aunt Orla', 'Until the comet', 'Come in first', 'Brought from elsewhere'])
    await expect(visitor.getByText(words).first()).toBeVisible();
  await expect(visitor.getByRole('img', { name: 'A green dot' })).toBeVisible();
  await expect(visitor.getByRole('navigation', { name: 'Links' })).toBeVisible();
  await expect(visitor.getByRole('heading', { name: piece })).toBeVisible();
  await expect(visitor.getByRole('button', { name: 'Tell us' })).toBeVisible();
  await expect(visitor.getByLabel('membership tier').getByRole('option', { name: 'Midnight' })).toHaveCount(
    0,
  );
  expect(await visitor.evaluate(() => 'broken' in window)).toBe(false);
  await context.close();
});

test('the audiences of all slots are set once; what deviates is found, and one more reaches every slot', async ({
  studio: page,
}) => {
  await made(page, 'page', '/pages', `Alike ${run}${test.info().retry}`);
  const differ = async (audience: RegExp) => {
    await page.getByRole('button', { name: 'Make this differ for…' }).click();
    await page.getByRole('dialog').getByRole('option', { name: audience }).click();
  };
  await add(page, 'Button');
  await differ(/^Midnight members/);
  await add(page, 'Quotation');
  await differ(/^Dusk members/);
  await saved(page);
  await page.goto(new URL(page.url()).pathname);
  const all = page.getByRole('region', { name: 'Audiences of all slots' });
  const set = async (audience: RegExp) => {
    await all.getByRole('button', { name: 'Add an audience…' }).click();
    await page.getByRole('dialog').getByRole('option', { name: audience }).click();
  };
  await set(/^Midnight members/);
  await expect(all.getByRole('status')).toHaveText('1 of 2 slots follows these.');
  const found = page.getByText(/has no variant for “Midnight members” and has one for “Dusk members”/);
  await expect(found).toBeVisible();
  await page
    .getByRole('button', {
      name: 'Use the audiences and the order that are set, and remove its variant for “Dusk members”',
    })
    .click();
  await expect(all.getByRole('status')).toContainText('All 2 slots follow these');
  await expect(page.getByText('Other audiences than set for all slots')).toHaveCount(0);

  // One more is in every slot from then on, after the first; the order is that of all.
  await set(/^Members of any tier/);
  await all.getByRole('button', { name: 'Move Members of any tier up' }).click();
  await expect(all.getByRole('status')).toContainText('All 2 slots follow these');
  await saved(page);
  const id = new URL(page.url()).pathname.split('/').at(-1) ?? '';
  const stored = async () =>
    (await (await page.request.get(`/api/documents/${id}`)).json()).content as {
      audiences?: string[];
      body: { kind: string; variants?: { audience: string }[] }[];
    };
  const orders = ({ body }: Awaited<ReturnType<typeof stored>>) =>
    body.flatMap(({ variants }) => (variants ? [variants.map(({ audience }) => audience)] : []));
  const both = ['any-member', 'midnight-members'];
  await expect.poll(async () => (await stored()).audiences).toEqual(both);
  await expect.poll(async () => orders(await stored())).toEqual([both, both]);
  await all.getByRole('button', { name: 'Remove Members of any tier from all slots' }).click();
  await expect.poll(async () => orders(await stored())).toEqual([['midnight-members'], ['midnight-members']]);
  await page.keyboard.press('ControlOrMeta+z');
  await expect.poll(async () => orders(await stored())).toEqual([both, both]);

  // What is made to differ from then on can be for all of them at once.
  await add(page, 'Divider');
  await page.getByRole('button', { name: 'Make this differ for…' }).click();
  await page.getByRole('button', { name: 'For the 2 audiences of all slots' }).click();
  await expect.poll(async () => orders(await stored())).toEqual([both, both, both]);
});

test('a collection is made: fields, a file tried and taken in, order, what entries say, and out again', async ({
  studio: page,
}) => {
  test.setTimeout(120_000);
  const name = `Talks ${run}${test.info().retry}`;
  await page.goto('/collections');
  await page.getByRole('button', { name: 'New collection' }).click();
  const dialog = page.getByRole('dialog', { name: 'New collection' });
  await dialog.getByLabel('Name').fill('Search');
  await dialog.getByRole('button', { name: 'Create collection' }).click();
  await expect(dialog.getByText(/is an address of the site itself/)).toBeVisible();
  await dialog.getByLabel('Name').fill(name);
  await dialog.getByRole('button', { name: 'Create collection' }).click();
  await expect(page.getByRole('heading', { name, level: 1 })).toBeVisible();

  const settings = page.getByRole('region', { name: 'Fields and access' });
  const field = async (label: string, holds: string) => {
    await settings.getByRole('button', { name: 'Add a field' }).click();
    await settings.getByLabel('Name of the field new field').fill(label);
    await choose(settings.getByLabel(`What ${label} holds`), holds);
  };
  await field('seats', 'a number');
  await field('hall', 'single choice');
  await settings.getByLabel('Choices of hall, one a line').fill('Dome\nTerrace');
  await settings.getByRole('button', { name: 'Save' }).click();
  await expect(settings.getByRole('button', { name: 'Saved' })).toBeVisible();

  // A file is tried first; what can't be is told by its line.
  const csv = 'title,seats,hall\nOn comets,40,Dome\nOn meteors,many,Terrace\nOn moons,12,Terrace\n';
  await page.getByRole('button', { name: 'Import' }).click();
  const importing = page.getByRole('dialog', { name: `Import into ${name}` });
  await importing
    .getByLabel('File')
    .setInputFiles({ name: 'talks.csv', mimeType: 'text/csv', buffer: Buffer.from(csv) });
  await expect(importing.getByText(/2 would be added/)).toBeVisible();
  await expect(importing.getByText(/^Line 3: /)).toBeVisible();
  await importing.getByRole('button', { name: 'Import' }).click();
  const items = page.getByRole('region', { name: 'Items' });
  await expect(items.getByRole('button', { name: 'On moons', exact: true })).toBeVisible();
  await items.getByRole('button', { name: 'Move On moons up' }).click();
  await items.getByRole('button', { name: 'On moons', exact: true }).click();
  const panel = page.locator('form').filter({ has: page.getByRole('heading', { name: 'The item' }) });
  await panel.getByRole('button', { name: 'Hide from…' }).click();
  await page
    .getByRole('dialog')
    .getByRole('option', { name: /^Members of any tier/ })
    .click();
  await panel.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(items.getByRole('row', { name: /On moons/ })).toContainText(
    'in lists for all but Members of any tier',
  );
  await expect(items.getByRole('row').nth(1)).toContainText('On moons');

  // A value that is none stays on screen with the reason, and is not stored.
  await items.getByRole('button', { name: 'On comets', exact: true }).click();
  await page.getByLabel('seats', { exact: true }).fill('some');
  await expect(page.getByRole('alert')).toBeVisible();
  await page.getByLabel('seats', { exact: true }).fill('45');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('“On comets” is saved')).toBeVisible();
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'CSV' }).click();
  const text = await readFile(await (await download).path(), 'utf8');
  expect(text).toMatch(/On comets.*45.*Dome/);

  // A list of them says something else to members, entry by entry.
  await made(page, 'page', '/pages', `All ${name}`);
  await add(page, 'List of items');
  await choose(page.getByLabel('Items of'), name);
  const besides = page.getByRole('region', { name: 'Extra words on entries' });
  await besides.getByLabel('Words for everyone else').fill('Seats:');
  await choose(besides.getByLabel('and then'), 'its seats');
  await choose(besides.getByLabel('Written'), 'as a whole number');
  await besides.getByRole('button', { name: 'Different words for…' }).click();
  await page
    .getByRole('dialog')
    .getByRole('option', { name: /^Members of any tier/ })
    .click();
  await besides.getByLabel('Words for A').fill('Come in by the side door');
  const canvas = canvasOf(page);
  await expect(canvas.getByText('Seats: 45')).toBeVisible();
  await lookAs(page, 'Ines Marlow');
  await expect(canvas.getByText(/Come in by the side door/).first()).toBeVisible();
  await expect(canvas.getByText('Seats: 45')).toHaveCount(0);
  await expect(canvas.getByText('On moons')).toHaveCount(0);
  await lookAs(page, 'Anonymous');
  await expect(canvas.getByText('On moons')).toBeVisible();
  await saved(page);

  // What is used is not deleted, and says where it is.
  await page.goto('/collections');
  await page.getByRole('link', { name }).click();
  await settings.getByRole('button', { name: 'Delete' }).click();
  const asks = page.getByRole('alertdialog', { name: `Delete “${name}”?` });
  await expect(asks).toContainText('Its 2 items go with it');
  await expect(asks.getByRole('button', { name: 'Cancel' })).toBeFocused();
  await asks.getByRole('button', { name: 'Delete collection' }).click();
  await expect(settings.getByText(new RegExp(`All ${name}`))).toBeVisible();
});

test('the site is set: its menu, its colours with their contrast, what stands where nothing is', async ({
  studio: page,
}) => {
  await page.goto('/site-settings');
  const before = await (await page.request.get('/api/settings')).json();
  await page.getByLabel('Name', { exact: true }).fill('Quillmere by night');
  await choose(page.getByLabel('Not-found page'), 'Membership');
  await page.getByRole('button', { name: 'Settings of Membership in the menu' }).click();
  await page.getByLabel('Label of Membership for everyone else').fill('Join us');
  await page.getByRole('button', { name: 'Another label for…' }).click();
  await page
    .getByRole('dialog')
    .getByRole('option', { name: /^Members of any tier/ })
    .click();
  await page.getByLabel('Label of Membership for A').fill('Your membership');
  const menu = page.getByRole('group', { name: 'Menu' });
  await menu.getByRole('button', { name: 'Add a link', exact: true }).click();
  await menu.getByLabel('Name', { exact: true }).fill('Tickets');
  await menu.getByLabel('Link URL').fill('https://tickets.example.org/');
  await menu.getByRole('button', { name: 'Hide from…' }).last().click();
  await page
    .getByRole('dialog')
    .getByRole('option', { name: /^Members of any tier/ })
    .click();
  await menu.getByRole('button', { name: 'Settings of Tickets in the menu' }).click();
  await menu.getByRole('button', { name: 'Add a group' }).click();
  await menu.getByLabel('Name', { exact: true }).fill('More of us');
  await menu.getByRole('button', { name: 'Add a link below' }).click();
  await menu.getByLabel('Name', { exact: true }).last().fill('Our orchard');
  await menu.getByRole('button', { name: 'Move More of us up' }).click();
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Saved' })).toBeVisible();
  await page.goto('/pages/home');
  await expect(canvasOf(page).getByRole('link', { name: 'Quillmere by night' })).toBeVisible();
  await expect(canvasOf(page).getByRole('link', { name: 'Join us' })).toBeVisible();
  await expect(canvasOf(page).getByRole('link', { name: 'Tickets' })).toBeVisible();
  await lookAs(page, 'Ines Marlow');
  await expect(canvasOf(page).getByRole('link', { name: 'Your membership' })).toBeVisible();
  await expect(canvasOf(page).getByRole('link', { name: 'Tickets' })).toHaveCount(0);
  await expect(canvasOf(page).getByText('More of us')).toBeVisible();
  await lookAs(page, 'Anonymous');
  const now = await (await page.request.get('/api/settings')).json();
  await page.request.put('/api/settings', { data: { before: now, settings: before } });
});

test('a page is made of HTML, and what was left out is told', async ({ studio: page }) => {
  await page.goto('/pages');
  await page.getByRole('button', { name: 'From HTML' }).click();
  const dialog = page.getByRole('dialog', { name: 'A page from HTML' });
  const name = `Brought in ${run}${test.info().retry}`;
  await dialog.getByLabel('Name of the page').fill(name);
  await dialog
    .getByLabel('Or its source')
    .fill(
      `<h1>${name}</h1><p>Some <b>bold</b> words<script>alert(1)</script><ul><li>one<li>two</ul><table><tr><td>a<td>b</table>`,
    );
  await dialog.getByRole('button', { name: 'Create page' }).click();
  await expect(dialog.getByText('Some of it was left out')).toBeVisible();
  await expect(dialog.getByText(/script/)).toBeVisible();
  await dialog.getByRole('button', { name: 'Open the page' }).click();
  const canvas = canvasOf(page);
  await expect(canvas.getByRole('heading', { name })).toBeVisible();
  await expect(canvas.getByRole('cell', { name: 'b' })).toBeVisible();
  await expect(canvas.getByRole('listitem').first()).toHaveText('one');
});
