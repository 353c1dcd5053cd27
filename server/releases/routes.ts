import { Router } from 'express';
import { serialSchema } from '../../contract/addresses.ts';
import { releaseRequestSchema } from '../../contract/releases.ts';
import { settingsChangeSchema } from '../../contract/settings.ts';
import { parse } from '../http/parse.ts';
import { nameOf } from '../http/who-asks.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import type { Impacts } from './impacts.ts';
import type { Releases } from './releases.ts';
import type { Settings } from './settings.ts';

/** What is live, was, and would be. */
export function releasesRouter(releases: Releases, impacts: Impacts): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await releases.list());
  });
  router.get('/impact', async (request, response) => {
    const answer = await impacts.ofDrafts(nameOf(request));
    response.status('job' in answer ? 202 : 200).json(answer);
  });
  router.get('/:id/impact', async (request, response) => {
    const { id } = parse(serialSchema, request.params);
    const answer = await impacts.ofGoingBack(id, nameOf(request));
    response.status('job' in answer ? 202 : 200).json(answer);
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
