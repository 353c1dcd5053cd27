import type { APIRequestContext } from '@playwright/test';
import { expect, saved, test } from './studio.ts';

type Condition = { kind: string; [field: string]: unknown };
const ask = (attribute: string, op: string, ...values: (string | number)[]): Condition => ({
  kind: 'test',
  attribute,
  op,
  values,
});
const heading = (id: string, text: string) => ({
  kind: 'heading',
  id,
  level: 2,
  content: [{ type: 'text', text }],
});
const slot = (id: string, audiences: string[], otherwise = [heading(`${id}-else`, 'For the rest')]) => ({
  kind: 'slot',
  id,
  name: id,
  variants: audiences.map((audience, index) => ({
    id: `${id}-${index}`,
    audience,
    content: [heading(`${id}-h${index}`, `For number ${index}`)],
  })),
  otherwise,
});

async function makePage(request: APIRequestContext): Promise<string> {
  const audience = async (name: string, condition: Condition): Promise<string> =>
    (await (await request.post('/api/audiences', { data: { name, condition } })).json()).id;
  const both = await audience('Dusk and Midnight at once', {
    kind: 'all',
    of: [ask('tier', 'is-one-of', 'dusk'), ask('tier', 'is-one-of', 'midnight')],
  });
  const over = await audience('The offer of last summer', {
    kind: 'all',
    of: [ask('tier', 'has-value'), ask('moment', 'between', '2025-06-01T00:00', '2025-09-01T00:00')],
  });
  const page = await (
    await request.post('/api/documents', { data: { kind: 'page', name: 'Trouble', slug: 'trouble' } })
  ).json();
  const greeting = {
    kind: 'heading',
    id: 'greeting',
    level: 1,
    content: [
      { type: 'text', text: 'Welcome back, ' },
      { type: 'mergeField', attrs: { attribute: 'first-name', fallback: '' } },
    ],
  };
  const body = [
    greeting,
    slot('Never', [both, 'dusk-members']),
    slot('Over', [over, 'dusk-members']),
    slot('Shadowed', ['any-member', 'dusk-members']),
    slot('Hole', ['dusk-members', 'midnight-members'], []),
    slot('One way', ['renewing', 'twilight-members']),
    slot('The other way', ['twilight-members', 'renewing']),
  ];
  const content = { subject: [], preview: [], body };
  await request.put(`/api/documents/${page.id}`, { data: { revision: 1, name: 'Trouble', content } });
  return page.id;
}

test('a page full of trouble shows each finding, and its repairs leave none', async ({ studio: page }) => {
  const id = await makePage(page.request);
  await page.goto(`/pages/${id}`);
  const findings = page.getByRole('region', { name: 'Findings' });
  for (const words of [
    '“membership tier is Dusk” and “membership tier is Midnight” exclude each other',
    '“The offer of last summer” ended on 1 September 2025',
    'everybody in “Dusk members” is in “Members of any tier” above it',
    'gets nothing. That is 1,445 of 2,400 contacts today.',
    'asks them the other way round',
    'Who has no first name gets a hole in the text',
  ])
    await expect(findings).toContainText(words);
  for (const repair of [
    'Say “friend” there',
    'Move B above A',
    'Show them what B shows',
    'Put them in the order of One way',
    'Remove variant A',
    'Remove variant A',
  ])
    await findings.getByRole('button', { name: repair }).first().click();
  await expect(findings).toHaveCount(0);
  await saved(page);
  // Everything that was repaired can be taken back.
  await page.keyboard.press('Control+z');
  await expect(findings).toContainText(/exclude each other|ended on/);
});

test('a face that takes another day or another way in is listed as possible, and looked at as that', async ({
  studio: page,
}) => {
  const { request } = page;
  const made = await (
    await request.post('/api/audiences', {
      data: {
        name: 'Sundays by a search',
        condition: {
          kind: 'all',
          of: [ask('moment-weekday', 'is-one-of', 'sunday'), ask('visit-came-by', 'is-one-of', 'search')],
        },
      },
    })
  ).json();
  const document = await (
    await request.post('/api/documents', { data: { kind: 'page', name: 'Sunday', slug: 'sunday' } })
  ).json();
  const content = { subject: [], preview: [], body: [slot('Sunday', [made.id])] };
  await request.put(`/api/documents/${document.id}`, { data: { revision: 1, name: 'Sunday', content } });
  await page.goto(`/lineup/${document.id}`);
  const board = page.getByRole('region', { name: 'Viewers side by side' });
  const possible = board.getByRole('columnheader').filter({ hasText: 'possible, nobody today' });
  await expect(possible).toContainText('Sundays by a search');
  await possible.getByRole('button').click();
  const bar = page.getByRole('region', { name: 'Looking as' });
  await expect(bar.getByRole('button', { name: 'search' })).toBeVisible();
  await expect(bar.getByRole('button', { name: /^Sun \d/ })).toBeVisible();
  await expect(possible.getByRole('button')).toHaveAttribute('aria-pressed', 'true');
  // The same visit can be put together by hand.
  await board.getByRole('columnheader').first().getByRole('button').click();
  await bar.getByRole('button', { name: 'Plain visit' }).click();
  await page.getByLabel('What to add').selectOption({ label: 'came by' });
  await page.getByLabel('came by', { exact: true }).selectOption('search');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(bar.getByRole('button', { name: 'search' })).toBeVisible();
});

test('a release says whom it changes what for before it is made', async ({ studio: page }) => {
  await page.goto('/audiences/midnight-members');
  await page.getByRole('button', { name: /^is Midnight/ }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'is at least' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Twilight/ })
    .click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await page.getByRole('button', { name: 'Release…' }).click();
  const impact = page.getByRole('region', { name: 'Whom it changes things for' });
  await expect(impact).toContainText('Home: 483 of 2,400 contacts see something else');
  await expect(impact).toContainText(/Welcome banner: Twilight members → Midnight members/);
  await page.getByRole('button', { name: 'Not now' }).click();
  // As it was, for the tests that follow.
  await page.getByRole('button', { name: /^is at least/ }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'is', exact: true }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Midnight/ })
    .click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Twilight/ })
    .click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByTestId('count')).toHaveText('235');
});
