import { expect, test } from './studio.ts';

test('a condition is typed as an expression, broken and told where, and mended', async ({ studio: page }) => {
  await page.goto('/audiences/new');
  await page.getByLabel('Name of the audience').fill('Regular visitors');
  await page.getByRole('button', { name: 'Read or type it as an expression' }).click();
  const field = page.getByLabel('The condition as an expression');
  await expect(field).toHaveValue('true');
  await field.fill(
    '(order.tier[it.tier] >= order.tier["twilight"] || it.plan == "almanac-print") && it.visits >= 3 && !("staff" in it.roles)',
  );
  const sentence = page.getByRole('main');
  await expect(sentence).toContainText('membership tier');
  await expect(sentence.getByRole('button', { name: 'is at least Twilight' })).toBeVisible();
  await expect(sentence.getByRole('button', { name: 'is Almanac Print' })).toBeVisible();
  // Another kind of change between, so that the two texts are two steps to undo.
  await page.getByLabel('Name of the audience').fill('Regulars of the kiosk');
  // Everybody is in it until those of the condition are counted.
  await expect(page.getByTestId('count')).not.toHaveText('2,400');
  const counted = await page.getByTestId('count').textContent();
  await field.fill('it.visits >= 3 && it.hight > 2');
  await expect(page.getByText('there is no attribute “hight”')).toBeVisible();
  await expect(field).toHaveAttribute('aria-invalid', 'true');
  // What was typed is kept, and so is the audience as it was.
  await expect(page.getByTestId('count')).toHaveText(counted ?? '');
  await page.getByRole('button', { name: 'Show me' }).click();
  await expect(field).toBeFocused();
  await field.fill('it.visits >= 3 && audience["Midnight members"]');
  await expect(field).toHaveAttribute('aria-invalid', 'false');
  await expect(page.getByText('more are left out only because they have no value')).toBeVisible();
  await expect(page.getByText('An anonymous visitor is not in it')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(sentence.getByRole('button', { name: 'is at least Twilight' })).toBeVisible();
});

test('audiences are compared: what they are to each other, and the people of each combination', async ({
  studio: page,
}) => {
  // Earlier tests import some people.
  const nobodyAsked = await page.request.post('/api/audiences/counts', { data: { conditions: [] } });
  const { total } = await nobodyAsked.json();
  await page.goto('/audiences');
  await page.getByRole('link', { name: 'Compare' }).click();
  await page.getByLabel(/^Dusk members/).check();
  await page.getByLabel(/^Members of any tier/).check();
  await expect(page.getByRole('status').filter({ hasText: 'Everyone in' })).toHaveText(
    'Everyone in “Dusk members” is always in “Members of any tier” too.',
  );
  await page.getByLabel(/^Families nearby/).check();
  const table = page.getByRole('table', { name: 'Combinations by size' });
  const rows = table.getByRole('row');
  await expect(rows).toHaveCount(7);
  const numbers = await table.getByRole('link').locator('strong').allTextContents();
  expect(numbers.map((text) => Number(text.replace(',', ''))).reduce((sum, one) => sum + one, 0)).toBe(total);
  const [largest = ''] = numbers;
  // Each tick is a step of the browser's own history.
  await page.goBack();
  await expect(page.getByLabel(/^Families nearby/)).not.toBeChecked();
  await page.goForward();
  await expect(page.getByLabel(/^Families nearby/)).toBeChecked();
  await table.getByRole('link').first().click();
  await expect(page.getByRole('status').filter({ hasText: 'contacts' })).toContainText(
    `${largest} of ${total.toLocaleString('en')}`,
  );
});

test('a condition is built and regrouped by keyboard alone, and its expression follows', async ({
  studio: page,
}) => {
  await page.goto('/audiences/new');
  const main = page.getByRole('main');
  await page.getByLabel('Name of the audience').focus();
  await page.keyboard.type('Kiosk regulars');
  const add = async (words: string, attribute: string) => {
    await main.getByRole('button', { name: words, exact: true }).last().focus();
    await page.keyboard.press('Enter');
    await page.getByRole('combobox', { name: 'Which attribute?' }).waitFor();
    await page.keyboard.type(attribute);
    await page.keyboard.press('Enter');
    await page.keyboard.press('Escape');
  };
  await add('and…', 'membership tier');
  await add('and…', 'plan');
  await add('and…', 'visits this year');
  const handles = main.getByRole('button', { name: 'Move this part', exact: true });
  await expect(handles).toHaveCount(3);
  // The plan goes into a group with the tier: either of the two is enough.
  await handles.nth(1).focus();
  await page.keyboard.press('Alt+ArrowRight');
  const field = page.getByLabel('The condition as an expression');
  await page.getByRole('button', { name: 'Read or type it as an expression' }).focus();
  await page.keyboard.press('Enter');
  await expect(field).toHaveValue(
    /^\(\(.*it\.tier in .*\) \|\| \(.*it\.plan in .*\)\) && \(.*it\.visits >= 1\.0\)$/,
  );
  // And out again, and up.
  const plan = page.locator('[data-part="of.0.of.1"]');
  await plan.focus();
  await page.keyboard.press('Alt+ArrowLeft');
  await expect(field).toHaveValue(/it\.tier in .*it\.plan in .*it\.visits >= /);
  await expect(field).not.toHaveValue(/\|\|/);
  await expect(page.locator('[data-part="of.1"]')).toBeFocused();
  await page.keyboard.press('Alt+ArrowUp');
  await expect(field).toHaveValue(/it\.plan in .*it\.tier in .*it\.visits >= /);
  await page.getByRole('button', { name: 'Undo' }).focus();
  await page.keyboard.press('Enter');
  await expect(field).toHaveValue(/it\.tier in .*it\.plan in .*it\.visits >= /);
});

test('a part is dragged into a group', async ({ studio: page }) => {
  await page.goto('/audiences/regulars-near-renewal');
  const field = page.getByLabel('The condition as an expression');
  await page.getByRole('button', { name: 'Read or type it as an expression' }).click();
  const before = await field.inputValue();
  const handle = page.locator('[data-part="of.1"]');
  const target = page.getByRole('main').getByRole('button', { name: 'or…' });
  const [from, to] = [await handle.boundingBox(), await target.boundingBox()];
  if (!from || !to) throw new Error('not on screen');
  await page.mouse.move(from.x + 5, from.y + 5);
  await page.mouse.down();
  await page.mouse.move(to.x + 20, to.y - 20, { steps: 8 });
  await page.mouse.move(to.x + 20, to.y + 1, { steps: 4 });
  await page.mouse.up();
  await expect(field).not.toHaveValue(before);
  await expect(field).toHaveValue(/\(.*it\.visits.*\|\|.*it\.lists.*\|\|.*it\.tier.*\)$/);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(field).toHaveValue(before);
});

test('an example that must hold is held to every change', async ({ studio: page }) => {
  await page.goto('/audiences/midnight-members');
  const examples = page.getByRole('region', { name: 'Examples' });
  await examples.getByRole('button', { name: 'must be out' }).click();
  await expect(examples).toContainText('An anonymous visitor is out, as it must be');
  await page.getByRole('button', { name: 'Read or type it as an expression' }).click();
  await page.getByLabel('The condition as an expression').fill('!has(it.tier)');
  await expect(examples).toContainText('An anonymous visitor must be out, but is in');
});

test('the whole of it by keyboard: built, read as an expression, broken, mended, compared', async ({
  studio: page,
}) => {
  await page.goto('/audiences/new');
  const main = page.getByRole('main');
  const press = async (locator: ReturnType<typeof main.getByRole>, key = 'Enter') => {
    await locator.focus();
    await page.keyboard.press(key);
  };
  const pick = async (button: ReturnType<typeof main.getByRole>, attribute: string) => {
    await press(button);
    await page.getByRole('combobox', { name: 'Which attribute?' }).waitFor();
    await page.keyboard.type(attribute);
    await page.keyboard.press('Enter');
    await page.getByRole('dialog').getByRole('group', { name: 'Which test' }).waitFor();
  };
  const dialog = page.getByRole('dialog');
  const add = main.getByRole('button', { name: 'and…', exact: true });
  await page.getByLabel('Name of the audience').focus();
  await page.keyboard.type('Regulars by keyboard');
  await press(main.getByRole('button', { name: 'a group', exact: true }));
  const either = main.getByRole('button', { name: 'or…', exact: true });

  await pick(either, 'membership tier');
  await press(dialog.getByRole('button', { name: 'is at least', exact: true }));
  await press(dialog.getByRole('button', { name: /^Twilight/ }));
  await page.keyboard.press('Escape');
  await pick(either, 'plan');
  await press(dialog.getByRole('button', { name: /^Almanac Print/ }));
  const first = dialog.getByRole('button', { name: /^Almanac Digital/ });
  if ((await first.getAttribute('aria-pressed')) === 'true') await press(first);
  await page.keyboard.press('Escape');
  await pick(add, 'visits this year');
  await dialog.getByLabel('visits this year').focus();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('3');
  await page.keyboard.press('Escape');
  await pick(add, 'roles');
  await press(dialog.getByRole('button', { name: /^staff/ }));
  const member = dialog.getByRole('button', { name: /^member/ });
  if ((await member.getAttribute('aria-pressed')) === 'true') await press(member);
  await page.keyboard.press('Escape');
  await press(main.getByRole('button', { name: 'not', exact: true }).last());

  await press(page.getByRole('button', { name: 'Read or type it as an expression' }));
  const field = page.getByLabel('The condition as an expression');
  const written = await field.inputValue();
  expect(written).toBe(
    '((has(it.tier) && order.tier[it.tier] >= order.tier["twilight"]) || (has(it.plan) && it.plan in ["almanac-print"])) && (has(it.visits) && it.visits >= 3.0) && (!(has(it.roles) && "staff" in it.roles))',
  );
  // The server counts it as the database would.
  await expect(page.getByTestId('count')).not.toHaveText('2,400');
  await field.focus();
  await page.keyboard.press('End');
  await page.keyboard.type(' && it.visit > 2');
  await expect(page.getByText('there is no attribute “visit”')).toBeVisible();
  await press(page.getByRole('button', { name: 'Show me' }));
  await expect(field).toBeFocused();
  await page.keyboard.press('Control+a');
  await page.keyboard.type(written);
  await expect(field).toHaveAttribute('aria-invalid', 'false');
  await press(page.getByRole('button', { name: 'Save audience' }));
  await expect(page.getByText('“Regulars by keyboard” is saved')).toBeVisible();

  await page.goto('/audiences/compare');
  for (const name of [/^Regulars by keyboard/, /^Midnight members/, /^Renewal within 30 days/])
    await press(page.getByLabel(name), 'Space');
  await expect(page.getByRole('table', { name: 'Combinations by size' })).toBeVisible();
});

test('an expression keeps what is typed into it, however fast', async ({ studio: page }) => {
  const more = ' && it.visits > 2.0  && it.visits < 9.0 ';
  await page.goto('/audiences/midnight-members');
  await page.getByRole('button', { name: 'Read or type it as an expression' }).click();
  const field = page.getByLabel('The condition as an expression');
  const before = await field.inputValue();
  for (const delay of [0, 1, 3, 6, 10, 20]) {
    await field.fill(before);
    await expect(page.getByRole('main').getByText('9', { exact: true })).toHaveCount(0);
    await page.keyboard.press('End');
    await page.keyboard.type(more, { delay });
    await expect(field).toHaveAttribute('aria-invalid', 'false');
    await expect(field).toHaveValue(before + more);
    // The sentence follows, and the text stays as it was typed.
    await expect(page.getByRole('main').getByText('9', { exact: true }).first()).toBeVisible();
    await expect(field).toHaveValue(before + more);
  }
});
