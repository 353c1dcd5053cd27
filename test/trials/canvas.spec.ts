import type { APIRequestContext, Page } from '@playwright/test';
import { z } from 'zod';
import { listedAudienceSchema } from '../../contract/audiences.ts';
import { storedDocumentSchema } from '../../contract/documents.ts';
import { attributesSchema } from '../../contract/people.ts';
import { settingsSchema } from '../../contract/releases.ts';
import { CompiledSnapshot } from '../../core/rendering/compiled.ts';
import { expect, test } from '../browser/studio.ts';
import { differenceOn, type Looking, lookingNow, type Made } from './canvas-words.ts';
import { RandomUser } from './random-user.ts';

// Somebody who presses, drags and writes whatever the canvas offers, on every kind of block. After each step what is on
// the canvas is what the server makes of what is stored, for whoever is looked as; and undoing everything leads back to
// where it began. A seed stands for one sequence: SEEDS says how many there are, FIRST_SEED where they begin.

const seeds = Number(process.env.SEEDS ?? 6);
const firstSeed = Number(process.env.FIRST_SEED ?? 1);
const actions = Number(process.env.ACTIONS ?? 200);
const run = Date.now().toString(36);

const zones = {
  outline: 'nav[aria-label="Blocks"]',
  canvas: '[aria-label="Canvas"]',
  panel: '#selection',
  head: 'div:has(> [aria-label^="Name of the"]), div:has(> span > [aria-label^="Undo"])',
  viewer: '[aria-label="Looking as"]',
};
const weights = { outline: 14, canvas: 22, panel: 40, head: 5, viewer: 5, keys: 10, drag: 4 };
/** Sends mail, saves a file, or chooses a file. */
const avoid = /^(Send to…|This face as one HTML file|Choose a file|Upload)/;

/** What may be refused rightly: an address or a collection that another page has. */
const rightlyRefused = /another page|already|taken/;

for (let seed = firstSeed; seed < firstSeed + seeds; seed++) {
  const kind = seed % 3 === 0 ? 'email' : 'page';
  test(`whatever is done to ${kind === 'page' ? 'a page' : 'an email'} is shown, stored and undone: ${seed}`, async ({
    studio: page,
  }) => {
    test.setTimeout(600_000);
    const id = await made(page.request, kind, seed);
    await page.goto(`/${kind}s/${id}`);
    await expect(page.getByRole('region', { name: 'Canvas' }).locator('[data-block]').first()).toBeVisible();
    const start = await stored(page.request, id);
    const user = new RandomUser(page, seed, zones, weights, avoid);
    const done: string[] = [];
    for (let step = 1; step <= actions; step++) {
      done.push(`${step} ${await user.act()}`);
      const difference = await differenceNow(page, id, kind);
      expect(
        difference,
        `seed ${seed}, after\n${done.slice(-Number(process.env.TOLD ?? 12)).join('\n')}`,
      ).toBeUndefined();
    }
    for (let escapes = 0; escapes < 3; escapes++) await page.keyboard.press('Escape');
    const undo = page.getByRole('button', { name: 'Undo (Ctrl Z)' });
    while (await undo.isEnabled()) await undo.click();
    await store(page);
    expect(await stored(page.request, id), `seed ${seed}, all undone`).toEqual(start);
    expect(await differenceNow(page, id, kind), `seed ${seed}, all undone`).toBeUndefined();
  });
}

/** What is stored, but for what changes with each save. */
async function stored(request: APIRequestContext, id: string) {
  const {
    revision: _revision,
    updatedAt: _updatedAt,
    ...rest
  } = storedDocumentSchema.parse(await (await request.get(`/api/documents/${id}`)).json());
  return rest;
}

/** Stores what is on screen; what the screen says of it. */
async function store(page: Page): Promise<string> {
  await page.keyboard.press('Control+s');
  const line = page.locator('[role=status]').filter({ hasText: /^(saved |not saved)/ });
  await line.first().waitFor({ timeout: 10_000 });
  return (await line.first().textContent()) ?? '';
}

