import type { APIRequestContext } from '@playwright/test';
import { choose, expect, release, saved, test } from './studio.ts';

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

/** A name that no earlier attempt at the same test took. */
const named = (name: string) => (test.info().retry ? `${name} ${test.info().retry}` : name);

async function makeAudience(request: APIRequestContext, name: string, condition: Condition): Promise<string> {
  const answer = await request.post('/api/audiences', { data: { name: named(name), condition } });
  expect(answer.status()).toBe(201);
  return (await answer.json()).id;
}

async function makePage(request: APIRequestContext, name: string, body: unknown[]): Promise<string> {
  const slug = named(name).toLowerCase().replace(' ', '-');
  const made = await request.post('/api/documents', { data: { kind: 'page', name: named(name), slug } });
  expect(made.status()).toBe(201);
  const { id, revision } = await made.json();
  const content = { subject: [], preview: [], body };
  const kept = await request.put(`/api/documents/${id}`, { data: { revision, name: named(name), content } });
  expect(kept.status()).toBe(200);
  return id;
}

/** How many contacts are of a tier, and how many there are: earlier tests import some. */
async function countTiers(request: APIRequestContext, ...tiers: string[]) {
  const conditions = [ask('tier', 'is-one-of', ...tiers)];
  const { counts, total } = await (
    await request.post('/api/audiences/counts', { data: { conditions } })
  ).json();
  return {
    people: counts[0].toLocaleString('en'),
    rest: (total - counts[0]).toLocaleString('en'),
    total: total.toLocaleString('en'),
  };
}

async function makeTrouble(request: APIRequestContext): Promise<string> {
  const both = await makeAudience(request, 'Dusk and Midnight at once', {
    kind: 'all',
    of: [ask('tier', 'is-one-of', 'dusk'), ask('tier', 'is-one-of', 'midnight')],
  });
  const over = await makeAudience(request, 'The offer of last summer', {
    kind: 'all',
    of: [ask('tier', 'has-value'), ask('moment', 'between', '2025-06-01T00:00', '2025-09-01T00:00')],
  });
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
  return makePage(request, 'Trouble', body);
}

test('a page full of trouble shows each finding, and its repairs leave none', async ({ studio: page }) => {
  const id = await makeTrouble(page.request);
  const members = await countTiers(page.request, 'dusk', 'midnight');
  await page.goto(`/pages/${id}`);
  const findings = page.getByRole('region', { name: 'Findings' });
  // The gravest are shown; the rest is one click away.
  await findings.getByRole('button', { name: /^Show \d+ more findings$/ }).click();
  for (const words of [
    '“membership tier is Dusk” and “membership tier is Midnight” exclude each other',
    `“${named('The offer of last summer')}” ended on 1 September 2025`,
    'everybody in “Dusk members” is in “Members of any tier” above it',
    'gets nothing (membership tier is Twilight, or has no value).',
    `That is ${members.rest} of ${members.total} contacts today.`,
    'in One way it is the other way round',
    'Whoever has no first name gets a hole in the text',
  ])
    await expect(findings).toContainText(words);
  for (const repair of [
    'Say “friend” there',
    'Move B above A',
    'Show them what B shows',
    'Use the order of One way',
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
  const sundays = await makeAudience(page.request, 'Sundays by a search', {
    kind: 'all',
    of: [ask('moment-weekday', 'is-one-of', 'sunday'), ask('visit-came-by', 'is-one-of', 'search')],
  });
  const id = await makePage(page.request, 'Sunday', [slot('Sunday', [sundays])]);
  await page.goto(`/lineup/${id}`);
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
  await bar.getByRole('button', { name: 'Direct visit' }).click();
  await choose(page.getByLabel('Detail to add'), 'came by');
  await choose(page.getByLabel('came by', { exact: true }), 'search');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(bar.getByRole('button', { name: 'search' })).toBeVisible();
});

test('a release says whom it changes what for before it is made', async ({ studio: page }) => {
  const tiered = await makeAudience(
    page.request,
    'Invited to the eclipse',
    ask('tier', 'is-one-of', 'midnight'),
  );
  await makePage(page.request, 'Eclipse', [slot('Invitation', [tiered, 'twilight-members'])]);
  await page.goto(`/audiences/${tiered}`);
  await release(page, 'The eclipse');
  const twilight = await countTiers(page.request, 'twilight');

  await page.getByRole('button', { name: /^is Midnight/ }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'is at least' }).click();
  await dialog.getByRole('button', { name: /^Twilight/ }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await page.getByRole('button', { name: 'Release…' }).click();
  const impact = page.getByRole('region', { name: 'Who is affected' });
  await expect(impact.getByRole('list').first()).toContainText(
    `${named('Eclipse')}: ${twilight.people} of ${twilight.total} contacts see something else`,
  );
  await expect(impact).toContainText(`Invitation: B Twilight members → A ${named('Invited to the eclipse')}`);
  await page.getByRole('button', { name: 'Cancel' }).click();
});

test('a page of hundreds of faces draws the columns in view, and each can be reached', async ({
  studio: page,
}) => {
  // Nothing ties these to each other: nine of them make 512 faces.
  const attributes = [
    'tier',
    'plan',
    'stage',
    'language',
    'city',
    'country',
    'telescope',
    'joined',
    'renewal',
  ];
  const body = [];
  for (const attribute of attributes)
    body.push(
      slot(`By ${attribute}`, [
        await makeAudience(page.request, `With ${attribute}`, ask(attribute, 'has-value')),
      ]),
    );
  const id = await makePage(page.request, 'Hundreds', body);
  await page.goto(`/lineup/${id}`);
  const board = page.getByRole('region', { name: 'Viewers side by side' });
  await expect(board.getByRole('columnheader').first()).toBeVisible();
  const table = board.getByRole('table');
  await expect
    .poll(async () => Number(await table.getAttribute('aria-colcount')), { timeout: 20_000 })
    .toBeGreaterThan(512);
  const all = Number(await table.getAttribute('aria-colcount'));
  expect(await board.getByRole('columnheader').count()).toBeLessThan(40);
  await expect(async () => {
    await board.evaluate((element) => element.scrollTo({ left: element.scrollWidth }));
    await expect(board.locator(`th[aria-colindex="${all}"]`)).toBeInViewport({ timeout: 500 });
  }).toPass();
  const last = board.locator(`th[aria-colindex="${all}"]`).getByRole('button');
  await last.click();
  await expect(last).toHaveAttribute('aria-pressed', 'true');
  expect(await board.getByRole('columnheader').count()).toBeLessThan(40);
  // And back: the first is where it was.
  await board.evaluate((element) => element.scrollTo({ left: 0 }));
  await expect(board.locator('th[aria-colindex="2"]')).toBeInViewport();
});
