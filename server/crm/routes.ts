import { Router } from 'express';
import { crmSettingsSchema, crmSwitchesSchema } from '../../contract/crm.ts';
import { parse } from '../http/parse.ts';
import { nameOf } from '../http/who-asks.ts';
import { Refusal } from '../refusal.ts';
import type { CrmStandIn } from '../standins/crm.ts';
import type { Crm } from './crm.ts';

/** @param crmStandIn only where this instance has one */
export function crmRouter(crm: Crm, crmStandIn: CrmStandIn | undefined): Router {
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
  router.post('/sync', async (request, response) => {
    response.status(202).json(await crm.sync(nameOf(request)));
  });
  router.post('/cancel', async (_request, response) => {
    response.json(await crm.cancel());
  });
  router.put('/stand-in', async (request, response) => {
    if (!crmStandIn) throw new Refusal(404, 'This instance has no stand-in.');
    await crmStandIn.setSwitches(parse(crmSwitchesSchema, request.body));
    response.json(await crm.status());
  });
  return router;
}
