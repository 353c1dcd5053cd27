import { Router } from 'express';
import { namedSchema } from '../../contract/addresses.ts';
import {
  archiveRequestSchema,
  audienceChangeSchema,
  audienceDraftSchema,
  compareRequestSchema,
  countRequestSchema,
  countsRequestSchema,
  ownerRequestSchema,
} from '../../contract/audiences.ts';
import { parse } from '../http/parse.ts';
import { nameOf } from '../http/who-asks.ts';
import type { AudienceCounts } from './audience-counts.ts';
import type { Audiences } from './audiences.ts';

/** Audiences, and counts of conditions that are none yet. */
export function audiencesRouter(audiences: Audiences, counts: AudienceCounts): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await audiences.list());
  });
  router.post('/', async (request, response) => {
    response
      .status(201)
      .json(await audiences.create(parse(audienceDraftSchema, request.body), nameOf(request)));
  });
  router.post('/count', async (request, response) => {
    const { condition, audience } = parse(countRequestSchema, request.body);
    response.json(await counts.count(condition, audience));
  });
  router.post('/over-time', async (request, response) => {
    const { condition, audience } = parse(countRequestSchema, request.body);
    response.json(await counts.overTime(condition, audience));
  });
  router.post('/:id/archive', async (request, response) => {
    const { id } = parse(namedSchema, request.params);
    response.json(await audiences.archive(id, parse(archiveRequestSchema, request.body).archived));
  });
  router.post('/:id/owner', async (request, response) => {
    const { id } = parse(namedSchema, request.params);
    response.json(await audiences.giveTo(id, parse(ownerRequestSchema, request.body).ownerName));
  });
  router.get('/:id/versions', async (request, response) => {
    response.json(await audiences.versions(parse(namedSchema, request.params).id));
  });
  router.post('/compare', async (request, response) => {
    response.json(await counts.compare(parse(compareRequestSchema, request.body).audiences));
  });
  router.post('/counts', async (request, response) => {
    const { conditions, channel } = parse(countsRequestSchema, request.body);
    response.json(await counts.counts(conditions, channel));
  });
  router.put('/:id', async (request, response) => {
    const { id } = parse(namedSchema, request.params);
    response.json(await audiences.change(id, parse(audienceChangeSchema, request.body), nameOf(request)));
  });
  router.delete('/:id', async (request, response) => {
    await audiences.remove(parse(namedSchema, request.params).id);
    response.status(204).end();
  });
  return router;
}
