import { Router } from 'express';
import { namedSchema } from '../../contract/addresses.ts';
import {
  collectionChangeSchema,
  itemChangeSchema,
  itemDraftSchema,
  itemExportSchema,
  itemImportSchema,
  itemOrderSchema,
  newCollectionSchema,
} from '../../contract/collections.ts';
import { parse } from '../http/parse.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import type { Collections } from './collections.ts';
import type { Items } from './items.ts';

/** Collections with their items. */
export function collectionsRouter(collections: Collections, items: Items): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await collections.list());
  });
  router.post('/', async (request, response) => {
    response.status(201).json(await collections.create(parse(newCollectionSchema, request.body)));
  });
  router.put('/:id', async (request, response) => {
    const { id } = parse(namedSchema, request.params);
    await collections.change(id, parse(collectionChangeSchema, request.body));
    response.status(204).end();
  });
  router.delete('/:id', async (request, response) => {
    await collections.remove(parse(namedSchema, request.params).id);
    response.status(204).end();
  });
  router.get('/:id/items', async (request, response) => {
    response.json(await items.of(parse(namedSchema, request.params).id));
  });
  router.post('/:id/items', async (request, response) => {
    const { id } = parse(namedSchema, request.params);
    response.status(201).json(await items.add(id, parse(itemDraftSchema, request.body)));
  });
  router.put('/:id/order', async (request, response) => {
    const { id } = parse(namedSchema, request.params);
    await items.order(id, parse(itemOrderSchema, request.body).ids);
    response.status(204).end();
  });
  router.get('/:id/export/:kind', async (request, response) => {
    const { id, kind } = parse(itemExportSchema, request.params);
    const { text, name } = await items.export(id, kind);
    response
      .type(kind === 'csv' ? 'text/csv' : 'application/json')
      .attachment(name)
      .send(text);
  });
  router.post('/:id/import', async (request, response) => {
    const { id } = parse(namedSchema, request.params);
    response.json(await items.import(id, parse(itemImportSchema, request.body)));
  });
  return router;
}

/** Single items, whichever collection they are in. */
export function itemsRouter(items: Items): Router {
  const router = Router();
  router.put('/:id', async (request, response) => {
    const { id } = parse(namedSchema, request.params);
    response.json(await items.change(id, parse(itemChangeSchema, request.body)));
  });
  router.delete('/:id', async (request, response) => {
    await items.remove(parse(namedSchema, request.params).id);
    response.status(204).end();
  });
  return router;
}

/**
 * Everything of all collections as it is drafted.
 *
 * @param views how often each item was opened
 */
export function libraryRouter(drafts: Drafts, views: ReadonlyMap<string, number>): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    const { collections = [], items = [] } = await drafts.snapshot();
    response.json({ collections, items, views: Object.fromEntries(views) });
  });
  return router;
}
