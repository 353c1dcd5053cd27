import { Router } from 'express';
import { namedSchema } from '../../contract/addresses.ts';
import { installationRequestSchema, newApiKeySchema } from '../../contract/decide.ts';
import { parse } from '../http/parse.ts';
import type { Releases } from '../releases/releases.ts';
import type { ApiKeys } from './api-keys.ts';
import type { InstallationCheck } from './installation.ts';

/** The keys by which other sites and programs ask for decisions. */
export function keysRouter(apiKeys: ApiKeys): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await apiKeys.list());
  });
  router.post('/', async (request, response) => {
    response.status(201).json(await apiKeys.create(parse(newApiKeySchema, request.body)));
  });
  router.delete('/:id', async (request, response) => {
    await apiKeys.remove(parse(namedSchema, request.params).id);
    response.status(204).end();
  });
  return router;
}

/**
 * What other sites may show, and whether they do.
 *
 * @param foreignSite where the demo's other site is
 */
export function embeddingRouter(
  releases: Releases,
  installation: InstallationCheck,
  foreignSite: string | undefined,
): Router {
  const router = Router();
  router.get('/embedding', (_request, response) => {
    response.json({ foreignSite: foreignSite ?? null, slots: releases.slotKeys() });
  });
  router.post('/installation', async (request, response) => {
    response.json(await installation.check(parse(installationRequestSchema, request.body)));
  });
  return router;
}
