import type { Locator, Page, Request } from '@playwright/test';
import { demoAccount, demoColleague } from '../../demo/scenario.ts';
import { choose, expect, lookAs, quiet, saved, test } from './studio.ts';

const run = Date.now().toString(36);
const canvasOf = (page: Page): Locator => page.getByRole('region', { name: 'Canvas' });
const outlineOf = (page: Page): Locator => page.getByRole('navigation', { name: 'Blocks' });
const heading = (id: string, text: string) => ({
  kind: 'heading',
  id,
  level: 2,
  content: [{ type: 'text', text }],
});
const text = (id: string, words: string) => ({
  kind: 'text',
  id,
  content: [{ type: 'paragraph', ...(words !== '' && { content: [{ type: 'text', text: words }] }) }],
});

/** A page of some blocks, opened on the canvas. */
async function opened(page: Page, name: string, body: readonly object[], kind = 'page'): Promise<void> {
  const own = `${name} ${run}${test.info().retry}`;
  const slug = own.toLowerCase().replaceAll(' ', '-');
  const { id, revision } = await (
    await page.request.post('/api/documents', { data: { kind, name: own, slug } })
  ).json();
  const line = { kind: 'line', id: 'subject', content: [{ type: 'text', text: 'Tonight' }] };
  const content = { subject: kind === 'email' ? [line] : [], preview: [], body };
  const stored = await page.request.put(`/api/documents/${id}`, { data: { revision, name: own, content } });
  expect(stored.status()).toBe(200);
  await page.goto(`/${kind}s/${id}`);
  await expect(canvasOf(page).getByText('First', { exact: true })).toBeVisible();
  // Nothing moves any more under the pointer.
  await quiet(page);
}

/** Waits until what is stored of the page's blocks is as expected. */
async function expectStored(
  page: Page,
  of: (block: { kind: string; id: string }) => string,
  expected: readonly string[],
): Promise<void> {
  await expect.poll(async () => (await bodyOf(page)).map(of)).toEqual(expected);
}

/** Waits until the two headings are stored in an order. */
async function expectOrder(page: Page, expected: readonly string[]): Promise<void> {
  const order = async () => (await bodyOf(page)).map(({ id }) => id).filter((id) => expected.includes(id));
  await expect.poll(order).toEqual(expected);
}

const kindOf = ({ kind }: { kind: string }): string => kind;

async function bodyOf(page: Page): Promise<{ kind: string; id: string }[]> {
  await quiet(page);
  const id = new URL(page.url()).pathname.split('/').at(-1);
  return (await (await page.request.get(`/api/documents/${id}`)).json()).content.body;
}

/** Moves the pointer to the middle of an edge of something, as a hand does. */
async function pointAt(page: Page, of: Locator, edge: 'top' | 'middle' | 'bottom'): Promise<void> {
  const box = await of.boundingBox();
  if (!box) throw new Error('what is pointed at is not on screen');
  const down = { top: 2, middle: box.height / 2, bottom: box.height - 2 }[edge];
  await page.mouse.move(box.x + box.width / 2, box.y + down, { steps: 4 });
}

for (const kind of ['page', 'email'])
  test(`blocks are put between others, and dragged, on the canvas of a new ${kind}`, async ({
    studio: page,
  }) => {
    await opened(page, `Between ${kind}`, [heading('a', 'First'), heading('b', 'Second')], kind);
    const canvas = canvasOf(page);
    const first = canvas.getByRole('heading', { name: 'First' });

    await test.step('the plus at the gap under the pointer', async () => {
      await pointAt(page, first, 'bottom');
      await page.getByRole('button', { name: 'Insert a block here' }).click();
      await page.getByRole('option', { name: 'Divider' }).click();
      await expectStored(page, kindOf, ['heading', 'divider', 'heading']);
    });

    await test.step('a drag by the handle, with a line where it lands', async () => {
      await canvas.getByRole('heading', { name: 'Second' }).click();
      await page.getByRole('button', { name: /^Move: drag/ }).hover();
      await page.mouse.down();
      await pointAt(page, first, 'middle');
      await pointAt(page, first, 'top');
      await expect(page.locator('[data-landing]')).toHaveCount(1);
      await page.mouse.up();
      await expect(page.locator('[data-landing]')).toHaveCount(0);
      await expectOrder(page, ['b', 'a']);
    });

    await test.step('a drag that Escape ends moves nothing', async () => {
      await page.getByRole('button', { name: /^Move: drag/ }).hover();
      await page.mouse.down();
      await pointAt(page, first, 'bottom');
      await page.keyboard.press('Escape');
      await expect(page.locator('[data-landing]')).toHaveCount(0);
      await page.mouse.up();
      await expectOrder(page, ['b', 'a']);
    });

    await test.step('Alt and the arrow keys at the handle', async () => {
      await page.getByRole('button', { name: /^Move: drag/ }).focus();
      await page.keyboard.press('Alt+ArrowDown');
      await page.keyboard.press('Alt+ArrowDown');
      await expectOrder(page, ['a', 'b']);
      await expect(page.getByRole('button', { name: /^Move: drag/ })).toBeFocused();
    });
  });

