import { pipeline } from 'node:stream/promises';
import { Router } from 'express';
import { namedSchema, serialSchema } from '../../contract/addresses.ts';
import {
  attributeChangeSchema,
  attributeOrderSchema,
  choiceMergeSchema,
  conversionRequestSchema,
  newAttributeSchema,
} from '../../contract/attributes.ts';
import { factChangeSchema, factDraftSchema } from '../../contract/facts.ts';
import {
  contactChangeSchema,
  contactQuerySchema,
  exportQuerySchema,
  exportRequestSchema,
  mergeRequestSchema,
  newContactSchema,
  type Reading,
} from '../../contract/people.ts';
import { parse } from '../http/parse.ts';
import { nameOf } from '../http/who-asks.ts';
import { notFound } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import type { Attributes } from './attributes.ts';
import type { ContactEdits } from './contact-edits.ts';
import type { Contacts } from './contacts.ts';
import { type Exports, exportTypes } from './exports.ts';
import type { StatedFacts } from './facts.ts';
import { forgetSetAside, setAsideCounts } from './rows.ts';
import { type ItemsNamed, setAside } from './set-aside.ts';

/** What is known of contacts: attributes, their choices, and what is really stored. */
export function attributesRouter(
  attributes: Attributes,
  contacts: Contacts,
  drafts: Drafts,
  itemsNamed: ItemsNamed,
): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json((await drafts.decider()).catalogue.attributes);
  });
  router.post('/', async (request, response) => {
    response.status(201).json(await attributes.create(parse(newAttributeSchema, request.body).attribute));
  });
  router.get('/:id/set-aside', async (request, response) => {
    const attribute = (await drafts.decider()).catalogue.get(parse(namedSchema, request.params).id);
    if (!attribute) throw notFound('attribute');
    response.json(await setAside(attribute, itemsNamed));
  });
  router.delete('/:id/set-aside', async (request, response) => {
    await forgetSetAside(parse(namedSchema, request.params).id);
    response.status(204).end();
  });
  router.put('/', async (request, response) => {
    await attributes.order(parse(attributeOrderSchema, request.body).ids);
    response.status(204).end();
  });
  router.put('/:id', async (request, response) => {
    const { id } = parse(namedSchema, request.params);
    const { before, attribute } = parse(attributeChangeSchema, request.body);
    response.json(await attributes.change(id, before, attribute, nameOf(request)));
  });
  router.delete('/:id', async (request, response) => {
    await attributes.remove(parse(namedSchema, request.params).id, nameOf(request));
    response.status(204).end();
  });
  router.get('/:id/values', async (request, response) => {
    response.json(await contacts.valuesOf(parse(namedSchema, request.params).id));
  });
  router.get('/:id/profile', async (request, response) => {
    response.json(await attributes.profile(parse(namedSchema, request.params).id));
  });
  router.get('/:id/as/:type', async (request, response) => {
    const { id, type } = parse(conversionRequestSchema, request.params);
    response.json(await attributes.conversion(id, type));
  });
  router.post('/:id/merge-choices', async (request, response) => {
    const { id } = parse(namedSchema, request.params);
    const { from, into } = parse(choiceMergeSchema, request.body);
    response.json(await attributes.mergeChoices(id, from, into, nameOf(request)));
  });
  return router;
}

/** How many values were taken out of each attribute because they did not fit. */
export function setAsideRouter(): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await setAsideCounts());
  });
  return router;
}

/** Contacts: found, looked at, changed one by one. */
export function contactsRouter(contacts: Contacts, contactEdits: ContactEdits, exports: Exports): Router {
  const router = Router();
  router.get('/', async (request, response) => {
    response.json(await contacts.list(parse(contactQuerySchema, request.query)));
  });
  router.post('/', async (request, response) => {
    response.status(201).json(await contactEdits.add(parse(newContactSchema, request.body), nameOf(request)));
  });
  router.get('/export', async (request, response) => {
    const query = parse(exportQuerySchema, request.query);
    const { type, ending } = exportTypes[query.kind];
    const lines = contacts.export(query);
    // A filter with a problem is refused before anything is sent.
    const first = await lines.next();
    response.type(type).attachment(`people.${ending}`);
    response.write(first.value ?? '');
    await pipeline(lines, response);
  });
  router.post('/exports', async (request, response) => {
    const job = await exports.begin(parse(exportRequestSchema, request.body), nameOf(request));
    response.status(202).json({ job });
  });
  router.get('/exports/:id/:name', async (request, response) => {
    const { file, type, name } = await exports.file(parse(serialSchema, request.params).id);
    response.type(type).attachment(name);
    await pipeline(file, response);
  });
  router.get('/reading', (_request, response) => {
    response.json({ reading: contacts.reading ?? null } satisfies Reading);
  });
  router.get('/:id', async (request, response) => {
    response.json(await contacts.get(parse(serialSchema, request.params).id));
  });
  router.put('/:id', async (request, response) => {
    const { id } = parse(serialSchema, request.params);
    response.json(await contactEdits.change(id, parse(contactChangeSchema, request.body), nameOf(request)));
  });
  router.delete('/:id', async (request, response) => {
    response.json(await contactEdits.erase(parse(serialSchema, request.params).id));
  });
  router.get('/:id/history', async (request, response) => {
    response.json(await contactEdits.history(parse(serialSchema, request.params).id));
  });
  router.get('/:id/sees', async (request, response) => {
    response.json(await contactEdits.sees(parse(serialSchema, request.params).id));
  });
  router.post('/:id/merge', async (request, response) => {
    const { id } = parse(serialSchema, request.params);
    response.json(await contactEdits.merge(id, parse(mergeRequestSchema, request.body), nameOf(request)));
  });
  return router;
}

/** What always holds of contacts. */
export function factsRouter(facts: StatedFacts): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await facts.list());
  });
  router.post('/', async (request, response) => {
    response.status(201).json(await facts.create(parse(factDraftSchema, request.body), nameOf(request)));
  });
  router.put('/:id', async (request, response) => {
    const { id } = parse(namedSchema, request.params);
    await facts.change(id, parse(factChangeSchema, request.body), nameOf(request));
    response.status(204).end();
  });
  router.delete('/:id', async (request, response) => {
    await facts.remove(parse(namedSchema, request.params).id);
    response.status(204).end();
  });
  return router;
}
