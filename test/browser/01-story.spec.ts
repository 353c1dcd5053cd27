import { simpleParser } from 'mailparser';
import { z } from 'zod';
import { listedMessageSchema } from '../../contract/mail.ts';
import { demoSitePassword } from '../../demo/scenario.ts';
import { expect, lookAs, release, saved, test } from './studio.ts';

/** What each of three people must read, and the others must not. */
const own = {
  anonymous: 'The gate is open on Fridays',
  dusk: 'A warm mug for Dusk members',
  midnight: 'A hot stone for Midnight members',
};
const inMail = {
  none: 'Come by any Friday',
  dusk: 'Your mug waits at the kiosk',
  midnight: 'Your stone is by the dome',
};

test('a marketer finds a contact, names an audience, writes variants, releases, and each person gets their own', async ({
  page,
  browser,
  baseURL,
}) => {
  test.setTimeout(120_000);

  await test.step('signs in', async () => {
    await page.goto('/');
    await page.getByRole('button', { name: 'Sign in to the demo' }).click();
    await expect(page.getByRole('heading', { name: 'People' })).toBeVisible();
  });

  await test.step('finds a contact and looks as her', async () => {
    await page.getByLabel('Search by name or email address').fill('marlow');
    await page.getByRole('link', { name: 'Ines Marlow' }).click();
    await expect(page.getByRole('definition').filter({ hasText: 'Twilight' })).toBeVisible();
    await page.getByText(/attributes without a value$/).click();
    await expect(page.getByText('telescope owned').locator('..').getByText('no value')).toBeVisible();
    await page.getByRole('button', { name: 'Look as this person' }).click();
    await expect(page.getByRole('region', { name: 'Looking as' })).toContainText('Ines Marlow');
  });

  await test.step('names an audience with a sentence, and sees who is in it', async () => {
    await page.getByRole('link', { name: 'Audiences' }).click();
    await page.getByRole('link', { name: 'New audience' }).click();
    await page.getByLabel('Name of the audience').fill('Keen Dusk members');
    await page.getByRole('button', { name: 'and…' }).click();
    await page
      .getByRole('dialog')
      .getByRole('option', { name: /membership tier/ })
      .click();
    await expect(page.getByTestId('count')).toHaveText('720');
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'and…' }).click();
    await page
      .getByRole('dialog')
      .getByRole('option', { name: /visits this year/ })
      .click();
    await page.getByRole('dialog').getByLabel('visits this year', { exact: true }).fill('2');
    await page.keyboard.press('Escape');
    await expect(page.getByTestId('count')).not.toHaveText('720');
    await expect(page.getByRole('complementary', { name: 'Who they are' })).toContainText(
      'have no visits this year',
    );
    await page.getByRole('button', { name: 'Save audience' }).click();
    await expect(page).toHaveURL(/audiences\/[a-z0-9]{12}$/);
  });

  await test.step('puts a slot around a block of the home page and writes a variant in place', async () => {
    await page.goto('/pages/home');
    await lookAs(page, 'Tobias Orrin');
    await page.getByRole('button', { name: 'Tonight’s sky', exact: true }).click();
    await page.getByRole('button', { name: 'Make this differ for…' }).click();
    await page
      .getByRole('dialog')
      .getByRole('option', { name: /Keen Dusk members/ })
      .click();
    const canvas = page.getByRole('region', { name: 'Canvas' });
    await expect(canvas.getByRole('button', { name: /Keen Dusk members/ })).toBeVisible();
    await canvas.getByRole('heading', { name: 'Tonight’s sky' }).click();
    await page.keyboard.press('ControlOrMeta+a');
    await page.keyboard.type(own.dusk);
    await expect(canvas.getByRole('heading', { name: own.dusk })).toBeVisible();
    await saved(page);

    await page.getByRole('button', { name: 'A variant for…' }).click();
    await page
      .getByRole('dialog')
      .getByRole('option', { name: /Midnight members/ })
      .click();
    await lookAs(page, 'Noor Vale');
    await expect(canvas.getByRole('button', { name: /Midnight members · 235 people/ }).first()).toBeVisible();
    await canvas.getByRole('heading', { name: own.dusk }).click();
    await expect(page.getByRole('textbox', { name: 'Text of this block' })).toBeFocused();
    await page.keyboard.press('ControlOrMeta+a');
    await page.keyboard.type(own.midnight);
    await expect(canvas.getByRole('heading', { name: own.midnight })).toBeVisible();

    await lookAs(page, 'Anonymous');
    await canvas.getByRole('heading', { name: 'Tonight’s sky' }).click();
    await page.keyboard.press('ControlOrMeta+a');
    await page.keyboard.type(own.anonymous);
    await expect(canvas.getByRole('heading', { name: own.anonymous })).toBeVisible();
    await saved(page);
  });

  await test.step('undoes and redoes', async () => {
    const canvas = page.getByRole('region', { name: 'Canvas' });
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(canvas.getByRole('heading', { name: 'Tonight’s sky' })).toBeVisible();
    await page.getByRole('button', { name: 'Redo' }).click();
    await expect(canvas.getByRole('heading', { name: own.anonymous })).toBeVisible();
    await saved(page);
  });

  await test.step('looks at the page as three people, one key press each', async () => {
    const canvas = page.getByRole('region', { name: 'Canvas' });
    for (const [name, words] of [
      ['Tobias Orrin', own.dusk],
      ['Noor Vale', own.midnight],
      ['Anonymous', own.anonymous],
    ] as const) {
      await lookAs(page, name);
      for (const other of Object.values(own))
        await expect(canvas.getByRole('heading', { name: other })).toHaveCount(other === words ? 1 : 0);
    }
    await page.locator('body').press(']');
    await expect(page.getByRole('region', { name: 'Looking as' })).not.toContainText('Anonymous —');
  });

  await test.step('writes the same in the monthly almanac', async () => {
    await page.goto('/emails/monthly-almanac');
    const canvas = page.getByRole('region', { name: 'Canvas' });
    for (const [name, tab, words] of [
      ['Tobias Orrin', /Dusk members/, inMail.dusk],
      ['Noor Vale', /Midnight members/, inMail.midnight],
      ['Ruth Pellow', /Everyone else/, inMail.none],
    ] as const) {
      await lookAs(page, name);
      await expect(canvas.getByRole('button', { name: tab }).first()).toBeVisible();
      await canvas.getByRole('heading', { level: 2 }).first().click();
      await page.keyboard.press('ControlOrMeta+a');
      await page.keyboard.type(words);
      await expect(canvas.getByRole('heading', { name: words })).toBeVisible();
      await saved(page);
    }
    await page.getByRole('button', { name: 'Plain text' }).click();
    await expect(canvas).toContainText(inMail.none);
    await expect(canvas).toContainText('1 Dome Lane, Quillmere QM1 0AA');
  });

  await test.step('sees them side by side, and why', async () => {
    await page.goto('/lineup/home');
    const board = page.getByRole('region', { name: 'Viewers side by side' });
    for (const words of Object.values(own))
      await expect(board.getByRole('button', { name: words }).first()).toBeVisible();
    await board.getByRole('button', { name: own.dusk }).first().click();
    const why = page.getByRole('region', { name: 'Why' });
    await expect(why).toContainText('membership tier is Dusk: yes (it is Dusk)');
    await expect(why).toContainText('visits this year is at least 2: yes (it is 2)');
  });

  await test.step('finds nothing of it live before the release, then releases', async () => {
    const before = await (await page.request.get('/site/')).text();
    for (const words of Object.values(own)) expect(before).not.toContain(words);
    await release(page, 'Mugs and stones');
  });

  await test.step('the site sends each visitor their own bytes', async () => {
    const visit = async (email: string | null) => {
      const context = await browser.newContext({ baseURL: baseURL ?? '' });
      const visitor = await context.newPage();
      if (email) {
        await visitor.goto('/site/sign-in');
        await visitor.getByLabel('Email address').fill(email);
        await visitor.getByLabel('Password').fill(demoSitePassword);
        await visitor.getByRole('button', { name: 'Sign in' }).click();
        await expect(visitor.getByRole('button', { name: 'Sign out' })).toBeVisible();
      }
      const bytes = await (await context.request.get('/site/')).text();
      await context.close();
      return bytes;
    };
    const pages = {
      anonymous: await visit(null),
      dusk: await visit('tobias.orrin@example.org'),
      midnight: await visit('noor.vale@example.org'),
    };
    for (const [who, bytes] of Object.entries(pages))
      for (const [whose, words] of Object.entries(own))
        expect([who, whose, bytes.includes(words)]).toEqual([who, whose, who === whose]);
  });

  await test.step('sends the email, and each reader gets their own message', async () => {
    await page.goto('/emails/monthly-almanac');
    await page.getByRole('button', { name: 'Send to…' }).click();
    const dialog = page.getByRole('dialog', { name: /Send/ });
    for (const name of ['Tobias Orrin', 'Noor Vale', 'Ruth Pellow']) {
      await dialog.getByRole('combobox', { name: 'Add a person' }).fill(name);
      await dialog.getByRole('option', { name: new RegExp(name) }).click();
    }
    await dialog.getByRole('button', { name: 'Send to 3' }).click();
    await expect(page.getByText('3 messages sent.')).toBeVisible();
    await page.getByRole('link', { name: 'Open mailbox' }).click();
    await page
      .getByRole('link', { name: /noor\.vale/ })
      .first()
      .click();
    const frame = page.frameLocator('iframe[title="The message as designed"]');
    await expect(frame.getByRole('heading', { name: inMail.midnight })).toBeVisible();
    const picture = frame.getByRole('img', { name: 'A comet over dark hills' });
    await expect
      .poll(() => picture.evaluate((img) => img instanceof HTMLImageElement && img.naturalWidth))
      .toBe(1200);

    const messages = z
      .array(listedMessageSchema)
      .parse(await (await page.request.get('/api/mailbox')).json());
    const readers = { 'tobias.orrin': inMail.dusk, 'noor.vale': inMail.midnight, 'ruth.pellow': inMail.none };
    for (const [reader, mine] of Object.entries(readers)) {
      const message = messages.find(({ recipient }) => recipient.startsWith(reader));
      const raw = await (await page.request.get(`/api/mailbox/${message?.id}/message.eml`)).body();
      const mail = await simpleParser(raw);
      for (const words of Object.values(readers)) {
        expect([reader, words, mail.text?.includes(words)]).toEqual([reader, words, words === mine]);
        expect([reader, words, String(mail.html).includes(words)]).toEqual([reader, words, words === mine]);
      }
    }
  });
});