test('a slash in an empty text inserts in its place, Enter after a heading goes on below', async ({
  studio: page,
}) => {
  await opened(page, 'Slash', [heading('a', 'First'), text('t', '')]);
  const field = page.getByRole('textbox', { name: 'Text of this block' });
  await canvasOf(page).getByRole('heading', { name: 'First' }).click();
  await expect(field).toBeFocused();
  await page.keyboard.press('End');
  await page.keyboard.type(' / last');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.keyboard.press('Enter');
  await page.keyboard.type('Below it');
  await expect(canvasOf(page).getByText('Below it')).toBeVisible();
  await expectStored(page, kindOf, ['heading', 'text', 'text']);

  await outlineOf(page).getByRole('button').nth(2).click();
  await expect(field).toBeFocused();
  await page.keyboard.press('/');
  const list = page.getByRole('dialog', { name: 'Insert a block below' });
  await expect(list).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(list).toHaveCount(0);
  await expect(field).toBeFocused();
  await page.keyboard.press('/');
  await page.keyboard.type('quot');
  await page.keyboard.press('Enter');
  await expectStored(page, kindOf, ['heading', 'text', 'quotation']);
  await page.keyboard.type('Somebody said');
  await expect(canvasOf(page).getByText('Somebody said')).toBeVisible();
  await page.keyboard.press('Escape');
  // Words that are typed slowly are more than one step.
  await expect(async () => {
    await page.keyboard.press('Control+z');
    expect((await bodyOf(page)).map(kindOf)).toEqual(['heading', 'text', 'text']);
  }).toPass();
});

test('a block is made to differ for an audience that is made on the spot', async ({ studio: page }) => {
  const name = `Night visitors ${run}${test.info().retry}`;
  await opened(page, 'On the spot', [heading('a', 'First')]);
  await canvasOf(page).getByRole('heading', { name: 'First' }).click();
  await page.getByRole('button', { name: 'Vary this block' }).click();
  const search = page.getByRole('combobox', { name: 'Which audience?' });
  await search.fill(name);
  await page.getByRole('option', { name: `New audience “${name}”…` }).click();
  const dialog = page.getByRole('dialog', { name: 'New audience' });
  await expect(dialog.getByLabel('Name')).toHaveValue(name);
  await dialog.getByRole('button', { name: 'and…' }).click();
  await page.getByRole('combobox', { name: 'Which attribute?' }).fill('visits this year');
  await page
    .getByRole('option', { name: /visits this year/ })
    .first()
    .click();
  await page.keyboard.press('Escape');
  await expect(dialog.getByRole('status').filter({ hasText: /of [\d,]+ contacts/ })).toBeVisible();
  await dialog.getByRole('button', { name: 'Save audience' }).click();
  await expect(dialog).toHaveCount(0);
  await expect(page.getByLabel('Audience of variant A')).toBeVisible();
  await saved(page);
  await expectStored(page, kindOf, ['slot']);

  // The audience was saved, and stands first the next time.
  await page.reload();
  await canvasOf(page).getByText('First').first().click();
  await page.getByRole('button', { name: 'Vary this block' }).click();
  await expect(page.getByRole('dialog').getByRole('option').first()).toHaveText(new RegExp(`^${name}`));
  await page.keyboard.press('Escape');

  await page.getByRole('button', { name: 'Vary this block' }).click();
  await page.getByRole('option', { name: 'New audience…' }).click();
  await page.keyboard.press('Escape');
  await expect(dialog).toHaveCount(0);
  expect(await page.request.get('/api/audiences').then((answer) => answer.json())).toContainEqual(
    expect.objectContaining({ name }),
  );
});

