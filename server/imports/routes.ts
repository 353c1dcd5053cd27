import { pipeline } from 'node:stream/promises';
import { Router } from 'express';
import { serialSchema } from '../../contract/addresses.ts';
import { bulkRequestSchema, uploadQuerySchema } from '../../contract/imports.ts';
import { importPlanSchema } from '../../core/exchange/plan.ts';
import { parse } from '../http/parse.ts';
import { nameOf } from '../http/who-asks.ts';
import type { BulkChanges } from './bulk-changes.ts';
import type { Imports } from './imports.ts';

/** Bringing people in from files, each tried before it is done. */
export function importsRouter(imports: Imports): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await imports.list());
  });
  // The body is the file itself.
  router.post('/', async (request, response) => {
    const { name } = parse(uploadQuerySchema, request.query);
    response.status(201).json(await imports.upload(name, request, nameOf(request)));
  });
  router.get('/:id', async (request, response) => {
    response.json(await imports.get(parse(serialSchema, request.params).id));
  });
  router.delete('/:id', async (request, response) => {
    await imports.remove(parse(serialSchema, request.params).id);
    response.status(204).end();
  });
  router.put('/:id/plan', async (request, response) => {
    const { id } = parse(serialSchema, request.params);
    response.json(await imports.plan(id, parse(importPlanSchema, request.body), nameOf(request)));
  });
  router.post('/:id/again', async (request, response) => {
    response.json(await imports.again(parse(serialSchema, request.params).id, nameOf(request)));
  });
  router.post('/:id/run', async (request, response) => {
    response.status(202).json(await imports.run(parse(serialSchema, request.params).id, nameOf(request)));
  });
  router.post('/:id/cancel', async (request, response) => {
    response.json(await imports.cancel(parse(serialSchema, request.params).id));
  });
  router.post('/:id/undo', async (request, response) => {
    response.status(202).json(await imports.undo(parse(serialSchema, request.params).id, nameOf(request)));
  });
  router.get('/:id/left-out.csv', async (request, response) => {
    const { file, name } = await imports.rejectedFile(parse(serialSchema, request.params).id);
    response.type('text/csv').attachment(name);
    await pipeline(file, response);
  });
  return router;
}

/** Changes of many contacts at once, which are tried, done and taken back as imports are. */
export function bulkChangesRouter(bulkChanges: BulkChanges): Router {
  const router = Router();
  router.post('/', async (request, response) => {
    const asked = parse(bulkRequestSchema, request.body);
    response.status(201).json(await bulkChanges.try(asked, nameOf(request)));
  });
  return router;
}
