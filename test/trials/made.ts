import type { APIRequestContext } from '@playwright/test';
import { z } from 'zod';
import { listedAudienceSchema } from '../../contract/audiences.ts';
import { librarySchema } from '../../contract/collections.ts';
import { listedDocumentSchema, storedDocumentSchema } from '../../contract/documents.ts';
import { attributesSchema } from '../../contract/people.ts';
import { settingsSchema } from '../../contract/releases.ts';
import { itemAttributes } from '../../core/collections/collection.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { piecesOf, withShared } from '../../core/documents/shared.ts';
import { CompiledSnapshot } from '../../core/rendering/compiled.ts';
import { expect } from '../browser/studio.ts';
import type { Kind } from './canvas-content.ts';
import type { Looking, Made } from './canvas-words.ts';

/** The viewer to the minute. */
export function whoIs({ contact, signedIn, visit, item, instant }: Looking): string {
  return JSON.stringify([contact, signedIn, visit, item, Math.floor(instant / 60_000)]);
}

/** The last rendering, with the document and viewer it was made for. Most steps change neither, so it is used again. */
let last: { of: string; made: Made } | undefined;

/** What the server makes for a viewer of a document as it is stored. */
export async function madeOf(
  request: APIRequestContext,
  id: string,
  kind: Kind,
  viewer: Looking,
): Promise<Made> {
  const stored = await (await request.get(`/api/documents/${id}`)).text();
  const of = `${stored} ${whoIs(viewer)}`;
  if (last?.of === of) return last.made;
  // A page may begin to show items, and end it, while it is worked on.
  const { collection } = storedDocumentSchema.parse(JSON.parse(stored));
  const now: Kind = kind === 'email' ? kind : collection ? 'page of items' : 'page';
  last = { of, made: await makers[now](request, id, viewer) };
  return last.made;
}

type Maker = (request: APIRequestContext, id: string, viewer: Looking) => Promise<Made>;

const base = new URL(process.env.BASE_URL ?? 'http://127.0.0.1:4310').origin;

const makers: { [Of in Kind]: Maker } = {
  async page(request, id, viewer) {
    const answer = await request.post(`/api/documents/${id}/face.html`, { data: { ...viewer, item: null } });
    expect(answer.status(), await answer.text()).toBe(200);
    return { html: await answer.text(), text: '' };
  },

  /** The message as it would be sent, rendered from the stored document. */
  async email(request, id, viewer) {
    const site = new CompiledSnapshot(await drafts(request, id), base);
    const reader = { ...viewer, signedIn: false, item: null };
    const { text } = site.emails.compose(id, reader, `${base}/site/unsubscribe`);
    // On the canvas nobody can be unsubscribed.
    const { html } = site.emails.compose(id, reader, '#');
    // The line that stands hidden before the body is read in the list of messages only.
    return { html: html.replace(/<div style="display: none.*?<\/div>/s, ''), text };
  },

  /** What stands at the address of the item that is shown. Whoever may not open it sees it on the canvas all the same. */
  async 'page of items'(request, id, viewer) {
    const all = await drafts(request, id);
    const shown = all.items?.find((item) => item.id === viewer.item);
    const collection = all.collections?.find((one) => one.id === shown?.collection);
    if (!shown || !collection) throw new Error('no item is shown');
    const { views } = await get(request, 'library', librarySchema);
    const open: Snapshot = {
      ...all,
      documents: all.documents.map((one) => (one.id === id ? { ...one, access: null } : one)),
      collections: all.collections?.map((one) => ({ ...one, access: null })) ?? [],
      items:
        all.items?.map((one) =>
          one.id === shown.id ? { ...one, access: null, from: null, until: null } : one,
        ) ?? [],
    };
    const site = new CompiledSnapshot(open, base, { views: new Map(Object.entries(views)) });
    const answer = site.pages.item(`${collection.slug}/${shown.slug}`, { ...viewer, item: null });
    if (answer.kind !== 'page') throw new Error(`the item is answered with ${answer.kind}`);
    return { html: answer.html, text: '' };
  },
};

async function get<Output>(
  request: APIRequestContext,
  path: string,
  schema: z.ZodType<Output>,
): Promise<Output> {
  return schema.parse(await (await request.get(`/api/${path}`)).json());
}

/** The drafts, of other documents only what the menu says of them. */
async function drafts(request: APIRequestContext, id: string): Promise<Snapshot> {
  const [settings, attributes, audiences, listed, { collections, items }, pieces, document] =
    await Promise.all([
      get(request, 'settings', settingsSchema),
      get(request, 'attributes', attributesSchema),
      get(request, 'audiences', z.array(listedAudienceSchema)),
      get(request, 'documents', z.array(listedDocumentSchema)),
      get(request, 'library', librarySchema),
      get(request, 'documents/shared', z.array(storedDocumentSchema)),
      get(request, `documents/${id}`, storedDocumentSchema),
    ]);
  const known = new Set(attributes.map((attribute) => attribute.id));
  const content = withShared(document.content, piecesOf(pieces));
  return {
    settings,
    attributes: [...attributes, ...itemAttributes(collections).filter((field) => !known.has(field.id))],
    audiences,
    documents: [
      ...listed
        .filter((one) => one.id !== id && one.kind === 'page')
        .map((one) => ({ ...one, content: { subject: [], preview: [], body: [] } })),
      { ...document, content },
    ],
    collections,
    items,
  };
}