test('what a screen needs first is asked for once, before its code is here', async ({ studio: page }) => {
  for (const path of ['/people', '/pages/home']) {
    const asked: string[] = [];
    const note = (request: Request) => {
      const { pathname, search } = new URL(request.url());
      if (
        request.method() === 'GET' &&
        /^\/(api|site-assets)\//.test(pathname) &&
        !pathname.startsWith('/api/changes')
      )
        asked.push(pathname + search);
    };
    page.on('request', note);
    await page.goto(path);
    await quiet(page);
    page.off('request', note);
    expect(asked.length, path).toBeGreaterThan(4);
    expect(asked, path).toEqual([...new Set(asked)]);
  }
});

test('a link shows a colleague what is on screen: the block, whom one looks as, the device and the moment', async ({
  studio: page,
  browser,
  baseURL,
}) => {
  await page.goto('/pages/home');
  await lookAs(page, 'Petra Kolm');
  await page.getByRole('radio', { name: 'Phone' }).click();
  await outlineOf(page)
    .getByRole('button', { name: /^Offer card/ })
    .click();
  await expect(page).toHaveURL(/block=/);
  const context = await browser.newContext({ baseURL: baseURL ?? '' });
  await context.request.post('/api/session', {
    data: { email: demoColleague.email, password: demoAccount.password },
  });
  const other = await context.newPage();
  await other.goto(page.url());
  await expect(other.getByRole('region', { name: 'Looking as' })).toContainText('Petra Kolm');
  await expect(other.getByRole('radio', { name: 'Phone' })).toBeChecked();
  await expect(canvasOf(other)).toContainText('Hello again, Petra');
  await expect(outlineOf(other).getByRole('button', { name: /^Offer card/ })).toHaveAttribute(
    'aria-current',
    'true',
  );
  // What is looked at next is kept as well.
  await lookAs(other, 'Ines Marlow');
  await other.reload();
  await expect(other.getByRole('region', { name: 'Looking as' })).toContainText('Ines Marlow');
  // A link that somebody mangled shows the page all the same.
  for (const broken of [
    'visit={"visit-device":{},"x":[1]}',
    'at=soon',
    'visit=[]',
    'at=%2B275760-09-13',
    'device=boat',
    'as=x',
  ]) {
    await other.goto(`/pages/home?${broken}`);
    await expect(canvasOf(other).getByRole('heading').first()).toBeVisible();
  }
  await other.goto('/pages/home?as=999999999');
  await expect(other.getByText('The person in this link can’t be found')).toBeVisible();
  await expect(canvasOf(other)).toBeVisible();
  await context.close();
});

test('a page is previewed in a tab of its own, at any width, and follows what is written', async ({
  studio: page,
}) => {
  await opened(page, 'Previewed', [heading('a', 'First')]);
  await lookAs(page, 'Petra Kolm');
  const coming = page.context().waitForEvent('page');
  await page.getByRole('button', { name: 'Preview in a new tab' }).click();
  const tab = await coming;
  await expect(tab.getByText('as Petra Kolm, signed in')).toBeVisible();
  await expect(tab.getByRole('navigation', { name: 'Places' })).toHaveCount(0);
  const shown = tab.getByRole('region', { name: 'The page' });
  await expect(shown.getByRole('heading', { name: 'First' })).toBeVisible();
  await expect(shown.getByRole('button', { name: 'Menu' })).toBeHidden();
  await tab.getByRole('button', { name: 'Phone' }).click();
  await expect(shown.getByRole('button', { name: 'Menu' })).toBeVisible();
  await tab.getByRole('slider', { name: 'Width of the page' }).focus();
  await tab.keyboard.press('End');
  await expect(tab.getByText('2560 px')).toBeVisible();
  expect(await shown.evaluate(({ scrollWidth, clientWidth }) => scrollWidth <= clientWidth)).toBe(true);
  await tab.reload();
  await expect(tab.getByText('2560 px')).toBeVisible();
  await expect(tab.getByText('as Petra Kolm, signed in')).toBeVisible();

  await canvasOf(page).getByRole('heading', { name: 'First' }).click();
  await page.keyboard.press('End');
  await page.keyboard.type(' of all');
  await expect(shown.getByRole('heading', { name: 'First of all' })).toBeVisible();
  await tab.getByRole('link', { name: 'Edit' }).click();
  await expect(tab.getByRole('region', { name: 'Looking as' })).toContainText('Petra Kolm');
  await tab.close();
});