/** How canvas and server differ; undefined where they don't. */
async function differenceNow(page: Page, id: string, kind: 'page' | 'email'): Promise<string | undefined> {
  const said = await store(page);
  if (said.startsWith('not saved')) {
    // The notice alone: what else stands in the panel are words of the page.
    const why = (await page.locator('#selection > div').first().textContent()) ?? '';
    if (!rightlyRefused.test(why)) return `${said}: ${why.slice(0, 300)}`;
    await page.getByRole('button', { name: 'Undo (Ctrl Z)' }).click();
    return differenceNow(page, id, kind);
  }
  const viewer = await page.evaluate(lookingNow);
  const difference = await page.evaluate(differenceOn, await madeOf(page.request, id, kind, viewer));
  // Somebody else may have come to be looked as meanwhile.
  const isSame = whoIs(viewer) === whoIs(await page.evaluate(lookingNow));
  return difference === undefined || isSame ? difference : differenceNow(page, id, kind);
}

/** The viewer to the minute. */
function whoIs({ contact, signedIn, visit, instant }: Looking): string {
  return JSON.stringify([contact, signedIn, visit, Math.floor(instant / 60_000)]);
}

/** What the server made last, and of what for whom: most steps change neither. */
let last: { of: string; made: Made } | undefined;

async function madeOf(
  request: APIRequestContext,
  id: string,
  kind: 'page' | 'email',
  viewer: Looking,
): Promise<Made> {
  const of = `${await (await request.get(`/api/documents/${id}`)).text()} ${whoIs(viewer)}`;
  if (last?.of !== of)
    last = {
      of,
      made: kind === 'page' ? await pageOf(request, id, viewer) : await emailOf(request, id, viewer),
    };
  return last.made;
}

/** What the server makes of a page that is drafted. */
async function pageOf(request: APIRequestContext, id: string, viewer: Looking): Promise<Made> {
  const answer = await request.post(`/api/documents/${id}/face.html`, { data: viewer });
  expect(answer.status(), await answer.text()).toBe(200);
  return { html: await answer.text(), text: '' };
}

