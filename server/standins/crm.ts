import express, { type NextFunction, type Request, type Response, Router } from 'express';
import { z } from 'zod';
import { type CrmSwitches, crmSwitchesSchema } from '../../contract/crm.ts';
import { Random } from '../../demo/random.ts';
import type { ChangeLog } from '../store/change-log.ts';
import { settingOf, storeSetting } from '../store/rows.ts';
import { inTransaction } from '../store/transaction.ts';

/** A contact as the customer database outside keeps it. */
interface CrmRecord {
  id: string;
  email: string;
  given_name: string;
  family_name: string;
  stage: string;
  lists: string[];
  custom: { [field: string]: string | number | null };
  updated_at: string;
}

export const crmKey = 'stand-in-key';
const switchesKey = 'crm-stand-in';
const size = 640;
const largestPage = 100;
const querySchema = z.object({
  cursor: z.string().max(100).optional(),
  limit: z.coerce.number().int().min(1).max(largestPage).default(largestPage),
  since: z.iso.datetime().optional(),
});

/**
 * The customer database outside, simulated: contacts with fields of their own, lists and stages, pages by cursor, what
 * changed since a moment, and switches for everything that goes wrong with such a service. It keeps nothing.
 */
export class CrmStandIn {
  readonly records: CrmRecord[];
  switches: CrmSwitches = { slowMs: 0, failEvery: 0, limitEvery: 0, malformed: false, duplicates: false };
  private requests = 0;

  constructor(now: number) {
    this.records = records(now);
  }

  /** Changes a record as somebody would who works over there. */
  edit(id: string, change: Partial<Omit<CrmRecord, 'id'>>, now = Date.now()): void {
    const record = this.records.find((one) => one.id === id);
    if (record) Object.assign(record, change, { updated_at: new Date(now).toISOString() });
  }

  router(): Router {
    const router = Router();
    router.use(express.json());
    router.use((request, response, next) => {
      if (request.get('authorization') === `Bearer ${crmKey}`)
        return void this.hinder(request, response, next);
      response.status(401).json({ error: 'the key is wrong' });
    });
    router.get('/fields', (_request, response) => {
      response.json({
        fields: [
          'email',
          'given_name',
          'family_name',
          'stage',
          'lists',
          'custom.loyalty_points',
          'custom.first_visit',
        ],
      });
    });
    router.get('/contacts', (request, response) => {
      const query = querySchema.safeParse(request.query);
      if (!query.success) return void response.status(400).json({ error: 'bad query' });
      const { cursor = '', limit, since } = query.data;
      const wanted = this.records
        .filter(({ id, updated_at }) => id > cursor && (since === undefined || updated_at > since))
        .sort((one, two) => (one.id < two.id ? -1 : 1));
      const page: unknown[] = wanted.slice(0, limit);
      const last = wanted[Math.min(limit, wanted.length) - 1];
      if (this.switches.duplicates && page.length > 0) page.push(page[0]);
      if (this.switches.malformed && page.length > 0)
        page.push({ id: 7 }, 'not a record', { id: `bad-${cursor}`, email: 'no address' });
      response.json({ contacts: page, next: wanted.length > limit ? (last?.id ?? null) : null });
    });
    return router;
  }

  /** Turns switches, of this service and of that of every other server of the instance. */
  async setSwitches(switches: CrmSwitches): Promise<void> {
    await inTransaction((transaction) => storeSetting(switchesKey, switches, transaction));
    this.switches = switches;
  }

  /** Follows the switches, whichever server they are turned by. */
  async follow(log: ChangeLog): Promise<void> {
    const read = async () => {
      const stored = crmSwitchesSchema.safeParse(await settingOf(switchesKey));
      if (stored.success) this.switches = stored.data;
    };
    log.on(['setting'], async (changes) => {
      if (changes.some(({ ids }) => ids === null || ids.includes(switchesKey))) await read();
    });
    await read();
  }

  private hinder(_request: Request, response: Response, next: NextFunction): void {
    const { slowMs, failEvery, limitEvery } = this.switches;
    this.requests++;
    if (limitEvery > 0 && this.requests % limitEvery === 0) {
      response.status(429).set('Retry-After', '1').json({ error: 'too many requests' });
      return;
    }
    if (failEvery > 0 && this.requests % failEvery === 0) {
      response.status(500).json({ error: 'something broke' });
      return;
    }
    if (slowMs > 0) setTimeout(next, slowMs);
    else next();
  }
}

function records(now: number): CrmRecord[] {
  const random = new Random(41);
  const given = ['Anselm', 'Birgit', 'Cato', 'Delphine', 'Ewan', 'Fenna', 'Gareth', 'Hilda'] as const;
  const family = ['Osgood', 'Prewitt', 'Quist', 'Rowntree', 'Sallow', 'Thackeray', 'Underwood'] as const;
  return Array.from({ length: size }, (_, at) => {
    const [first, last] = [random.pick([...given]), random.pick([...family])];
    return {
      id: `K${String(at + 1).padStart(5, '0')}`,
      email: `${first}.${last}.${at + 1}@example.org`.toLowerCase(),
      given_name: first,
      family_name: last,
      stage: random.pick(['newcomer', 'enquirer', 'member', 'patron', 'lapsed']),
      lists: random.chance(0.4) ? ['Newsletter'] : [],
      custom: {
        loyalty_points: random.chance(0.8) ? random.between(0, 900) : null,
        first_visit: `20${random.between(18, 25)}-0${random.between(1, 9)}-1${random.between(0, 9)}`,
      },
      updated_at: new Date(now - random.between(1, 400) * 86_400_000).toISOString(),
    };
  });
}