test('the lineup is printed whole, without what is for working with it', async ({ studio: page }) => {
  await page.goto('/lineup/home');
  const faces = page.getByRole('status').filter({ hasText: /are all that anyone can get/ });
  await expect(faces).toBeVisible();
  const all = Number(/\d+/.exec(await faces.innerText())?.[0]);
  expect(all).toBeGreaterThan(5);
  await quiet(page);
  await page.evaluate(() => window.dispatchEvent(new Event('beforeprint')));
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByRole('navigation', { name: 'Places' })).toBeHidden();
  await expect(page.getByRole('region', { name: 'Looking as' })).toBeHidden();
  await expect(page.getByRole('columnheader').filter({ visible: true })).toHaveCount(all);
  const width = await page.evaluate(() => document.documentElement.scrollWidth);
  // A sheet of A4 lengthwise has 1,123 pixels (CSS Values 4, 96 pixels to the inch).
  expect(width).toBeLessThanOrEqual(1280);
  await page.evaluate(() => window.dispatchEvent(new Event('afterprint')));
  await page.emulateMedia({ media: 'screen' });
  await expect(page.getByRole('navigation', { name: 'Places' })).toBeVisible();
});

test('a moment is typed as people write it, or chosen from a calendar, also by keyboard alone', async ({
  studio: page,
}) => {
  await page.goto('/pages/home');
  const bar = page.getByRole('region', { name: 'Looking as' });
  await bar.getByRole('button', { name: 'Now' }).click();
  const moment = page.getByLabel('Date and time', { exact: true }).and(page.getByRole('textbox'));
  await moment.fill('24 december 2031 at 18:30');
  await expect(bar.getByRole('button', { name: 'Wed 24 Dec, 18:30' })).toBeVisible();
  await moment.fill('the day after');
  await expect(page.getByRole('alert')).toContainText('Write it like 24 Nov 2026, 18:00');
  await expect(bar.getByRole('button', { name: 'Wed 24 Dec, 18:30' })).toBeVisible();
  await page.getByRole('button', { name: /December 25th, 2031/ }).click();
  await expect(moment).toHaveValue('25 Dec 2031, 18:30');
  await expect(bar.getByRole('button', { name: 'Thu 25 Dec, 18:30' })).toBeVisible();
  await page.getByRole('button', { name: 'Back to now' }).click();

  await page.goto('/collections/guides');
  await page
    .getByRole('button', { name: /New item/ })
    .first()
    .click();
  const from = page.getByLabel('Published from');
  await from.fill('3 Feb 2031');
  await page.keyboard.press('Tab');
  await expect(from).toHaveValue('3 Feb 2031, 00:00');
  await expect(page.getByRole('button', { name: 'Choose from a calendar' }).first()).toBeFocused();
  await page.keyboard.press('Enter');
  const calendar = page.getByRole('dialog', { name: 'Calendar' });
  await expect(calendar.getByRole('grid')).toBeVisible();
  await calendar.getByRole('button', { name: /February 3rd, 2031/ }).focus();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(from).toHaveValue('10 Feb 2031, 00:00');
  await expect(page.getByRole('button', { name: 'Choose from a calendar' }).first()).toBeFocused();
  await from.fill('');
  await page.keyboard.press('Tab');
  await expect(from).toHaveValue('');
});

