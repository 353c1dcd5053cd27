import type { Browser, Page } from '@playwright/test';
import { demoAccount, demoColleague } from '../../demo/scenario.ts';
import { expect, test } from './studio.ts';

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
