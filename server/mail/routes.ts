import { Router } from 'express';
import { serialSchema } from '../../contract/addresses.ts';
import { mailboxQuerySchema, sendRequestSchema } from '../../contract/mail.ts';
import { parse } from '../http/parse.ts';
import { nameOf } from '../http/who-asks.ts';
import { listMessages, rawMessage, readMessage } from '../standins/mail-server.ts';
import type { Sending } from './sending.ts';

/** Sending emails: begun here, done in the background. */
export function sendsRouter(sending: Sending): Router {
  const router = Router();
  router.post('/', async (request, response) => {
    const report = await sending.begin(parse(sendRequestSchema, request.body), nameOf(request));
    response.status(202).json(report);
  });
  router.get('/:id', async (request, response) => {
    response.json(await sending.report(parse(serialSchema, request.params).id));
  });
  return router;
}

/** What the simulated mail server received. */
export function mailboxRouter(): Router {
  const router = Router();
  router.get('/', async (request, response) => {
    const { search } = parse(mailboxQuerySchema, request.query);
    response.json(await listMessages(search));
  });
  router.get('/:id', async (request, response) => {
    response.json(await readMessage(parse(serialSchema, request.params).id));
  });
  router.get('/:id/message.eml', async (request, response) => {
    const { id } = parse(serialSchema, request.params);
    const raw = await rawMessage(id);
    response.set({
      'Content-Type': 'message/rfc822',
      'Content-Disposition': `attachment; filename="message-${id}.eml"`,
    });
    response.send(raw);
  });
  return router;
}