test('a picture is found in the library, cropped, and replaced wherever it stands', async ({
  studio: page,
}) => {
  const drawing = (colour: string) => ({
    name: `${colour} ${run}${test.info().retry}.svg`,
    mimeType: 'image/svg+xml',
    buffer: Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" width="300" height="200"><rect width="300" height="200" fill="${colour}"/></svg>`,
    ),
  });
  const [old, next] = [drawing('maroon'), drawing('teal')];
  const stored = await page.request.post(`/api/files?name=${encodeURIComponent(old.name)}`, {
    headers: { 'content-type': 'application/octet-stream' },
    data: old.buffer,
  });
  const { id: file } = await stored.json();
  const picture = { kind: 'picture', id: 'p', picture: 'moon', alt: 'A colour' };
  await opened(page, 'Coloured', [heading('a', 'First'), picture]);
  const shown = canvasOf(page).getByRole('img', { name: 'A colour' });
  await shown.click();
  await page.getByRole('button', { name: 'Choose an uploaded picture…' }).click();
  await page.getByRole('option', { name: old.name }).click();
  await expect(shown).toHaveAttribute('src', `/api/files/${file}`);
  await choose(page.getByLabel('Crop'), 'square');
  await choose(page.getByLabel('Keep in view'), 'the left');
  await expect.poll(async () => (await shown.boundingBox())?.width).toBeGreaterThan(100);
  const box = await shown.boundingBox();
  expect(Math.abs((box?.width ?? 0) - (box?.height ?? 0))).toBeLessThan(1);
  await saved(page);

  await page.goto('/media');
  await page.getByLabel('Search by name, page or item').fill('maroon');
  const card = page.locator('#work').getByRole('listitem').filter({ hasText: old.name });
  await card.getByText('Used in one place').click();
  await expect(card.getByRole('link', { name: /^Coloured/ })).toBeVisible();
  await page.getByLabel('Search by name, page or item').fill('coloured');
  await card.locator('input[type=file]').setInputFiles(next);
  await expect(page.getByText('stands in one place now')).toBeVisible();
  await expect(page.locator('#work').getByRole('listitem').filter({ hasText: next.name })).toContainText(
    'Used in one place',
  );
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(card).toContainText('Used in one place');
});

test('a block is limited to narrow screens, and is there on a phone only', async ({ studio: page }) => {
  await opened(page, 'Narrow', [heading('a', 'First'), text('t', 'For small screens')]);
  const row = outlineOf(page).getByRole('button', { name: /^For small screens/ });
  await row.click();
  await choose(page.getByLabel('Screens', { exact: true }), 'narrow screens only');
  const words = canvasOf(page).getByText('For small screens');
  await expect(words).toBeHidden();
  await expect(row).toHaveAccessibleName(/on narrow screens only/);
  await page.getByRole('radio', { name: 'Phone' }).click();
  await expect(words).toBeVisible();
  await choose(page.getByLabel('Screens', { exact: true }), 'all screens');
  await page.getByRole('radio', { name: 'Computer' }).click();
  await expect(words).toBeVisible();
  expect(await bodyOf(page)).toEqual([expect.anything(), expect.not.objectContaining({ screens: 'narrow' })]);
});

test('a newcomer’s first steps are ticked off as they are done, and can be dismissed', async ({
  studio: page,
}) => {
  await page.goto('/pages/home');
  const steps = page.getByRole('button', { name: /^First steps/ });
  await expect(steps).toHaveAccessibleName('First steps: 0 of 5 done');
  for (const name of ['Petra Kolm', 'Ines Marlow', 'Petra Kolm']) await lookAs(page, name);
  await expect(steps).toHaveAccessibleName('First steps: 0 of 5 done');
  await lookAs(page, 'Yara');
  await expect(steps).toHaveAccessibleName('First steps: 1 of 5 done');
  await steps.click();
  const list = page.getByRole('dialog', { name: 'First steps' });
  await expect(
    list.getByRole('listitem').filter({ hasText: 'Look as three people' }).getByLabel('Done'),
  ).toBeVisible();
  await list.getByRole('link', { name: 'New audience' }).click();
  await expect(page.getByLabel('Name of the audience')).toBeVisible();
  await page.reload();
  await expect(steps).toHaveAccessibleName('First steps: 1 of 5 done');
  await steps.click();
  await list.getByRole('button', { name: 'Hide this list' }).click();
  await expect(steps).toHaveCount(0);
  await page.reload();
  await expect(page.getByRole('button', { name: 'Release…' })).toBeVisible();
  await expect(steps).toHaveCount(0);
});