/** What is sent of an email that is drafted: made of what is stored as when it is sent. */
async function emailOf(request: APIRequestContext, id: string, viewer: Looking): Promise<Made> {
  const get = async <Output>(path: string, schema: z.ZodType<Output>): Promise<Output> =>
    schema.parse(await (await request.get(`/api/${path}`)).json());
  const base = new URL(process.env.BASE_URL ?? 'http://127.0.0.1:4310').origin;
  const document = await get(`documents/${id}`, storedDocumentSchema);
  const snapshot = {
    settings: await get('settings', settingsSchema),
    attributes: await get('attributes', attributesSchema),
    audiences: await get('audiences', z.array(listedAudienceSchema)),
    documents: [document],
  };
  const { html, text } = new CompiledSnapshot(snapshot, base).email(
    id,
    { ...viewer, signedIn: false },
    `${base}/site/unsubscribe`,
  );
  // The line that stands hidden before the body is read in the list of messages only.
  return { html: html.replace(/<div style="display: none.*?<\/div>/s, ''), text };
}

async function made(request: APIRequestContext, kind: 'page' | 'email', seed: number): Promise<string> {
  const name = `Trial ${seed} ${run}${test.info().retry}`;
  const slug = name.toLowerCase().replaceAll(' ', '-');
  const answer = await request.post('/api/documents', { data: { kind, name, slug } });
  expect(answer.status()).toBe(201);
  const { id, revision } = await answer.json();
  const content = kind === 'page' ? { subject: [], preview: [], body: pageBody } : emailContent;
  const kept = await request.put(`/api/documents/${id}`, { data: { revision, name, content } });
  expect(kept.status(), await kept.text()).toBe(200);
  return id;
}

const text = (words: string, marks?: 'bold' | 'italic') => ({
  type: 'text',
  text: words,
  ...(marks && { marks: [{ type: marks }] }),
});
const paragraph = (...content: object[]) => ({ type: 'paragraph', content });
const merge = (attribute: string, fallback: string) => ({
  type: 'mergeField',
  attrs: { attribute, fallback },
});
const differing = (id: string, audience: string, words: string, otherwise: string) => ({
  type: 'alternatives',
  attrs: { id, name: 'Words', variants: [{ id: `${id}-v`, audience, words }], otherwise },
});
const heading = (id: string, ...content: object[]) => ({ kind: 'heading', id, level: 2, content });
const line = (id: string, ...content: object[]) => ({ kind: 'line', id, content });
const slot = (id: string, variants: [string, object[]][], otherwise: object[]) => ({
  kind: 'slot',
  id,
  name: `Slot ${id}`,
  variants: variants.map(([audience, content], index) => ({ id: `${id}-${index}`, audience, content })),
  otherwise,
});
const wordsOf = (prefix: string) => [
  heading(`${prefix}h`, text('Good evening '), merge('first-name', 'stargazer')),
  {
    kind: 'text',
    id: `${prefix}t`,
    content: [
      paragraph(text('Come '), text('and look', 'bold'), text(' up, '), merge('city', 'wherever you are')),
      {
        type: 'bulletList',
        content: ['one', 'two'].map((one) => ({ type: 'listItem', content: [paragraph(text(one))] })),
      },
      paragraph(differing(`${prefix}d`, 'midnight-members', 'Midnight', 'Daylight'), text(' words')),
    ],
  },
  { kind: 'button', id: `${prefix}b`, label: [text('Join')], address: '/site/membership' },
  { kind: 'picture', id: `${prefix}p`, picture: 'moon', alt: 'The moon' },
  { kind: 'quotation', id: `${prefix}q`, content: [text('It was dark')], by: 'Somebody' },
];
const nested = (prefix: string) =>
  slot(
    `${prefix}s`,
    [
      ['midnight-members', [heading(`${prefix}sa`, text('For Midnight'))]],
      [
        'any-member',
        [
          heading(`${prefix}sb`, text('Signed in')),
          slot(`${prefix}n`, [['dusk-members', [heading(`${prefix}na`, text('Dusk'))]]], []),
        ],
      ],
    ],
    [heading(`${prefix}so`, text('Everybody else'))],
  );
const pageBody = [
  ...wordsOf('p'),
  {
    kind: 'section',
    id: 'sec',
    name: 'A section',
    tone: 'panel',
    layout: 'row',
    children: [heading('in', text('Inside'))],
  },
  nested('p'),
  { kind: 'divider', id: 'div' },
  { kind: 'spacer', id: 'spa', size: 'small' },
  {
    kind: 'links',
    id: 'lin',
    name: 'Ways on',
    look: 'list',
    children: [{ kind: 'link', id: 'li1', label: [text('Home')], address: '/site/' }],
  },
  {
    kind: 'list',
    id: 'lis',
    collection: 'guides',
    where: null,
    sort: 'order',
    down: false,
    most: 3,
    layout: 'cards',
    empty: 'None left',
  },
  {
    kind: 'form',
    id: 'for',
    fields: [{ attribute: 'email', label: 'Your address', required: true }],
    submit: 'Send',
    next: '',
  },
  { kind: 'account', id: 'acc' },
  {
    kind: 'notice',
    id: 'not',
    signedOut: 'Sign in first',
    signedIn: 'For members',
    address: '/site/membership',
  },
  { kind: 'countdown', id: 'cou', until: '2027-01-01T00:00', label: 'Until then', over: 'Over' },
  { kind: 'html', id: 'htm', html: '<p>From <em>elsewhere</em></p>' },
];
const emailContent = {
  subject: [line('subject', text('Tonight, '), merge('first-name', 'stargazer'))],
  preview: [line('preview', text('A short look up'))],
  body: [...wordsOf('e'), nested('e'), { kind: 'divider', id: 'div' }],
};
