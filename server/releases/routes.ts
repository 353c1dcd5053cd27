import { Router } from 'express';
import { serialSchema } from '../../contract/addresses.ts';
import { releaseRequestSchema } from '../../contract/releases.ts';
import { settingsChangeSchema } from '../../contract/settings.ts';
import { parse } from '../http/parse.ts';
import { nameOf } from '../http/who-asks.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import type { Releases } from './releases.ts';
import type { Settings } from './settings.ts';

/** What is live, was, and would be. */
export function releasesRouter(releases: Releases): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await releases.list());
  });
  router.get('/impact', async (_request, response) => {
    response.json(await releases.impact(Date.now()));
  });
  router.get('/:id/impact', async (request, response) => {
    response.json(await releases.impactOfGoingBack(parse(serialSchema, request.params).id, Date.now()));
  });
  router.get('/pending', async (_request, response) => {
    response.json(await releases.pending());
  });
  router.post('/', async (request, response) => {
    const asked = parse(releaseRequestSchema, request.body);
    response.status(201).json(await releases.release(asked, nameOf(request)));
  });
  router.post('/:id/live', async (request, response) => {
    response.json(await releases.goBackTo(parse(serialSchema, request.params).id));
  });
  return router;
}

/** What holds for the whole site. */
export function settingsRouter(settings: Settings, drafts: Drafts): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json((await drafts.snapshot()).settings);
  });
  router.put('/', async (request, response) => {
    const { before, settings: now } = parse(settingsChangeSchema, request.body);
    response.json(await settings.change(before, now));
  });
  return router;
}
