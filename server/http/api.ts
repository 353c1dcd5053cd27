import { pipeline } from 'node:stream/promises';
import { Router } from 'express';
import { z } from 'zod';
import {
  attributeChangeSchema,
  attributeOrderSchema,
  choiceMergeSchema,
  newAttributeSchema,
  valueKinds,
} from '../../contract/attributes.ts';
import {
  archiveRequestSchema,
  audienceChangeSchema,
  audienceDraftSchema,
  compareRequestSchema,
  countRequestSchema,
  countsRequestSchema,
  ownerRequestSchema,
} from '../../contract/audiences.ts';
import { crmSettingsSchema, crmSwitchesSchema } from '../../contract/crm.ts';
import { documentChangeSchema, htmlPageSchema, newDocumentSchema } from '../../contract/documents.ts';
import { factChangeSchema, factDraftSchema } from '../../contract/facts.ts';
import { bulkRequestSchema, uploadQuerySchema } from '../../contract/imports.ts';
import { sendRequestSchema } from '../../contract/mail.ts';
import {
  contactChangeSchema,
  contactQuerySchema,
  exportQuerySchema,
  mergeRequestSchema,
  newContactSchema,
} from '../../contract/people.ts';
import { releaseRequestSchema } from '../../contract/releases.ts';
import { viewerSchema } from '../../core/attributes/viewer.ts';
import { contentSchema, documentKinds } from '../../core/documents/document.ts';
import { importPlanSchema } from '../../core/exchange/plan.ts';
import { notFound, Refusal } from '../refusal.ts';
import { teamNames } from '../services/accounts.ts';
import { forgetSetAside, setAside, setAsideCounts } from '../services/set-aside.ts';
import { listMessages, rawMessage, readMessage } from '../standins/mail-server.ts';
import { named, parse, serial } from './parse.ts';
import type { Services } from './services.ts';
import { siteAdminRouter } from './site-admin.ts';

/** Every resource of the studio; only for those who are signed in. */
export function apiRouter(services: Services): Router {
  const router = Router();
  router.use('/attributes', attributesRouter(services));
  router.get('/set-aside', async (_request, response) => {
    response.json(await setAsideCounts());
  });
  router.get('/team', async (_request, response) => {
    response.json(await teamNames());
  });
  router.get('/pictures', (_request, response) => {
    response.json(services.pictures);
  });
  router.use('/contacts', contactsRouter(services));
  router.use('/imports', importsRouter(services));
  router.use('/crm', crmRouter(services));
  router.use('/audiences', audiencesRouter(services));
  router.use('/facts', factsRouter(services));
  router.use('/documents', documentsRouter(services));
  router.use('/', siteAdminRouter(services));
  router.use('/releases', releasesRouter(services));
  router.use('/mailbox', mailboxRouter());
  router.post('/sends', async (request, response) => {
    const report = await services.sending.send(parse(sendRequestSchema, request.body), nameOf(request));
    response.status(201).json(report);
  });
  return router;
}

function attributesRouter({ attributes, contacts, drafts }: Services): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json((await drafts.decider()).catalogue.attributes);
  });
  router.post('/', async (request, response) => {
    response.status(201).json(await attributes.create(parse(newAttributeSchema, request.body).attribute));
  });
  router.get('/:id/set-aside', async (request, response) => {
    const attribute = (await drafts.decider()).catalogue.get(parse(named, request.params).id);
    if (!attribute) throw notFound('attribute');
    response.json(await setAside(attribute));
  });
  router.delete('/:id/set-aside', async (request, response) => {
    await forgetSetAside(parse(named, request.params).id);
    response.status(204).end();
  });
  router.put('/', async (request, response) => {
    await attributes.order(parse(attributeOrderSchema, request.body).ids);
    response.status(204).end();
  });
  router.put('/:id', async (request, response) => {
    const { id } = parse(named, request.params);
    const { before, attribute } = parse(attributeChangeSchema, request.body);
    response.json(await attributes.change(id, before, attribute, nameOf(request)));
  });
  router.delete('/:id', async (request, response) => {
    await attributes.remove(parse(named, request.params).id, nameOf(request));
    response.status(204).end();
  });
  router.get('/:id/values', async (request, response) => {
    response.json(await contacts.valuesOf(parse(named, request.params).id));
  });
  router.get('/:id/profile', async (request, response) => {
    response.json(await attributes.profile(parse(named, request.params).id));
  });
  router.get('/:id/as/:type', async (request, response) => {
    const { id, type } = parse(named.extend({ type: z.enum(valueKinds) }), request.params);
    response.json(await attributes.conversion(id, type));
  });
  router.post('/:id/merge-choices', async (request, response) => {
    const { id } = parse(named, request.params);
    const { from, into } = parse(choiceMergeSchema, request.body);
    response.json(await attributes.mergeChoices(id, from, into, nameOf(request)));
  });
  return router;
}

