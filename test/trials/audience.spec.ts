import type { APIRequestContext, Page } from '@playwright/test';
import { z } from 'zod';
import { listedAudienceSchema } from '../../contract/audiences.ts';
import { attributesSchema } from '../../contract/people.ts';
import { settingsSchema } from '../../contract/releases.ts';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { toCel } from '../../core/conditions/cel.ts';
import { fromCel } from '../../core/conditions/cel-read.ts';
import { expect, test } from '../browser/studio.ts';
import { RandomUser } from './random-user.ts';

// Somebody who presses and writes whatever the screen of an audience offers. No request is refused on the way, the count
// is that of the condition as it is written, what is saved is what is on screen, and undoing everything leads back.

const seeds = Number(process.env.SEEDS ?? 2);
const firstSeed = Number(process.env.FIRST_SEED ?? 1);
const actions = Number(process.env.ACTIONS ?? 120);

const zones = { panel: '#work' };
const weights = { panel: 85, keys: 15 };
/** Leaves the screen, or is about more than this audience. */
const avoid =
  /^(Delete|Archive|Bring back|Make another|Save|Compare|Duplicate|Hide the expression|Read or type)/;

for (let seed = firstSeed; seed < firstSeed + seeds; seed++)
  test(`whatever is done to an audience is counted, stored and undone: ${seed}`, async ({ studio: page }) => {
    test.setTimeout(600_000);
    const refused: string[] = [];
    page.on('response', async (response) => {
      if (response.status() >= 400)
        refused.push(
          `${response.status()} ${response.url()} ${response.request().postData()?.slice(0, 300)}`,
        );
    });
    const name = `Trial ${seed} ${Date.now().toString(36)}`;
    const made = await page.request.post('/api/audiences', { data: { name, condition: begun } });
    expect(made.status(), await made.text()).toBe(201);
    const { id } = await made.json();
    await page.goto(`/audiences/${id}`);
    await page.getByRole('button', { name: 'Read or type it as an expression' }).click();
    // An open list of options hides everything else from screen readers.
    const expression = page.getByRole('textbox', {
      name: 'The condition as an expression',
      includeHidden: true,
    });
    const start = await expression.inputValue();
    expect(start).not.toBe('');
    const user = new RandomUser(page, seed, zones, weights, avoid);
    const done: string[] = [];
    for (let step = 1; step <= actions; step++) {
      done.push(`${step} ${await user.act()}`);
      const told = `seed ${seed}, after\n${done.slice(-12).join('\n')}`;
      await expect(expression, told).toBeVisible();
      expect(await countDiffers(page), told).toBeUndefined();
      expect(refused, told).toEqual([]);
    }
    for (let escapes = 0; escapes < 3; escapes++) await page.keyboard.press('Escape');
    const last = await expression.inputValue();
    const isWhole = (await expression.getAttribute('aria-invalid')) === 'false' && last !== '';
    const undo = page.getByRole('button', { name: 'Undo (Ctrl Z)' });
    const redo = page.getByRole('button', { name: 'Redo (Ctrl Shift Z)' });
    while (await undo.isEnabled()) await undo.click();
    await expect(expression).toHaveValue(start);
    await expect(page.getByRole('button', { name: 'Saved' })).toBeVisible();
    while (await redo.isEnabled()) await redo.click();
    if (!isWhole) return;
    await expect(expression).toHaveValue(last);
    await page.keyboard.press('Control+s');
    // A draft that is not whole yet is refused in words, on screen.
    const saved = page.getByRole('button', { name: 'Saved' });
    const problem = page.locator('#work [role=alert]');
    await expect(saved.or(problem).first()).toBeVisible();
    if (!(await saved.isVisible())) return;
    const { catalogue, nameOf, audiences } = await known(page.request);
    const stored = audiences.find((one) => one.id === id);
    expect(stored && toCel(stored.condition, catalogue, nameOf)).toBe(last);
  });

const begun = {
  kind: 'all',
  of: [
    { kind: 'test', attribute: 'tier', op: 'at-least', values: ['dusk'] },
    {
      kind: 'any',
      of: [
        { kind: 'test', attribute: 'visits', op: 'at-least', values: [3] },
        { kind: 'not', of: { kind: 'test', attribute: 'city', op: 'has-value', values: [] } },
      ],
    },
    { kind: 'audience', audience: 'any-member' },
  ],
};

async function known(request: APIRequestContext) {
  const get = async <Output>(path: string, schema: z.ZodType<Output>): Promise<Output> =>
    schema.parse(await (await request.get(`/api/${path}`)).json());
  const audiences = await get('audiences', z.array(listedAudienceSchema));
  const { zone } = await get('settings', settingsSchema);
  const catalogue = new Catalogue(await get('attributes', attributesSchema), zone);
  const nameOf = (id: string) => audiences.find((one) => one.id === id)?.name ?? id;
  return { audiences, catalogue, nameOf };
}

/** How the count on screen differs from that of the condition as it is written; undefined where it does not. */
async function countDiffers(page: Page): Promise<string | undefined> {
  const { audiences, catalogue } = await known(page.request);
  const audienceOf = (key: string) => audiences.find((one) => one.name === key || one.id === key)?.id;
  let said = '';
  for (let tries = 0; tries < 40; tries++) {
    const shown = await page.evaluate(() => {
      const field = document.querySelector<HTMLTextAreaElement>(
        '[aria-label="The condition as an expression"]',
      );
      return {
        text: field?.value ?? '',
        isInvalid: field?.getAttribute('aria-invalid') === 'true',
        count: document.querySelector('[data-testid="count"]')?.textContent,
      };
    });
    // Being typed, or not whole yet: nobody can be counted, which the screen says.
    if (shown.isInvalid || shown.count === undefined || shown.text === '') return undefined;
    const read = fromCel(shown.text, { catalogue, audienceOf });
    if (!read.ok) {
      // The screen says so too, once it has read it.
      said = `“${shown.text}” can’t be read: ${read.message}`;
      await page.waitForTimeout(50);
      continue;
    }
    const answer = await page.request.post('/api/audiences/count', {
      data: { condition: read.condition, audience: null },
    });
    const { count } = await answer.json();
    if (Number(shown.count?.replaceAll(',', '')) === count) return undefined;
    said = `${shown.count} on screen, ${count} of “${shown.text}”`;
    await page.waitForTimeout(50);
  }
  return said;
}
