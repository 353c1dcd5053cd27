import type { APIRequestContext, Page } from '@playwright/test';
import { demoAccount, demoColleague } from '../../demo/scenario.ts';
import { expect, quiet, saved, test } from './studio.ts';

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
  const id = new URL(page.url()).pathname.split('/').at(-1);
  return (await (await page.request.get(`/api/documents/${id}`)).json()).content;
}

for (const kind of ['page', 'email'] as const)
  test(`a merge field and words that differ stand in a text block of ${kind === 'page' ? 'a page' : 'an email'}`, async ({
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
    await page.getByRole('button', { name: 'Merge field' }).click();
    await page.getByRole('dialog').getByRole('combobox').fill('first name');
    await page.getByRole('dialog').getByRole('option', { name: 'first name' }).first().click();
    // What to say of whoever has none is typed next, and Enter goes on with the sentence.
    await expect(page.getByLabel('Who has no first name reads')).toBeFocused();
    await page.keyboard.type('stargazer');
    await page.keyboard.press('Enter');
    await page.keyboard.type('!');
    await expect(field).toContainText(/Come and look up, .*!/);
    await field.getByText('Good evening').click();
    await page.keyboard.press('Home');
    for (let letter = 0; letter < 4; letter++) await page.keyboard.press('Shift+ArrowRight');
    await page.getByRole('button', { name: 'Varying words' }).click();
    await expect(page.getByLabel('Words A', { exact: true })).toBeFocused();
    await page.keyboard.type('Nice');
    await expect(page.getByLabel('Words for everyone else')).toHaveValue('Good');
    await expect(page.getByLabel('Words A', { exact: true })).toHaveValue('Nice');
    await saved(page);
    const json = JSON.stringify((await stored(page)).body);
    expect(json).toContain('"type":"mergeField","attrs":{"attribute":"first-name","fallback":"stargazer"');
    expect(json).toContain('"words":"Nice"');

    // What is there already is chosen with a click, and the keys around it work.
    await page.keyboard.press('Escape');
    await canvas.locator('.merge').last().click();
    await field.locator('.merge').last().click();
    await expect(page.getByLabel('Who has no first name reads')).toHaveValue('stargazer');
    await field.getByText('Come and look up').click();
    await page.keyboard.press('Home');
    await page.keyboard.press('Backspace');
    await page.keyboard.press('Enter');
    await page.keyboard.press('Control+End');
    await page.keyboard.press('Delete');
    for (const key of ['Shift+ArrowLeft', 'Shift+ArrowUp', 'Shift+ArrowDown', 'Shift+Home', 'Shift+End'])
      await page.keyboard.press(key);
    await expect
      .poll(async () => JSON.stringify((await stored(page)).body))
      .toMatch(/ evening.*Come and look up/);
  });

test('what is typed right after a press above the text is in the text, however late the next frame', async ({
  studio: page,
}) => {
  await page.goto(
    await made(page.request, 'page', 'Late frames', [
      { kind: 'text', id: 'words', content: [paragraph('Come and look up')] },
    ]),
  );
  await canvasOf(page).getByText('Come and look up').click();
  const field = page.getByRole('textbox', { name: 'Text of this block' });
  await expect(field).toBeFocused();
  await page.keyboard.press('Control+End');
  await page.keyboard.type(' ');
  await page.getByRole('button', { name: 'Merge field' }).click();
  await page.getByRole('dialog').getByRole('combobox').fill('first name');
  await page.getByRole('dialog').getByRole('option', { name: 'first name' }).first().click();
  await expect(page.getByLabel('Who has no first name reads')).toBeFocused();
  // As on a machine that is busy with something else.
  await page.evaluate(() => {
    const soon = window.requestAnimationFrame.bind(window);
    window.requestAnimationFrame = (draw) => window.setTimeout(() => soon(draw), 500);
  });
  await page.keyboard.type('stargazer');
  await page.keyboard.press('Enter');
  await page.keyboard.type(' and ');
  for (const name of ['Bold', 'Italic']) {
    await page.getByRole('button', { name: `${name} (` }).click();
    await page.keyboard.type(`${name} `);
  }
  await expect(field).toContainText(/Come and look up .* and Bold Italic/);
  await expect(field.locator('strong em, em strong')).toContainText('Italic');
});

test('a merge field is changed where it is selected by itself, and not together with another', async ({
  studio: page,
}) => {
  const value = (attribute: string, fallback: string) => ({
    type: 'mergeField',
    attrs: { attribute, fallback },
  });
  const values = {
    type: 'paragraph',
    content: [value('first-name', 'stargazer'), value('city', 'somewhere')],
  };
  await page.goto(
    await made(page.request, 'email', 'Two values', [
      { kind: 'text', id: 'words', content: [paragraph('Hello'), values] },
    ]),
  );
  const canvas = canvasOf(page);
  await canvas.locator('.merge').first().click();
  const field = page.getByRole('textbox', { name: 'Text of this block' });
  await field.locator('.merge').first().click();
  await expect(page.getByLabel('Who has no first name reads')).toHaveValue('stargazer');
  await page.getByLabel('Who has no first name reads').fill('friend');
  await field.getByText('Hello').click();
  await page.keyboard.press('End');
  await page.keyboard.press('ArrowRight');
  for (let step = 0; step < 2; step++) await page.keyboard.press('Shift+ArrowRight');
  await expect(page.getByLabel(/^Who has no/)).toHaveCount(0);
  await saved(page);
  const json = JSON.stringify((await stored(page)).body);
  expect(json).toContain('"fallback":"friend"');
  expect(json).toContain('"fallback":"somewhere"');
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

const oneHeading = (words: string) => [
  { kind: 'heading', id: 'heading', level: 2, content: [{ type: 'text', text: words }] },
];
/** Writes at the end of the heading of a page. */
async function write(page: Page, heading: string, words: string): Promise<void> {
  await canvasOf(page).getByRole('heading', { name: heading }).click();
  await page.keyboard.press('Control+End');
  await page.keyboard.type(words);
}
const headingOf = async (page: Page, address: string) => {
  const { content } = await (
    await page.request.get(
      `/api/documents/${new URL(address, 'http://127.0.0.1').pathname.split('/').at(-1)}`,
    )
  ).json();
  return content.body[0].content.map(({ text }: { text: string }) => text).join('');
};

test('what is typed right before leaving by a link, by Back or by signing out is stored', async ({
  studio: page,
}) => {
  const address = await made(page.request, 'page', 'Leaving', oneHeading('Look'));
  await page.goto('/pages');
  await page.getByRole('link', { name: `Leaving ${run}` }).click();
  await write(page, 'Look', ' up');
  await page.getByRole('link', { name: 'All pages' }).click();
  await expect(page.getByRole('heading', { name: 'Pages', level: 1 })).toBeVisible();
  expect(await headingOf(page, address)).toBe('Look up');
  await page.goBack();
  await write(page, 'Look up', ' tonight');
  await page.goBack();
  await expect(page.getByRole('heading', { name: 'Pages', level: 1 })).toBeVisible();
  expect(await headingOf(page, address)).toBe('Look up tonight');
  await page.goto(address);
  await write(page, 'Look up tonight', '!');
  await page.getByRole('button', { name: /^Sign out/ }).click();
  await expect(page.getByRole('heading', { name: 'Apple Porch' })).toBeVisible();
  await page.getByRole('button', { name: 'Sign in to the demo' }).click();
  await expect(canvasOf(page).getByRole('heading', { name: 'Look up tonight!' })).toBeVisible();
});

test('leaving asks where the words can’t be stored, and they are offered afterwards', async ({
  studio: page,
}) => {
  const address = await made(page.request, 'page', 'Offline', oneHeading('Look'));
  await page.goto('/pages');
  await page.goto(address);
  await page.route('**/api/documents/*', (route) =>
    route.request().method() === 'PUT' ? route.abort() : route.continue(),
  );
  await write(page, 'Look', ' up');
  await page.getByRole('link', { name: 'All pages' }).click();
  const asks = page.getByRole('dialog', { name: 'What you wrote is not saved' });
  await asks.getByRole('button', { name: 'Stay here' }).click();
  await expect(page.getByText('not saved yet; trying again')).toBeVisible();
  await page.getByRole('link', { name: 'All pages' }).click();
  await asks.getByRole('button', { name: 'Leave' }).click();
  await expect(page).toHaveURL(/\/pages$/);
  await page.unroute('**/api/documents/*');
  await page.goto(address);
  await expect(page.getByText('You have unsaved changes')).toBeVisible();
  expect(await headingOf(page, address)).toBe('Look');
  await page.getByRole('button', { name: 'restore them' }).click();
  await expect(canvasOf(page).getByRole('heading', { name: 'Look up' })).toBeVisible();
  await saved(page);
  expect(await headingOf(page, address)).toBe('Look up');
  await page.reload();
  await expect(canvasOf(page).getByRole('heading', { name: 'Look up' })).toBeVisible();
  await expect(page.getByText('You have unsaved changes')).toHaveCount(0);
});

test('a session that ends under the pen loses nothing: sign in over the page, and go on', async ({
  studio: page,
}) => {
  const address = await made(page.request, 'page', 'Session', oneHeading('Look'));
  await page.goto(address);
  await expect(canvasOf(page).getByRole('heading', { name: 'Look' })).toBeVisible();
  // What is still read after the session ended says so before anything is written.
  await quiet(page);
  // In another window, which has the same cookie.
  await page.request.delete('/api/session');
  await write(page, 'Look', ' up');
  const again = page.getByRole('dialog', { name: 'Your session has ended' });
  await expect(again).toBeVisible();
  await expect(page.locator('[aria-label=Canvas]').getByText('Look up')).toBeVisible();
  await again.getByRole('button', { name: 'Sign in to the demo' }).click();
  await expect(again).toHaveCount(0);
  await saved(page);
  expect(await headingOf(page, address)).toBe('Look up');
});

test('a window keeps its own name when somebody else signs in: their words wait, and are offered as theirs', async ({
  studio: page,
}) => {
  const address = await made(page.request, 'page', 'Somebody else', oneHeading('Look'));
  await page.goto(address);
  await expect(canvasOf(page).getByRole('heading', { name: 'Look' })).toBeVisible();
  const writeAtOnce = async (heading: string, words: string) => {
    await canvasOf(page).getByRole('heading', { name: heading }).click();
    await page.keyboard.press('Control+End');
    await page.keyboard.insertText(words);
  };
  // In another window of the same browser.
  const credentials = { email: demoColleague.email, password: demoAccount.password };
  await page.request.post('/api/session', { data: credentials });
  await writeAtOnce('Look', ' up');
  const other = page.getByRole('dialog', { name: `${demoColleague.name} is signed in now` });
  await expect(other).toBeVisible();
  expect(await headingOf(page, address)).toBe('Look');
  // Back as oneself: what was written is stored.
  await other.getByRole('button', { name: `Sign in as ${demoAccount.name}` }).click();
  await page.getByRole('button', { name: 'Sign in to the demo' }).click();
  await saved(page);
  expect(await headingOf(page, address)).toBe('Look up');
  // Or go on as the other: what was written waits.
  await page.request.post('/api/session', { data: credentials });
  await writeAtOnce('Look up', ' tonight');
  await other.getByRole('button', { name: `Continue as ${demoColleague.name}` }).click();
  await expect(page.getByText(`There are unsaved changes by ${demoAccount.name}`)).toBeVisible();
  expect(await headingOf(page, address)).toBe('Look up');
  await page.getByRole('button', { name: 'restore them' }).click();
  await expect.poll(() => headingOf(page, address)).toBe('Look up tonight');
});

test('two people on one page: theirs is on screen once it is taken, mine is stored once it is kept', async ({
  studio: page,
}) => {
  const address = await made(page.request, 'page', 'Both', oneHeading('Look'));
  const theirs = async (words: string) => {
    const path = `/api/documents/${address.split('/').at(-1)}`;
    const { revision, name, content } = await (await page.request.get(path)).json();
    content.body[0].content = [{ type: 'text', text: words }];
    expect((await page.request.put(path, { data: { revision, name, content } })).status()).toBe(200);
  };
  await page.goto(address);
  await write(page, 'Look', ' up');
  await saved(page);
  await theirs('Look down');
  await page.keyboard.type(' high');
  const both = page.getByRole('dialog', { name: 'Two versions of this document' });
  await both.getByRole('button', { name: 'Take theirs' }).click();
  await expect(canvasOf(page).getByRole('heading', { name: 'Look down' })).toBeVisible();
  await write(page, 'Look down', ' low');
  await saved(page);
  expect(await headingOf(page, address)).toBe('Look down low');

  await theirs('Look left');
  await page.keyboard.type(' today');
  await expect(both).toBeVisible();
  // Theirs changes once more before mine is kept: that is another question.
  await theirs('Look right');
  await both.getByRole('button', { name: 'Keep mine' }).click();
  await expect(both.getByText('Look right')).toBeVisible();
  await both.getByRole('button', { name: 'Keep mine' }).click();
  await saved(page);
  expect(await headingOf(page, address)).toBe('Look down low today');
});

const ask = (attribute: string, op: string, ...values: string[]) => ({ kind: 'test', attribute, op, values });
const slot = (audience: string) => ({
  kind: 'slot',
  id: 'slot',
  name: 'Greeting',
  variants: [{ id: 'variant', audience, content: [{ ...oneHeading('For some')[0], id: 'some' }] }],
  otherwise: [{ ...oneHeading('For the rest')[0], id: 'rest' }],
});
async function makeAudience(request: APIRequestContext, name: string, condition: object): Promise<string> {
  const own = `${name} ${run}${test.info().retry}`;
  const answer = await request.post('/api/audiences', { data: { name: own, condition } });
  expect(answer.status()).toBe(201);
  return (await answer.json()).id;
}

for (const [name, condition] of [
  ['a visit', ask('visit-device', 'is-one-of', 'phone')],
  ['another day', ask('moment-weekday', 'is-one-of', 'sunday', 'monday')],
  [
    'a visit and a person',
    { kind: 'all', of: [ask('visit-came-by', 'is-one-of', 'search'), ask('tier', 'is-one-of', 'midnight')] },
  ],
] as const)
  test(`a variant that takes ${name} is shown from its card, and written in alone`, async ({
    studio: page,
  }) => {
    const audience = await makeAudience(page.request, `Takes ${name}`, condition);
    const address = await made(page.request, 'page', `Takes ${name}`, [slot(audience)]);
    await page.goto(address);
    const canvas = canvasOf(page);
    await canvas.getByRole('heading').click();
    const panel = page.getByRole('region', { name: 'Slot Greeting' });
    await panel.getByRole('button', { name: new RegExp(`Takes ${name}`) }).click();
    await expect(canvas.getByRole('heading', { name: 'For some' })).toBeVisible();
    await expect(canvas.getByText(/Nobody we know gets/)).toHaveCount(0);
    await canvas.getByRole('heading', { name: 'For some' }).click();
    await page.keyboard.press('Control+End');
    await page.keyboard.type(' more');
    await saved(page);
    await panel.getByRole('button', { name: /Everyone else/ }).click();
    await expect(canvas.getByRole('heading', { name: 'For the rest' })).toBeVisible();
    const [{ variants, otherwise }] = (await stored(page)).body;
    expect(JSON.stringify(variants)).toContain('For some more');
    expect(JSON.stringify(otherwise)).toContain('For the rest');
  });

test('what is made to differ is on screen as somebody who gets it, and so is each further variant', async ({
  studio: page,
}) => {
  await page.goto(await made(page.request, 'page', 'Differs', oneHeading('For all')));
  const canvas = canvasOf(page);
  await canvas.getByRole('heading', { name: 'For all' }).click();
  await page.getByRole('button', { name: 'Make this differ for…' }).click();
  await page
    .getByRole('dialog')
    .getByRole('option', { name: /^Dusk members/ })
    .click();
  const panel = page.getByRole('region', { name: /^Slot / });
  const shown = (audience: string) =>
    expect(panel.getByRole('listitem').filter({ hasText: audience })).toContainText('on screen');
  await shown('Dusk members');
  await canvas.getByRole('heading', { name: 'For all' }).click();
  await page.keyboard.press('Control+End');
  await page.keyboard.type(' at dusk');
  for (const audience of ['Midnight members', 'Twilight members']) {
    await panel
      .getByRole('button', { name: /Add a variant|variant for/i })
      .first()
      .click();
    await page
      .getByRole('dialog')
      .getByRole('option', { name: new RegExp(`^${audience}`) })
      .click();
    await shown(audience);
    await expect(canvas.getByText(/Nobody we know gets/)).toHaveCount(0);
  }
  await saved(page);
  const [{ variants, otherwise }] = (await stored(page)).body;
  expect(JSON.stringify(variants[0])).toContain('For all at dusk');
  expect(JSON.stringify(otherwise)).not.toContain('at dusk');
});

test('writing begins where one clicks, and a new block’s own words are written over', async ({
  studio: page,
}) => {
  await page.goto(await made(page.request, 'page', 'Caret', oneHeading('Look up and wonder tonight')));
  const heading = canvasOf(page).getByRole('heading', { name: 'Look up and wonder tonight' });
  // Before its first letter.
  await heading.click({ position: { x: 2, y: 12 } });
  await page.keyboard.type('Now: ');
  await saved(page);
  await expect.poll(async () => headingOf(page, page.url())).toBe('Now: Look up and wonder tonight');
  await page.getByRole('button', { name: 'Add a block' }).click();
  await page.getByRole('combobox', { name: 'Which block?' }).fill('Heading');
  await page.getByRole('dialog').getByRole('option', { name: 'Heading', exact: true }).click();
  await page.keyboard.type('And then');
  await expect(canvasOf(page).getByText('And then')).toBeVisible();
  await expect(canvasOf(page).getByText('New heading')).toHaveCount(0);
});

test('what is done right after the last letter counts it in: a copy, a step back, and the words in their place', async ({
  studio: page,
}) => {
  await page.goto(await made(page.request, 'page', 'Right after', oneHeading('Look')));
  const canvas = canvasOf(page);
  const headings = () => canvas.getByRole('heading').allInnerTexts();
  await canvas.getByRole('heading', { name: 'Look' }).click();
  await expect(page.getByRole('button', { name: 'Bold (Ctrl B)' })).toBeVisible();
  await page.keyboard.press('End');
  await page.keyboard.type(' up');
  await page.getByRole('button', { name: 'Duplicate' }).click();
  await expect.poll(headings).toEqual(['Look up', 'Look up']);
  await canvas.getByRole('heading').first().click();
  await page.keyboard.press('End');
  await page.keyboard.type(' tonight');
  // No frame shows the words as they were before.
  const shown = page.evaluate(async () => {
    const seen: string[] = [];
    for (let frame = 0; frame < 30; frame++) {
      await new Promise(requestAnimationFrame);
      const host = [...document.querySelectorAll('[aria-label="Canvas"] *')].find((one) => one.shadowRoot);
      seen.push(host?.shadowRoot?.querySelector('h1, h2, h3')?.textContent ?? '');
    }
    return [...new Set(seen)];
  });
  await page.keyboard.press('Escape');
  expect(await shown).toEqual(['Look up tonight']);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(headings).toEqual(['Look up', 'Look up']);
  await saved(page);
});

test('what is typed before the text can be edited is in it, where the caret was put, and nothing is lost by leaving', async ({
  studio: page,
}) => {
  const blocks = [
    { kind: 'heading', id: 'first', level: 2, content: [{ type: 'text', text: 'Tonight' }] },
    { kind: 'text', id: 'second', content: [paragraph('Come and look up')] },
    { kind: 'heading', id: 'third', level: 2, content: [{ type: 'text', text: 'Closed' }] },
  ];
  const address = await made(page.request, 'page', 'Early', blocks);
  const texts = async () => {
    const { body } = await stored(page);
    return body.map(({ content }: { content: unknown }) =>
      [...JSON.stringify(content).matchAll(/"text":"([^"]*)"/g)].map(([, text]) => text).join('/'),
    );
  };
  let isHeld = true;
  let asked = 0;
  await page.route(/\/assets\/block-text[^/]*\.js$/, async (route) => {
    asked++;
    // Out of reach at first, as on a network that comes and goes.
    if (isHeld) await route.abort('connectionfailed');
    else await route.continue();
  });
  await page.goto(address);
  const field = page.getByRole('textbox', { name: 'Text of this block' });
  const canvas = canvasOf(page);
  await canvas.getByText('Closed').click();
  await expect(field).toBeFocused();
  await page.keyboard.press('ControlOrMeta+a');
  await page.keyboard.type('Open');
  // Left before it could be edited: it is in the block all the same.
  await canvas.getByText('Come and look up').click();
  await expect(canvas.getByRole('heading', { name: 'Open' })).toBeVisible();
  await page.keyboard.press('Control+End');
  await page.keyboard.type(' and');
  await page.keyboard.press('Enter');
  await page.keyboard.type('wonder');
  expect(asked).toBeGreaterThan(0);
  // Whoever has gone on to something else by then is left alone there.
  await page.getByRole('button', { name: 'Make this differ for…' }).click();
  const audiences = page.getByRole('dialog').getByRole('option');
  await expect(audiences.first()).toBeVisible();
  isHeld = false;
  await expect(canvas.getByText('Come and look up and')).toBeVisible();
  await expect(audiences.first()).toBeVisible();
  await page.keyboard.press('Escape');
  await canvas.getByText('wonder').click();
  await page.keyboard.press('Control+End');
  await page.keyboard.type(' again');
  await saved(page);
  await expect.poll(texts).toEqual(['Tonight', 'Come and look up and/wonder again', 'Open']);
});

test('what is typed where the text editor can’t be fetched counts as written: it is shown, stored, and asked about', async ({
  studio: page,
}) => {
  const address = await made(page.request, 'page', 'No editor', oneHeading('Look'));
  const isSave = (request: { method(): string }) => request.method() === 'PUT';
  await page.route(/\/assets\/block-text[^/]*\.js$/, (route) => route.abort('connectionfailed'));
  await page.route('**/api/documents/*', (route) =>
    isSave(route.request()) ? route.abort() : route.continue(),
  );
  await page.goto('/pages');
  await page.goto(address);
  await write(page, 'Look', ' up');
  await page.getByRole('link', { name: 'All pages' }).click();
  const asks = page.getByRole('dialog', { name: 'What you wrote is not saved' });
  await asks.getByRole('button', { name: 'Stay here' }).click();
  await expect(canvasOf(page).getByRole('heading', { name: 'Look up' })).toBeVisible();
  await page.unroute('**/api/documents/*');
  await expect.poll(() => headingOf(page, address)).toBe('Look up');
  await write(page, 'Look up', ' tonight');
  await page.getByRole('link', { name: 'All pages' }).click();
  await expect(page.getByRole('heading', { name: 'Pages', level: 1 })).toBeVisible();
  expect(await headingOf(page, address)).toBe('Look up tonight');
});

test('nobody reads an email as nobody: the bar has the reader that the canvas shows', async ({
  studio: page,
}) => {
  await page.goto(await made(page.request, 'email', 'Reader', [slot('dusk-members')]));
  const bar = page.getByRole('region', { name: 'Looking as' });
  await expect(bar).toContainText(/signed in|recognised/);
  await expect(bar.getByText('Anonymous')).toHaveCount(0);
});

test('the keyboard stays in the work: after a save, after Escape, and on a new page', async ({
  studio: page,
}) => {
  const address = await made(page.request, 'page', 'Keyboard', oneHeading('Look'));
  await page.goto(address);
  await write(page, 'Look', ' up');
  await page.keyboard.press('Control+s');
  await expect.poll(() => headingOf(page, address)).toBe('Look up');
  // The caret is where it was.
  await page.keyboard.type('!');
  await page.keyboard.press('Escape');
  const blocks = page.getByRole('navigation', { name: 'Blocks' });
  await expect(blocks.getByRole('button', { name: 'Look up!' })).toBeFocused();
  const named = page.getByLabel('Name of the page');
  await named.focus();
  await page.keyboard.press('Escape');
  await expect(named).not.toBeFocused();
  await page.keyboard.press('Control+z');
  await expect(canvasOf(page).getByRole('heading', { name: 'Look up!' })).toHaveCount(0);
  await page.goto('/pages');
  await page.getByRole('button', { name: 'New page' }).click();
  await page.keyboard.type(`Begun ${run}${test.info().retry}`);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Add a block' })).toBeFocused();
});

test('a window that was left open overnight shows what is shown today', async ({ studio: page }) => {
  const weekday = { type: 'mergeField', attrs: { attribute: 'moment-weekday', fallback: 'some day' } };
  const heading = { kind: 'heading', id: 'day', level: 2, content: [weekday] };
  const address = await made(page.request, 'page', 'Overnight', [heading]);
  const day = 24 * 60 * 60_000;
  const named = (instant: number) =>
    new Intl.DateTimeFormat('en-GB', { weekday: 'long', timeZone: 'Europe/London' }).format(instant);
  const began = Date.now();
  await page.clock.setSystemTime(began);
  await page.goto(address);
  await expect(canvasOf(page).getByRole('heading', { name: named(began) })).toBeVisible();
  await page.clock.setSystemTime(began + day);
  await page.evaluate(() => window.dispatchEvent(new Event('focus')));
  await expect(canvasOf(page).getByRole('heading', { name: named(began + day) })).toBeVisible();
});

test('a block that is chosen in the outline comes into view, and one that is pressed does not move', async ({
  studio: page,
}) => {
  const blocks = Array.from({ length: 40 }, (_, at) => ({
    kind: 'heading',
    id: `h${at}`,
    level: 2,
    content: [{ type: 'text', text: `Heading ${at}` }],
  }));
  await page.goto(await made(page.request, 'page', 'Long', blocks));
  const canvas = canvasOf(page);
  const last = canvas.getByRole('heading', { name: 'Heading 39', exact: true });
  await expect(last).not.toBeInViewport();
  await page.getByRole('navigation', { name: 'Blocks' }).getByRole('button', { name: 'Heading 39' }).click();
  await expect(last).toBeInViewport({ ratio: 1 });
  const other = canvas.getByRole('heading', { name: 'Heading 36', exact: true });
  const before = await other.boundingBox();
  await other.click();
  await expect(page.getByRole('textbox', { name: 'Text of this block' })).toBeVisible();
  expect((await other.boundingBox())?.y).toBe(before?.y);
});

test('a step back while a block is written in reaches its words, from wherever it is taken', async ({
  studio: page,
}) => {
  const address = await made(page.request, 'page', 'Back', oneHeading('Look'));
  await page.goto(address);
  await write(page, 'Look', ' up');
  await saved(page);
  await page.getByRole('button', { name: 'Varying words' }).click();
  await page.getByRole('button', { name: 'Remove the words A' }).click();
  const heading = canvasOf(page).getByRole('heading');
  await expect(heading).toHaveText('Look upwords');
  // The button is gone with the words, and the keyboard is in no text.
  const all = async (name: string, key: string) => {
    const button = page.getByRole('button', { name });
    while (await button.isEnabled()) await page.keyboard.press(key);
  };
  await all('Undo (Ctrl Z)', 'Control+z');
  await expect(heading).toHaveText('Look');
  await all('Redo (Ctrl Shift Z)', 'Control+Shift+z');
  await expect(heading).toHaveText('Look upwords');
  await page.keyboard.press('Control+s');
  await expect.poll(async () => JSON.stringify((await stored(page)).body)).toMatch(/Look up.*words/);
});