function contactsRouter({ contacts, contactEdits, bulkChanges }: Services): Router {
  const router = Router();
  router.get('/', async (request, response) => {
    response.json(await contacts.list(parse(contactQuerySchema, request.query)));
  });
  router.post('/', async (request, response) => {
    response.status(201).json(await contactEdits.add(parse(newContactSchema, request.body), nameOf(request)));
  });
  router.post('/changes', async (request, response) => {
    const asked = parse(bulkRequestSchema, request.body);
    response.status(201).json(await bulkChanges.try(asked, nameOf(request)));
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
  router.get('/:id', async (request, response) => {
    response.json(await contacts.get(parse(serial, request.params).id));
  });
  router.put('/:id', async (request, response) => {
    const { id } = parse(serial, request.params);
    response.json(await contactEdits.change(id, parse(contactChangeSchema, request.body), nameOf(request)));
  });
  router.delete('/:id', async (request, response) => {
    response.json(await contactEdits.erase(parse(serial, request.params).id));
  });
  router.get('/:id/history', async (request, response) => {
    response.json(await contactEdits.history(parse(serial, request.params).id));
  });
  router.get('/:id/sees', async (request, response) => {
    response.json(await contactEdits.sees(parse(serial, request.params).id));
  });
  router.post('/:id/merge', async (request, response) => {
    const { id } = parse(serial, request.params);
    response.json(await contactEdits.merge(id, parse(mergeRequestSchema, request.body), nameOf(request)));
  });
  return router;
}

const exportTypes = {
  csv: { type: 'text/csv', ending: 'csv' },
  vcard: { type: 'text/vcard', ending: 'vcf' },
  'json-lines': { type: 'application/jsonl', ending: 'jsonl' },
};

function importsRouter({ imports }: Services): Router {
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
    response.json(await imports.get(parse(serial, request.params).id));
  });
  router.delete('/:id', async (request, response) => {
    await imports.remove(parse(serial, request.params).id);
    response.status(204).end();
  });
  router.put('/:id/plan', async (request, response) => {
    const { id } = parse(serial, request.params);
    response.json(await imports.plan(id, parse(importPlanSchema, request.body)));
  });
  router.post('/:id/again', async (request, response) => {
    response.json(await imports.again(parse(serial, request.params).id));
  });
  router.post('/:id/run', async (request, response) => {
    response.status(202).json(await imports.run(parse(serial, request.params).id, nameOf(request)));
  });
  router.post('/:id/cancel', async (request, response) => {
    response.json(await imports.cancel(parse(serial, request.params).id));
  });
  router.post('/:id/undo', async (request, response) => {
    response.status(202).json(await imports.undo(parse(serial, request.params).id, nameOf(request)));
  });
  router.get('/:id/left-out.csv', async (request, response) => {
    const { path, name } = await imports.rejectedFile(parse(serial, request.params).id);
    response.type('text/csv').download(path, name, { dotfiles: 'allow' });
  });
  return router;
}

function crmRouter({ crm, crmStandIn }: Services): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await crm.status());
  });
  router.put('/', async (request, response) => {
    response.json(await crm.configure(parse(crmSettingsSchema, request.body)));
  });
  router.get('/fields', async (_request, response) => {
    response.json(await crm.fields());
  });
  router.post('/sync', async (_request, response) => {
    response.status(202).json(await crm.sync());
  });
  router.post('/cancel', async (_request, response) => {
    response.json(await crm.cancel());
  });
  router.put('/stand-in', async (request, response) => {
    if (!crmStandIn) throw new Refusal(404, 'This instance has no stand-in.');
    crmStandIn.setSwitches(parse(crmSwitchesSchema, request.body));
    response.json(await crm.status());
  });
  return router;
}

