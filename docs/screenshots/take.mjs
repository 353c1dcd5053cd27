// Takes the pictures of the README from a running, freshly reset demo: node docs/screenshots/take.mjs
import { chromium } from '@playwright/test';

const base = process.env.BASE_URL ?? 'http://127.0.0.1:4310';
const folder = new URL('.', import.meta.url).pathname;
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking'],
});
const context = await browser.newContext({ baseURL: base, viewport: { width: 1280, height: 800 } });
const page = await context.newPage();
// What is changed for a picture is not saved.
page.on('dialog', (dialog) => dialog.accept());
// The stream of changes stays open; everything else is waited for.
const underWay = new Set();
page.on('request', (request) => !request.url().includes('/api/changes') && underWay.add(request));
for (const end of ['requestfinished', 'requestfailed']) page.on(end, (request) => underWay.delete(request));
const take = async (name) => {
  await page.waitForLoadState('load');
  for (let calm = 0; calm < 5; calm++) {
    await page.waitForTimeout(100);
    if (underWay.size > 0) calm = -1;
  }
  await page.waitForTimeout(400);
  await page.screenshot({ path: `${folder}${name}.png` });
};
const lookAs = async (name) => {
  await page.getByRole('button', { name: /^Someone else/ }).click();
  await page.getByRole('combobox', { name: 'Look as' }).fill(name);
  await page.getByRole('option', { name: new RegExp(name) }).first().click();
};

await context.request.post('/api/session', {
  data: { email: 'maya@example.org', password: 'look-up-tonight' },
});
await page.goto('/people');
await lookAs('Ines Marlow');
await take('people');
await page.goto('/people/1');
await take('contact');
await page.goto('/people/attributes/tier');
await page.getByRole('region', { name: 'Values' }).waitFor();
await take('attributes');
await page.goto('/people/import');
const visitors = Array.from(
  { length: 180 },
  (_, at) =>
    `guest${at}@example.org,Nell ${at},${at % 45 === 7 ? 'Dawn' : ['Dusk', 'Twilight', 'Midnight'][at % 3]},${1 + (at % 12)}/0${1 + (at % 9)}/2025,"${at % 40},5",${['Moon;family', 'planets', ''][at % 3]}`,
);
const csv = ['Contact,First name,Membership tier,Joined,Last gift,Tags', ...visitors].join('\n');
await page
  .locator('input[type=file]')
  .setInputFiles({ name: 'open-night.csv', mimeType: 'text/csv', buffer: Buffer.from(csv) });
await page.getByLabel('Order of dates in “Joined”').click();
await page.getByRole('option', { name: /^day first/ }).click();
await page.getByRole('heading', { name: 'What would happen' }).waitFor();
await take('import');
await page.goto('/people/sync');
await page.getByRole('button', { name: 'Sync now' }).waitFor();
await take('crm-sync');
await page.goto('/audiences');
await take('audiences');
await page.goto('/audiences/regulars-near-renewal');
await page.getByRole('button', { name: /^is Dusk or/ }).click();
await take('audience');
await page.goto('/audiences/compare?with=any-member,families-nearby,dusk-members');
await take('compare');
await page.goto('/pages/home');
await page.getByRole('button', { name: /Twilight members · / }).first().click();
await take('page-canvas');
await page.goto('/emails/monthly-almanac');
await page.getByRole('button', { name: /Twilight members · / }).first().click();
await take('email-canvas');
await page.goto('/lineup/home');
await page.getByRole('button', { name: /Renew by/ }).first().click();
await take('lineup');
// An audience changes, so that there is something to release.
const members = await (await context.request.get('/api/audiences')).json();
const midnight = members.find(({ id }) => id === 'midnight-members');
const { name, description, revision } = midnight;
const condition = { kind: 'test', attribute: 'tier', op: 'at-least', values: ['twilight'] };
await context.request.put('/api/audiences/midnight-members', { data: { name, description, condition, revision } });
await page.goto('/audiences/midnight-members');
await page.getByRole('button', { name: 'Release…' }).click();
await page.getByRole('region', { name: 'Who is affected' }).getByRole('list').first().waitFor();
await take('release');
await page.keyboard.press('Escape');
await context.request.put('/api/audiences/midnight-members', {
  data: { name, description, condition: midnight.condition, revision: revision + 1 },
});
await context.request.post('/api/sends', {
  data: { document: 'monthly-almanac', contacts: [4, 2, 3, 1], audience: null },
});
await page.goto('/collections/guides');
await page.getByRole('button', { name: 'The dome by yourself', exact: true }).click();
await take('collection');
await page.goto('/site-settings');
await page.getByRole('button', { name: 'Night' }).click();
await take('site-settings');
await page.goto('/other-sites');
await page.getByRole('button', { name: 'Check it' }).click();
await page.getByText('Everything is in its place').waitFor();
await take('other-sites');
await page.goto('/mailbox');
await page.getByRole('link', { name: /ines\.marlow/ }).first().click();
await page.frameLocator('iframe').getByRole('img').waitFor();
await page.waitForTimeout(1000);
await take('mailbox');
await context.request.post('/api/sends', {
  data: { document: 'monthly-almanac', contacts: [], audience: 'any-member' },
});
await page.goto('/activity');
await page.getByRole('progressbar').waitFor();
await take('activity');
await page.goto('/site/sign-in');
await page.getByLabel('Email address').fill('yara.addo-finch@example.org');
await page.getByLabel('Password').fill('porch-light');
await page.getByRole('button', { name: 'Sign in' }).click();
await take('live-site');

// Two faces of each page side by side.
const signedIn = async (email) => {
  const own = await browser.newContext({ baseURL: base, viewport: { width: 900, height: 520 } });
  if (email)
    await own.request.post('/site/sign-in', { form: { email, password: 'porch-light' }, maxRedirects: 0 });
  return own;
};
const [anonymous, noor] = await Promise.all([signedIn(), signedIn('noor.vale@example.org')]);
const sheets = {
  'faces-home': [
    ['Home', '/site/', anonymous, noor],
    ['Membership', '/site/membership', anonymous, noor],
    ['Sky guides', '/site/sky-guides', anonymous, noor],
    ['Shop', '/site/shop', anonymous, noor],
  ],
};
for (const [name, rows] of Object.entries(sheets)) {
  const cells = [];
  for (const [title, path, ...people] of rows) {
    cells.push(`<h2>${title}</h2>`);
    for (const person of people) {
      const visitor = await person.newPage();
      await visitor.goto(path);
      // What differs on a long page may stand further down.
      if (path === '/site/membership') await visitor.evaluate(() => scrollTo(0, document.body.scrollHeight));
      const shot = (await visitor.screenshot()).toString('base64');
      cells.push(`<img src="data:image/png;base64,${shot}">`);
      await visitor.close();
    }
  }
  const sheet = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await sheet.setContent(
    `<style>body{margin:16px;background:#f6f2e9;font:15px sans-serif;display:grid;grid-template-columns:1fr 1fr;gap:8px 12px}h2{grid-column:1/3;margin:6px 0 0;font-size:15px}img{width:100%;border-radius:6px}</style>${cells.join('')}`,
  );
  await sheet.screenshot({ path: `${folder}${name}.png`, fullPage: true });
}
await browser.close();
