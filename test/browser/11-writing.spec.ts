import type { APIRequestContext, Page } from '@playwright/test';
import { expect, saved, test } from './studio.ts';

const run = Date.now().toString(36);
const canvasOf = (page: Page) => page.getByRole('region', { name: 'Canvas' });
const paragraph = (text: string) => ({ type: 'paragraph', content: [{ type: 'text', text }] });
const line = (id: string, text: string) => ({ kind: 'line', id, content: [{ type: 'text', text }] });

/** A page or an email of some blocks; returns where it is edited. */
async function made(
  request: APIRequestContext,
  kind: 'page' | 'email',
  name: string,
  body: unknown[],
): Promise<string> {
  const own = `${name} ${run}${test.info().retry}`;
  const slug = own.toLowerCase().replaceAll(' ', '-');
  const answer = await request.post('/api/documents', { data: { kind, name: own, slug } });
  expect(answer.status()).toBe(201);
  const { id, revision } = await answer.json();
  const subject = kind === 'email' ? [line('subject', 'Tonight')] : [];
  const content = { subject, preview: [], body };
  const kept = await request.put(`/api/documents/${id}`, { data: { revision, name: own, content } });
  expect(kept.status()).toBe(200);
  return `/${kind}s/${id}`;
}

async function stored(page: Page) {
  const id = page.url().split('/').at(-1);
  return (await (await page.request.get(`/api/documents/${id}`)).json()).content;
}

for (const kind of ['page', 'email'] as const)
  test(`a personal value and words that differ stand in a text block of ${kind === 'page' ? 'a page' : 'an email'}`, async ({
    studio: page,
  }) => {
    await page.goto(
      await made(page.request, kind, `Text of ${kind}`, [
        { kind: 'text', id: 'words', content: [paragraph('Good evening'), paragraph('Come and look up')] },
      ]),
    );
    const canvas = canvasOf(page);
    await canvas.getByText('Come and look up').click();
    const field = page.getByRole('textbox', { name: 'Text of this block' });
    await page.keyboard.press('Control+End');
    await page.keyboard.type(', ');
    await page.getByRole('button', { name: 'Personal value' }).click();
    await page.getByRole('dialog').getByRole('combobox').fill('first name');
    await page.getByRole('dialog').getByRole('option', { name: 'first name' }).first().click();
    await page.getByLabel('Who has no first name reads').fill('stargazer');
    await expect(field).toContainText('Come and look up, ');
    await field.getByText('Good evening').click();
    await page.keyboard.press('Home');
    for (let letter = 0; letter < 4; letter++) await page.keyboard.press('Shift+ArrowRight');
    await page.getByRole('button', { name: 'Words that differ' }).click();
    await page.getByLabel('Words A', { exact: true }).fill('Nice');
    await expect(page.getByLabel('Words for everyone else')).toHaveValue('Good');
    await saved(page);
    const json = JSON.stringify((await stored(page)).body);
    expect(json).toContain('"type":"mergeField","attrs":{"attribute":"first-name","fallback":"stargazer"');
    expect(json).toContain('"words":"Nice"');

    // What is there already is chosen with a click, and the keys around it work.
    await page.keyboard.press('Escape');
    await canvas.getByText('stargazer').click();
    await field.locator('.merge').last().click();
    await expect(page.getByLabel('Who has no first name reads')).toHaveValue('stargazer');
    await field.getByText('Come and look up').click();
    await page.keyboard.press('Home');
    for (const key of ['Shift+ArrowRight', 'Shift+ArrowDown', 'Shift+ArrowUp', 'Shift+End', 'Shift+Home'])
      await page.keyboard.press(key);
    await page.keyboard.press('Home');
    await page.keyboard.press('Backspace');
    await page.keyboard.press('Enter');
    await page.keyboard.press('Control+End');
    await page.keyboard.press('Delete');
    await saved(page);
    expect((await stored(page)).body[0].content).toHaveLength(2);
  });

test('lists and tables take what can be stored, and nothing that is typed after is lost', async ({
  studio: page,
}) => {
  await page.goto(
    await made(page.request, 'page', 'Lists', [
      {
        kind: 'text',
        id: 'words',
        content: [
          {
            type: 'bulletList',
            content: [paragraph('one'), paragraph('two')].map((one) => ({
              type: 'listItem',
              content: [one],
            })),
          },
        ],
      },
    ]),
  );
  await canvasOf(page).getByText('two').click();
  const field = page.getByRole('textbox', { name: 'Text of this block' });
  await page.keyboard.press('Control+End');
  await page.keyboard.press('Enter');
  await page.keyboard.type('three');
  await page.getByRole('button', { name: 'Table', exact: true }).click();
  await field.focus();
  await page.keyboard.type('in a cell');
  await field.evaluate((element) => {
    const data = new DataTransfer();
    data.setData('text/html', '<ul><li>outer<ul><li>inner</li></ul></li></ul>');
    element.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }));
  });
  await page.keyboard.press('Control+End');
  await page.keyboard.type(' and last');
  await saved(page);
  const json = JSON.stringify((await stored(page)).body);
  for (const words of ['one', 'two', 'three', 'in a cell', 'outer', 'inner', 'and last'])
    expect(json).toContain(words);
});