function audiencesRouter({ audiences }: Services): Router {
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
    response.json(await audiences.count(condition, audience));
  });
  router.post('/over-time', async (request, response) => {
    const { condition, audience } = parse(countRequestSchema, request.body);
    response.json(await audiences.overTime(condition, audience));
  });
  router.post('/:id/archive', async (request, response) => {
    const { id } = parse(named, request.params);
    response.json(await audiences.archive(id, parse(archiveRequestSchema, request.body).archived));
  });
  router.post('/:id/owner', async (request, response) => {
    const { id } = parse(named, request.params);
    response.json(await audiences.giveTo(id, parse(ownerRequestSchema, request.body).ownerName));
  });
  router.get('/:id/versions', async (request, response) => {
    response.json(await audiences.versions(parse(named, request.params).id));
  });
  router.post('/compare', async (request, response) => {
    response.json(await audiences.compare(parse(compareRequestSchema, request.body).audiences));
  });
  router.post('/counts', async (request, response) => {
    const { conditions, channel } = parse(countsRequestSchema, request.body);
    response.json(await audiences.counts(conditions, channel));
  });
  router.put('/:id', async (request, response) => {
    const { id } = parse(named, request.params);
    response.json(await audiences.change(id, parse(audienceChangeSchema, request.body), nameOf(request)));
  });
  router.delete('/:id', async (request, response) => {
    await audiences.remove(parse(named, request.params).id);
    response.status(204).end();
  });
  return router;
}

function factsRouter({ facts }: Services): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await facts.list());
  });
  router.post('/', async (request, response) => {
    response.status(201).json(await facts.create(parse(factDraftSchema, request.body), nameOf(request)));
  });
  router.put('/:id', async (request, response) => {
    const { id } = parse(named, request.params);
    await facts.change(id, parse(factChangeSchema, request.body), nameOf(request));
    response.status(204).end();
  });
  router.delete('/:id', async (request, response) => {
    await facts.remove(parse(named, request.params).id);
    response.status(204).end();
  });
  return router;
}

function documentsRouter({ documents, exportFace, presence }: Services): Router {
  const router = Router();
  const castRequestSchema = z.object({
    content: contentSchema,
    kind: z.enum(documentKinds).default('page'),
    instant: z.number().nullable(),
  });
  router.get('/', async (_request, response) => {
    response.json(await documents.list());
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
    const { id } = parse(named, request.params);
    const viewer = parse(viewerSchema, request.body);
    const { html, name } = await exportFace(id, viewer);
    response.type('html').attachment(name).send(html);
  });
  router.post('/cast', async (request, response) => {
    const { content, kind, instant } = parse(castRequestSchema, request.body);
    response.json(await documents.cast(content, kind, instant ?? Date.now()));
  });
  router.get('/:id', async (request, response) => {
    response.json(await documents.get(parse(named, request.params).id));
  });
  router.put('/:id', async (request, response) => {
    const { id } = parse(named, request.params);
    response.json(await documents.change(id, parse(documentChangeSchema, request.body)));
  });
  router.post('/:id/here', (request, response) => {
    const { id } = parse(named, request.params);
    const { account } = request.session;
    response.json({ others: account ? presence.here(id, account) : [] });
  });
  router.delete('/:id/here', (request, response) => {
    const { account } = request.session;
    if (account) presence.gone(parse(named, request.params).id, account.id);
    response.status(204).end();
  });
  router.delete('/:id', async (request, response) => {
    await documents.remove(parse(named, request.params).id);
    response.status(204).end();
  });
  return router;
}

function releasesRouter({ releases }: Services): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    response.json(await releases.list());
  });
  router.get('/impact', async (_request, response) => {
    response.json(await releases.impact(Date.now()));
  });
  router.get('/:id/impact', async (request, response) => {
    response.json(await releases.impactOfGoingBack(parse(serial, request.params).id, Date.now()));
  });
  router.get('/pending', async (_request, response) => {
    response.json(await releases.pending());
  });
  router.post('/', async (request, response) => {
    const asked = parse(releaseRequestSchema, request.body);
    response.status(201).json(await releases.release(asked, nameOf(request)));
  });
  router.post('/:id/live', async (request, response) => {
    response.json(await releases.goBackTo(parse(serial, request.params).id));
  });
  return router;
}

function mailboxRouter(): Router {
  const router = Router();
  router.get('/', async (request, response) => {
    const { search } = parse(z.object({ search: z.string().max(200).default('') }), request.query);
    response.json(await listMessages(search));
  });
  router.get('/:id', async (request, response) => {
    response.json(await readMessage(parse(serial, request.params).id));
  });
  router.get('/:id/message.eml', async (request, response) => {
    const { id } = parse(serial, request.params);
    const raw = await rawMessage(id);
    response.set({
      'Content-Type': 'message/rfc822',
      'Content-Disposition': `attachment; filename="message-${id}.eml"`,
    });
    response.send(raw);
  });
  return router;
}

function nameOf(request: { session: { account?: { name: string } } }): string {
  return request.session.account?.name ?? '';
}
