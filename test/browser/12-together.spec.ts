import type { Browser, Page } from '@playwright/test';
import { demoAccount, demoColleague } from '../../demo/scenario.ts';
import { expect, quiet, saved, test } from './studio.ts';

// Two people in the studio at once: what one of them changes is soon on the other's screen.

/** The studio of the other one. */
async function colleague(browser: Browser, baseURL: string | undefined): Promise<Page> {
  const context = await browser.newContext({ baseURL: baseURL ?? '' });
  const page = await context.newPage();
  const { password } = demoAccount;
  await page.request.post('/api/session', { data: { email: demoColleague.email, password } });
  return page;
}

test('an audience that a colleague makes, renames and deletes comes, changes and goes by itself', async ({
  studio: page,
  browser,
  baseURL,
}) => {
  const other = await colleague(browser, baseURL);
  await other.goto('/audiences');
  await expect(other.getByRole('heading', { name: 'Audiences' })).toBeVisible();
  const draft = {
    name: 'Made by Maya',
    description: '',
    condition: { kind: 'test', attribute: 'email', op: 'is-set', values: [] },
  };
  const made = await (await page.request.post('/api/audiences', { data: draft })).json();
  await expect(other.getByText('Made by Maya')).toBeVisible();
  await page.request.put(`/api/audiences/${made.id}`, {
    data: { ...draft, name: 'Renamed by Maya', revision: made.revision },
  });
  await expect(other.getByText('Renamed by Maya')).toBeVisible();
  await expect(other.getByText('Made by Maya')).toBeHidden();
  await page.request.delete(`/api/audiences/${made.id}`);
  await expect(other.getByText('Renamed by Maya')).toBeHidden();
  await other.context().close();
});

test('an edit brings what changed across the wire, and nothing that is as it was', async ({
  studio: page,
}) => {
  await page.goto('/pages/membership');
  await expect(page.getByRole('region', { name: 'Canvas' })).toContainText('Membership');
  await quiet(page);
  const answers: string[] = [];
  page.on('response', (response) => {
    const { pathname, search } = new URL(response.url());
    if (pathname.startsWith('/api/') && response.request().method() !== 'POST')
      answers.push(`${response.request().method()} ${response.status()} ${pathname}${search}`);
  });
  const name = page.getByLabel('Name of the page');
  const before = await name.inputValue();
  await name.fill(`${before} again`);
  await saved(page);
  await quiet(page);
  // The page itself is known from its storing, and its list entry is all that is read of the lists.
  expect(answers).toContain('PUT 200 /api/documents/membership');
  expect(answers).toContain('GET 200 /api/documents?ids=membership');
  expect(answers).not.toContain('GET 200 /api/documents/membership');
  expect(answers).not.toContain('GET 200 /api/documents');
  await page.getByRole('link', { name: 'All pages' }).click();
  await page.waitForURL('**/pages');
  await expect(page.getByText(`${before} again`).first()).toBeVisible();
  await page.goBack();
  await expect(name).toHaveValue(`${before} again`);
  await page.getByRole('region', { name: 'Canvas' }).getByRole('heading').first().click();
  // What opens beside the words asks for what it shows, before anything is written.
  await quiet(page);
  answers.length = 0;
  await page.keyboard.type('x');
  await saved(page);
  await quiet(page);
  // Words change nothing of where audiences are used, so nobody asks.
  expect(answers).toContain('PUT 200 /api/documents/membership');
  expect(answers.filter((answer) => answer.endsWith(' /api/audiences'))).toEqual([]);
  await page.keyboard.press('Backspace');
  await name.fill(before);
  await saved(page);
});

test('what is stored of a contact elsewhere is on the screen of that contact', async ({ studio: page }) => {
  const { contacts } = await (await page.request.get('/api/contacts?search=ruth.pellow')).json();
  const path = `/api/contacts/${contacts[0].id}`;
  await page.goto(`/people/${contacts[0].id}`);
  await expect(page.getByRole('heading', { name: 'Ruth Pellow' })).toBeVisible();
  const { values, updatedAt } = await (await page.request.get(path)).json();
  const put = async (city: string | null, at: string) => {
    const answer = await page.request.put(path, { data: { values: { city }, updatedAt: at } });
    expect(answer.status()).toBe(200);
    return answer.json();
  };
  const changed = await put('Much Wenlow', updatedAt);
  await expect(page.getByText('Much Wenlow').first()).toBeVisible();
  const again = await put('Little Wenlow', changed.updatedAt);
  await expect(page.getByText('Little Wenlow').first()).toBeVisible();
  await put(values.city ?? null, again.updatedAt);
});

test('all windows of a browser are told, also when the first of them is closed', async ({ studio: page }) => {
  const draft = (name: string) => ({
    name,
    description: '',
    condition: { kind: 'test', attribute: 'email', op: 'is-set', values: [] },
  });
  const windows = [page];
  // More than a browser opens connections to one site at a time.
  for (let n = 0; n < 7; n++) windows.push(await page.context().newPage());
  for (const window of windows) await window.goto('/audiences');
  for (const window of windows)
    await expect(window.getByRole('heading', { name: 'Audiences' })).toBeVisible();
  const ids: string[] = [];
  const make = async (name: string) => {
    ids.push((await (await page.request.post('/api/audiences', { data: draft(name) })).json()).id);
  };
  await make('For all windows');
  for (const window of windows) {
    await window.bringToFront();
    await expect(window.getByText('For all windows')).toBeVisible();
  }
  const [first, ...others] = windows;
  await first?.close();
  await make('For those that are left');
  for (const window of others) {
    await window.bringToFront();
    await expect(window.getByText('For those that are left')).toBeVisible();
  }
  const [last] = others;
  for (const id of ids) await last?.request.delete(`/api/audiences/${id}`);
});

test('changes arrive again after the stream of them was cut off', async ({ studio: page }) => {
  await page.goto('/audiences');
  await expect(page.getByRole('heading', { name: 'Audiences' })).toBeVisible();
  await page.context().setOffline(true);
  const draft = {
    name: 'Made meanwhile',
    description: '',
    condition: { kind: 'test', attribute: 'email', op: 'is-set', values: [] },
  };
  const made = await (await page.request.post('/api/audiences', { data: draft })).json();
  await page.context().setOffline(false);
  await expect(page.getByText('Made meanwhile')).toBeVisible({ timeout: 20_000 });
  await page.request.delete(`/api/audiences/${made.id}`);
  await expect(page.getByText('Made meanwhile')).toBeHidden();
});
