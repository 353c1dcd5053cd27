import { expect, lookAs, saved, test } from './studio.ts';

test('a condition that can never be true is said at once, and repaired with one click', async ({
  studio: page,
}) => {
  await page.goto('/audiences/new');
  for (const tier of ['Dusk', 'Midnight']) {
    await page.getByRole('button', { name: 'and…' }).click();
    await page
      .getByRole('dialog')
      .getByRole('option', { name: /membership tier/ })
      .click();
    if (tier !== 'Dusk') {
      const values = page.getByRole('dialog').getByRole('group', { name: 'Values of membership tier' });
      // What was guessed gives way to what is picked; the next is picked besides.
      await values.getByRole('button', { name: tier }).click();
      await values.getByRole('button', { name: 'Twilight' }).click();
      await values.getByRole('button', { name: 'Twilight' }).click();
    }
    await page.keyboard.press('Escape');
  }
  await expect(page.getByTestId('count')).toHaveText('0');
  const findings = page.getByRole('region', { name: 'Findings' });
  await expect(findings).toContainText(
    '“membership tier is Dusk” and “membership tier is Midnight” exclude each other',
  );
  await findings.getByRole('button', { name: 'Make it “membership tier is Dusk or Midnight”' }).click();
  await expect(page.getByTestId('count')).toHaveText('955');
  await expect(findings).not.toContainText('exclude each other');
  await expect(findings).toContainText('Always part of “Members of any tier”.');
});

test('every face of a page is listed with somebody who gets it, and the bar steps through them', async ({
  studio: page,
}) => {
  await page.goto('/lineup/membership');
  await expect(page.getByRole('status').filter({ hasText: 'are all that anyone can get' })).toContainText(
    '3 faces',
  );
  const board = page.getByRole('region', { name: 'Viewers side by side' });
  await expect(board.getByRole('columnheader')).toHaveCount(3);
  await expect(board.getByRole('columnheader').first()).toContainText(/anonymous and 67\d contacts/);
  const bar = page.getByRole('region', { name: 'Looking as' });
  await lookAs(page, 'Anonymous');
  await expect(bar).toContainText('Face 1 of 3');
  await page.locator('body').press(']');
  await expect(bar).toContainText('Face 2 of 3');
  await page.locator('body').press('[');
  await page.locator('body').press('[');
  await expect(bar).toContainText('Face 3 of 3');
});

test('a variant that nobody can get is found on the canvas, and moving it mends it', async ({
  studio: page,
}) => {
  await page.goto('/pages/membership');
  await lookAs(page, 'Noor Vale');
  await page
    .getByRole('button', { name: /Way to join/ })
    .first()
    .click();
  const panel = page.getByRole('complementary', { name: 'What is selected' });
  await panel.getByRole('button', { name: 'A variant for…' }).click();
  await page
    .getByRole('dialog')
    .getByRole('option', { name: /Midnight members/ })
    .click();
  const findings = panel.getByRole('region', { name: 'Findings' });
  await expect(findings).toContainText(
    'everybody in “Midnight members” is in “Members of any tier” above it',
  );
  await findings.getByRole('button', { name: 'Move C above A' }).click();
  await expect(findings).toHaveCount(0);
  await expect(panel.getByRole('button', { name: /variant A Midnight members 235/ })).toBeVisible();
  await saved(page);
});
