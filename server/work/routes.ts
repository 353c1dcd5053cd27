import { Router } from 'express';
import { serialSchema } from '../../contract/addresses.ts';
import { parse } from '../http/parse.ts';
import type { JobQueue } from './queue.ts';

/** Background jobs: list, stop, run again. */
export function jobsRouter(queue: JobQueue): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await queue.list());
  });
  router.post('/:id/stop', async (request, response) => {
    await queue.askToStop(parse(serialSchema, request.params).id);
    response.status(202).end();
  });
  router.post('/:id/again', async (request, response) => {
    await queue.runAgain(parse(serialSchema, request.params).id);
    response.status(202).end();
  });
  return router;
}
