import { test as base, expect, type Page } from '@playwright/test';
import { demoAccount } from '../../demo/scenario.ts';

/** A page signed in to the studio; errors in its console fail the test. */
export const test = base.extend<{ studio: Page }>({
  studio: async ({ page }, use) => {
    const errors: string[] = [];
    page.on('pageerror', (error) => errors.push(error.message));
    page.on('console', (message) => {
      // A refused request is what some tests are about; the browser reports it here too.
      if (message.type() === 'error' && !/Failed to load resource/.test(message.text()))
        errors.push(message.text());
    });
    await page.request.post('/api/session', {
      data: { email: demoAccount.email, password: demoAccount.password },
    });
    await use(page);
    expect(errors).toEqual([]);
  },
});

export { expect };

/** Looks as a person by the viewer bar. */
export async function lookAs(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: /^Someone else/ }).click();
  await page.getByRole('combobox', { name: 'Look as' }).fill(name);
  await page
    .getByRole('option', { name: new RegExp(name) })
    .first()
    .click();
}

/** Releases everything that changed. */
export async function release(page: Page, note: string): Promise<void> {
  await page.getByRole('button', { name: 'Release…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Release' });
  await dialog.getByLabel('What this release is for').fill(note);
  await dialog.getByRole('button', { name: 'Make it live' }).click();
  await expect(page.getByText(/Release \d+ is live/)).toBeVisible();
}

export async function saved(page: Page): Promise<void> {
  await expect(page.getByRole('status').filter({ hasText: /^saved / })).toBeVisible();
}