test('a page is duplicated and deleted from the list, and an undo brings it back whole', async ({
  studio: page,
}) => {
  await opened(page, 'Original', [heading('a', 'First'), text('t', 'Words to keep')]);
  const name = `Original ${run}${test.info().retry}`;
  await page.goto('/pages');
  const rowOf = (of: string) =>
    page.getByRole('row').filter({ has: page.getByRole('link', { name: of, exact: true }) });
  await page.getByRole('button', { name: `Actions for “${name}”` }).click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(page.getByLabel('Name of the page')).toHaveValue(`${name} (copy)`);
  await expect(canvasOf(page)).toContainText('Words to keep');
  await page.goto('/pages');
  await expect(rowOf(`${name} (copy)`)).toContainText('-copy');
  // By keyboard alone.
  await page.getByRole('button', { name: `Actions for “${name}”` }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('menuitem').first()).toBeFocused();
  await page.keyboard.press('End');
  await page.keyboard.press('Enter');
  await expect(rowOf(name)).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(rowOf(name)).toHaveCount(1);
  await rowOf(name).getByRole('link').click();
  await expect(canvasOf(page)).toContainText('Words to keep');
  await page.goto('/pages');
  await page.getByRole('button', { name: 'Actions for “Home”' }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(page.getByText('The home page can’t be deleted')).toBeVisible();
  await expect(rowOf('Home')).toHaveCount(1);
});

test('a picture is taken in by dropping it between blocks, and by pasting it', async ({ studio: page }) => {
  await opened(page, 'Pictures', [heading('a', 'First'), heading('b', 'Second')]);
  const canvas = canvasOf(page);
  // As a browser hands over what is dropped or pasted, since there is no desktop to drag from.
  const give = (event: 'drop' | 'paste', name: string, type: string) =>
    page.evaluate(
      ([kind, fileName, fileType]) => {
        const bytes = Uint8Array.from(
          atob(
            'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
          ),
          (character) => character.charCodeAt(0),
        );
        const data = new DataTransfer();
        data.items.add(new File([bytes], fileName, { type: fileType }));
        if (kind === 'paste') {
          document.body.dispatchEvent(
            new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
          );
          return;
        }
        const hosts = [...document.querySelectorAll('[aria-label=Canvas] *')];
        const root = hosts.find((host) => host.shadowRoot?.querySelector('[data-block=a]'))?.shadowRoot;
        const box = root?.querySelector('[data-block=a]')?.getBoundingClientRect();
        if (!root || !box) throw new Error('the heading is not on the canvas');
        const at = { clientX: box.left + 20, clientY: box.bottom - 2 };
        for (const type of ['dragover', 'drop'])
          root.querySelector('[data-block=a]')?.dispatchEvent(
            new DragEvent(type, {
              ...at,
              dataTransfer: data,
              bubbles: true,
              composed: true,
              cancelable: true,
            }),
          );
      },
      [event, name, type] as const,
    );
  await give('drop', 'dome-at-night.png', 'image/png');
  await expect(canvas.getByRole('img', { name: 'dome at night' })).toBeVisible();
  await expectStored(page, kindOf, ['heading', 'picture', 'heading']);
  await canvas.getByRole('heading', { name: 'Second' }).click();
  await page.keyboard.press('Escape');
  await give('paste', 'comet.png', 'image/png');
  await expect(canvas.getByRole('img', { name: 'comet' })).toBeVisible();
  await expectStored(page, kindOf, ['heading', 'picture', 'heading', 'picture']);
  await give('drop', 'notes.txt', 'text/plain');
  await expect(page.getByText('Only pictures can be dropped here.')).toBeVisible();
});
