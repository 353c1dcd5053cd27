import type { APIRequestContext } from '@playwright/test';
import { listedCollectionsSchema } from '../../contract/collections.ts';
import { storedDocumentSchema } from '../../contract/documents.ts';
import { expect } from '../browser/studio.ts';

// Documents with every kind of block, for a trial to begin with.

export type Kind = 'page' | 'email' | 'page of items';

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
    name: 'Links',
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

/** Makes a document with all that its kind can have in it, and what that needs: shared content, a collection of items. */
export async function makeDocument(request: APIRequestContext, kind: Kind, name: string): Promise<string> {
  const slug = name.toLowerCase().replaceAll(' ', '-');
  const piece = await make(request, { kind: 'shared', name: `Shared by ${name}`, slug: `${slug}-shared` });
  await put(request, piece, { body: [heading('sh', text('Shared by many')), nested('sh')] });
  const shared = { kind: 'shared', id: 'sha', document: piece };
  const id = await make(request, { kind: kind === 'email' ? 'email' : 'page', name, slug });
  if (kind === 'email') await put(request, id, { ...emailContent, body: [...emailContent.body, shared] });
  else if (kind === 'page') await put(request, id, { body: [...pageBody, shared] });
  else {
    const { collection, field } = await makeItems(request, name, slug);
    const body = [
      heading('title', merge('item-title', 'An item')),
      ...field.map((attribute) => ({ kind: 'field', id: `of-${attribute}`.slice(0, 40), attribute })),
      ...wordsOf('i'),
      nested('i'),
      shared,
    ];
    await put(request, id, { body }, { collection });
  }
  return id;
}

/** A collection with a field of each use, and two items, one of them with nothing in it. */
async function makeItems(
  request: APIRequestContext,
  name: string,
  slug: string,
): Promise<{ collection: string; field: string[] }> {
  const answer = await request.post('/api/collections', { data: { name, slug: `${slug}-items` } });
  expect(answer.status(), await answer.text()).toBe(201);
  const { id } = await answer.json();
  const find = async () => {
    const all = listedCollectionsSchema.parse(await (await request.get('/api/collections')).json());
    const found = all.find((one) => one.id === id);
    if (!found) throw new Error('the collection is gone');
    return found;
  };
  const field = (label: string, use: string, more: object = { type: 'text' }) => ({
    attribute: { id: `new-${label}`, label, source: 'item', description: '', ...more },
    use,
  });
  const { items: _items, openToAll: _open, page: _page, id: _id, ...before } = await find();
  const fields = [
    field('length', 'value', { type: 'number' }),
    field('picture', 'picture'),
    field('story', 'long-text'),
  ];
  const kept = await request.put(`/api/collections/${id}`, { data: { ...before, fields } });
  expect(kept.ok(), await kept.text()).toBe(true);
  const [length, picture, story] = (await find()).fields.map(({ attribute }) => attribute.id);
  if (!length || !picture || !story) throw new Error('fields are missing');
  for (const [title, values] of [
    ['First of them', { [length]: 12, [picture]: 'demo-frost-lens', [story]: 'Once\n\nupon a time' }],
    ['Second of them', {}],
  ] as const) {
    const data = {
      title,
      slug: title.toLowerCase().replaceAll(' ', '-'),
      teaser: 'In short',
      values,
      access: null,
      from: null,
      until: null,
    };
    const item = await request.post(`/api/collections/${id}/items`, { data });
    expect(item.status(), await item.text()).toBe(201);
  }
  return { collection: id, field: [length, picture, story] };
}

async function make(request: APIRequestContext, data: object): Promise<string> {
  const answer = await request.post('/api/documents', { data });
  expect(answer.status(), await answer.text()).toBe(201);
  return storedDocumentSchema.parse(await answer.json()).id;
}

async function put(
  request: APIRequestContext,
  id: string,
  content: object,
  more: object = {},
): Promise<void> {
  const { revision, name } = await (await request.get(`/api/documents/${id}`)).json();
  const data = { revision, name, content: { subject: [], preview: [], ...content }, ...more };
  const answer = await request.put(`/api/documents/${id}`, { data });
  expect(answer.status(), await answer.text()).toBe(200);
}
