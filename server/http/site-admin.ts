import express, { Router } from 'express';
import { z } from 'zod';
import {
  collectionChangeSchema,
  itemChangeSchema,
  itemDraftSchema,
  itemExportKinds,
  itemImportSchema,
  itemOrderSchema,
  newCollectionSchema,
} from '../../contract/collections.ts';
import { installationRequestSchema, newApiKeySchema } from '../../contract/decide.ts';
import { settingsChangeSchema } from '../../contract/settings.ts';
import { largestFile, readFile, storeFile } from '../services/files.ts';
import { named, parse } from './parse.ts';
import type { Services } from './services.ts';

/** Collections, items, files, settings and keys. */
export function siteAdminRouter(services: Services): Router {
  const router = Router();
  router.use('/collections', collectionsRouter(services));
  router.use('/items', itemsRouter(services));
  router.use('/files', filesRouter());
  router.use('/api-keys', keysRouter(services));
  router.get('/settings', async (_request, response) => {
    response.json((await services.drafts.snapshot()).settings);
  });
  router.get('/library', async (_request, response) => {
    const { collections = [], items = [] } = await services.drafts.snapshot();
    response.json({ collections, items, views: Object.fromEntries(services.views) });
  });
  router.put('/settings', async (request, response) => {
    const { before, settings } = parse(settingsChangeSchema, request.body);
    response.json(await services.settings.change(before, settings));
  });
  router.post('/installation', async (request, response) => {
    response.json(await services.installation.check(parse(installationRequestSchema, request.body)));
  });
  router.get('/embedding', (_request, response) => {
    response.json({
      foreignSite: services.foreignSite ?? null,
      slots: services.releases.slotKeys(),
    });
  });
  return router;
}

function collectionsRouter({ collections }: Services): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await collections.list());
  });
  router.post('/', async (request, response) => {
    response.status(201).json(await collections.create(parse(newCollectionSchema, request.body)));
  });
  router.put('/:id', async (request, response) => {
    const { id } = parse(named, request.params);
    await collections.change(id, parse(collectionChangeSchema, request.body));
    response.status(204).end();
  });
  router.delete('/:id', async (request, response) => {
    await collections.remove(parse(named, request.params).id);
    response.status(204).end();
  });
  router.get('/:id/items', async (request, response) => {
    response.json(await collections.items(parse(named, request.params).id));
  });
  router.post('/:id/items', async (request, response) => {
    const { id } = parse(named, request.params);
    response.status(201).json(await collections.addItem(id, parse(itemDraftSchema, request.body)));
  });
  router.put('/:id/order', async (request, response) => {
    const { id } = parse(named, request.params);
    await collections.order(id, parse(itemOrderSchema, request.body).ids);
    response.status(204).end();
  });
  router.get('/:id/export/:kind', async (request, response) => {
    const { id, kind } = parse(named.extend({ kind: z.enum(itemExportKinds) }), request.params);
    const { text, name } = await collections.export(id, kind);
    response
      .type(kind === 'csv' ? 'text/csv' : 'application/json')
      .attachment(name)
      .send(text);
  });
  router.post('/:id/import', async (request, response) => {
    const { id } = parse(named, request.params);
    response.json(await collections.import(id, parse(itemImportSchema, request.body)));
  });
  return router;
}

function itemsRouter({ collections }: Services): Router {
  const router = Router();
  router.put('/:id', async (request, response) => {
    const { id } = parse(named, request.params);
    response.json(await collections.changeItem(id, parse(itemChangeSchema, request.body)));
  });
  router.delete('/:id', async (request, response) => {
    await collections.removeItem(parse(named, request.params).id);
    response.status(204).end();
  });
  return router;
}

function filesRouter(): Router {
  const router = Router();
  // The body is the file itself.
  router.post(
    '/',
    express.raw({ type: 'application/octet-stream', limit: largestFile }),
    async (request, response) => {
      const { name } = parse(z.object({ name: z.string().min(1).max(255) }), request.query);
      const bytes = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0);
      response.status(201).json(await storeFile(name, bytes));
    },
  );
  router.get('/:id', async (request, response) => {
    const file = await readFile(parse(named, request.params).id);
    response
      .set({
        'Content-Security-Policy': "default-src 'none'; style-src 'unsafe-inline'; sandbox",
        'Cache-Control': 'private, max-age=31536000, immutable',
      })
      .type(file.type)
      .send(file.bytes);
  });
  return router;
}

function keysRouter({ apiKeys }: Services): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await apiKeys.list());
  });
  router.post('/', async (request, response) => {
    response.status(201).json(await apiKeys.create(parse(newApiKeySchema, request.body)));
  });
  router.delete('/:id', async (request, response) => {
    await apiKeys.remove(parse(named, request.params).id);
    response.status(204).end();
  });
  return router;
}
