import express, { Router } from 'express';
import { namedSchema } from '../../contract/addresses.ts';
import {
  castRequestSchema,
  documentChangeSchema,
  htmlPageSchema,
  listQuerySchema,
  newDocumentSchema,
  uploadQuerySchema,
} from '../../contract/documents.ts';
import { fileReplacementSchema } from '../../contract/files.ts';
import { type Viewer, viewerSchema } from '../../core/attributes/viewer.ts';
import { parse } from '../http/parse.ts';
import type { Documents } from './documents.ts';
import type { FileLibrary } from './file-library.ts';
import { largestFile, readFile, storeFile } from './files.ts';
import type { Presence } from './presence-rows.ts';

/**
 * Pages, emails and shared content, with who has them open.
 *
 * @param exportFace one face of a document as a file
 */
export function documentsRouter(
  documents: Documents,
  presence: Presence,
  exportFace: (id: string, viewer: Viewer) => Promise<{ html: string; name: string }>,
): Router {
  const router = Router();
  router.get('/', async (request, response) => {
    const { ids } = parse(listQuerySchema, request.query);
    response.json(await documents.list(ids?.split(',')));
  });
  router.post('/', async (request, response) => {
    response.status(201).json(await documents.create(parse(newDocumentSchema, request.body)));
  });
  router.get('/shared', async (_request, response) => {
    response.json(await documents.shared());
  });
  router.post('/from-html', async (request, response) => {
    response.status(201).json(await documents.fromHtml(parse(htmlPageSchema, request.body)));
  });
  router.post('/:id/face.html', async (request, response) => {
    const { id } = parse(namedSchema, request.params);
    const viewer = parse(viewerSchema, request.body);
    const { html, name } = await exportFace(id, viewer);
    response.type('html').attachment(name).send(html);
  });
  router.post('/cast', async (request, response) => {
    const { content, kind, instant } = parse(castRequestSchema, request.body);
    response.json(await documents.cast(content, kind, instant ?? Date.now()));
  });
  router.get('/:id', async (request, response) => {
    response.json(await documents.get(parse(namedSchema, request.params).id));
  });
  router.put('/:id', async (request, response) => {
    const { id } = parse(namedSchema, request.params);
    response.json(await documents.change(id, parse(documentChangeSchema, request.body)));
  });
  router.post('/:id/here', async (request, response) => {
    const { id } = parse(namedSchema, request.params);
    const { account } = request.session;
    response.json({ others: account ? await presence.here(id, account) : [] });
  });
  router.delete('/:id/here', async (request, response) => {
    const { account } = request.session;
    if (account) await presence.gone(parse(namedSchema, request.params).id, account.id);
    response.status(204).end();
  });
  router.post('/:id/duplicate', async (request, response) => {
    response.status(201).json(await documents.duplicate(parse(namedSchema, request.params).id));
  });
  router.delete('/:id', async (request, response) => {
    await documents.remove(parse(namedSchema, request.params).id);
    response.status(204).end();
  });
  return router;
}

/** Pictures and videos that were brought in. */
export function filesRouter(library: FileLibrary): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await library.list());
  });
  router.post('/:id/replacement', async (request, response) => {
    const { by } = parse(fileReplacementSchema, request.body);
    response.json(await library.replace(parse(namedSchema, request.params).id, by));
  });
  // The body is the file itself.
  router.post(
    '/',
    express.raw({ type: 'application/octet-stream', limit: largestFile }),
    async (request, response) => {
      const { name } = parse(uploadQuerySchema, request.query);
      const bytes = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0);
      response.status(201).json(await storeFile(name, bytes));
    },
  );
  router.get('/:id', async (request, response) => {
    const file = await readFile(parse(namedSchema, request.params).id);
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
