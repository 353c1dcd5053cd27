import { expect, lookAs, saved, test } from './studio.ts';

test('two tabs on one page: the older save is held back with both versions, and either can be kept', async ({
  studio: page,
  context,
}) => {
  const other = await context.newPage();
  await page.goto('/pages/membership');
  await other.goto('/pages/membership');
  const headingOf = (of: typeof page) =>
    of.getByRole('region', { name: 'Canvas' }).getByRole('heading', { level: 1 });
  await page.bringToFront();
  await headingOf(page).click();
  await page.keyboard.press('ControlOrMeta+a');
  await page.keyboard.type('Written here');
  await saved(page);
  await expect(headingOf(page)).toHaveText('Written here');
  await page.waitForTimeout(900);
  await other.bringToFront();
  await headingOf(other).click();
  await other.keyboard.press('ControlOrMeta+a');
  await other.keyboard.type('Written there');
  const dialog = other.getByRole('dialog', { name: 'Two versions of this document' });
  await expect(dialog).toContainText('Written here');
  await expect(dialog).toContainText('Written there');
  await dialog.getByRole('button', { name: 'Keep mine' }).click();
  await saved(other);
  await page.reload();
  await expect(headingOf(page)).toHaveText('Written there');
});

test('an unsafe button address is said at once and never saved', async ({ studio: page }) => {
  await page.goto('/pages/home');
  await lookAs(page, 'Anonymous');
  await page.getByRole('region', { name: 'Canvas' }).getByText('Plan a visit').click();
  const address = page.getByLabel('Link URL');
  await address.fill('javascript:alert(1)');
  await expect(page.getByText(/Use https:\/\//)).toBeVisible();
  await address.fill('/site/membership');
  await expect(page.getByText(/Use https:\/\//)).toHaveCount(0);
  const stored = await (await page.request.get('/api/documents/home')).text();
  expect(stored).not.toContain('javascript:');
});

test('script typed into a heading is shown as text, in the canvas and live', async ({ studio: page }) => {
  await page.goto('/pages/membership');
  const canvas = page.getByRole('region', { name: 'Canvas' });
  await canvas.getByRole('heading', { level: 1 }).click();
  await page.keyboard.press('ControlOrMeta+a');
  await page.keyboard.type('<img src=x onerror=alert(1)>');
  await page.keyboard.press('Escape');
  await expect(canvas.getByRole('heading', { level: 1 })).toHaveText('<img src=x onerror=alert(1)>');
  await saved(page);
});

test('an audience in use refuses to be deleted and lists where; a taken name is refused and kept on screen', async ({
  studio: page,
}) => {
  await page.goto('/audiences/dusk-members');
  await page.getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByRole('alert')).toContainText('in use by page “Home”');
  await page.goto('/audiences/new');
  await page.getByLabel('Name of the audience').fill('Midnight members');
  await page.getByRole('button', { name: 'Save audience' }).click();
  await expect(page.getByRole('alert')).toContainText(
    'There is an audience called “Midnight members” already',
  );
  await expect(page.getByLabel('Name of the audience')).toHaveValue('Midnight members');
});

test('a CSV of one’s own people is read, explained and imported', async ({ studio: page }) => {
  await page.goto('/people/import');
  const csv = [
    'email,First name,Boat',
    'kit@example.org,Kit,yes',
    'sal@example.org,Sal,no',
    'nobody,Bo,no',
    'kit@example.org,Kit,no',
  ].join('\n');
  await page
    .locator('input[type=file]')
    .setInputFiles({ name: 'sailors.csv', mimeType: 'text/csv', buffer: Buffer.from(csv) });
  await expect(page.getByText('“nobody” is not an email address')).toBeVisible();
  await expect(page.getByText('has the same address as row 2')).toBeVisible();
  await page.getByRole('button', { name: 'Import 2 people' }).click();
  await expect(page.getByRole('heading', { name: 'Imported' })).toBeVisible();
  await page.getByRole('link', { name: 'See these people' }).click();
  await expect(page.getByText('added or changed by “sailors.csv”')).toBeVisible();
  await expect(page.getByRole('status').filter({ hasText: /^2 of / })).toBeVisible();
  await page.getByLabel('Search by name or email address').fill('kit@example');
  await expect(page.getByRole('link', { name: 'Kit' })).toBeVisible();
});

test('an empty file is refused and nothing happens', async ({ studio: page }) => {
  await page.goto('/people/import');
  await page
    .locator('input[type=file]')
    .setInputFiles({ name: 'empty.csv', mimeType: 'text/csv', buffer: Buffer.from('') });
  await expect(page.getByRole('alert')).toContainText('The file is empty');
});

test('changes that are not saved are asked about before they are lost, and nobody is asked who has none', async ({
  studio: page,
}) => {
  const asks = page.getByRole('dialog', { name: 'You have unsaved changes' });
  for (const [place, label] of [
    ['/site-settings', 'Name'],
    ['/people/attributes/city', 'Description'],
    ['/people/sync', 'URL'],
    ['/audiences/dusk-members', 'Name of the audience'],
  ] as const) {
    await page.goto(place);
    const field = page.getByLabel(label, { exact: true });
    const before = await field.inputValue();
    await field.fill(`${before} changed`);
    await page.getByRole('link', { name: 'Releases', exact: true }).click();
    await asks.getByRole('button', { name: 'Stay' }).click();
    await expect(field, place).toHaveValue(`${before} changed`);
    await page.getByRole('link', { name: 'Releases', exact: true }).click();
    await asks.getByRole('button', { name: 'Leave without saving' }).click();
    await expect(page.getByRole('heading', { name: 'Releases', level: 1 }), place).toBeVisible();
    await page.goBack();
    await expect(field, place).toHaveValue(before);
    await page.getByRole('link', { name: 'Releases', exact: true }).click();
    await expect(page.getByRole('heading', { name: 'Releases', level: 1 }), place).toBeVisible();
  }
  // Within a screen: another item takes the place of the one that is edited.
  await page.goto('/collections/guides');
  await page.getByRole('button', { name: 'Reading a star chart', exact: true }).click();
  await page.getByLabel('Title', { exact: true }).fill('Reading a chart');
  await page.getByRole('button', { name: 'Finding the Double Cluster', exact: true }).click();
  await asks.getByRole('button', { name: 'Stay' }).click();
  await expect(page.getByLabel('Title', { exact: true })).toHaveValue('Reading a chart');
  await page.getByRole('button', { name: 'Finding the Double Cluster', exact: true }).click();
  await asks.getByRole('button', { name: 'Leave without saving' }).click();
  await expect(page.getByLabel('Title', { exact: true })).toHaveValue('Finding the Double Cluster');
});

test('a key is deleted only once that is confirmed, and a dialog gives the keyboard back', async ({
  studio: page,
}) => {
  await page.goto('/other-sites');
  const name = `Spare ${Date.now().toString(36)}`;
  await page.getByLabel('A key for').fill(name);
  await page.getByLabel('Sites whose pages may use it').fill('https://www.example.org');
  await page.getByRole('button', { name: 'Create key' }).click();
  const remove = page.getByRole('button', { name: `Delete the key ${name}` });
  await remove.click();
  const asks = page.getByRole('alertdialog', { name: `Delete the key “${name}”?` });
  await asks.getByRole('button', { name: 'Cancel' }).click();
  await expect(asks).toHaveCount(0);
  await expect(remove).toBeFocused();
  await page.keyboard.press('Enter');
  await asks.getByRole('button', { name: 'Delete key' }).click();
  await expect(remove).toHaveCount(0);
});
