import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { localDay } from '../../core/attributes/calendar.ts';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { factsOf } from '../../core/attributes/viewer.ts';
import { all, type Condition, not, test } from '../../core/conditions/condition.ts';
import { operatorsFor } from '../../core/conditions/operators.ts';
import { toSql } from '../../core/conditions/sql.ts';
import {
  demoAttributes,
  demoAudiences,
  demoPeople,
  demoSeed,
  demoSettings,
  demoSize,
  demoSnapshot,
} from '../../demo/scenario.ts';
import { type Caller, type Instance, loadedAt, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

const count = async (condition: Condition): Promise<number> =>
  (await studio.call('POST', '/api/audiences/count', { condition, audience: null })).body.count;

/** Counts a condition by MariaDB itself. */
async function countBySql(
  condition: Condition,
  catalogue = new Catalogue(demoSnapshot.attributes, demoSettings.zone),
): Promise<number> {
  const { sql, values } = toSql(condition, {
    catalogue,
    conditionOf: (id) => demoAudiences.find((audience) => audience.id === id)?.condition,
    facts: factsOf(catalogue, { contact: null, signedIn: false, visit: {}, item: null, instant: Date.now() }),
    signedIn: 'EXISTS (SELECT 1 FROM site_accounts WHERE contactId = contacts.id)',
    columns: {
      id: 'contacts.id',
      email: 'contacts.email',
      values: 'contacts.`values`',
      folded: 'contacts.folded',
    },
  });
  const [row] = await instance.sequelize.query<{ people: number }>(
    `SELECT COUNT(*) AS people FROM contacts WHERE ${sql}`,
    { type: QueryTypes.SELECT, replacements: values },
  );
  return Number(row?.people);
}

describe('membership by MariaDB itself (ISO SQL truth tables)', () => {
  it.each(demoAudiences)('“$name” has the same members', async ({ id, condition }) => {
    const people = await count(condition);
    expect(people).toBe(await countBySql(condition));
    // Without an item nobody is in an audience that asks for one.
    if (id === 'guide-readers') expect(people).toBe(0);
    else expect(people).toBeGreaterThan(0);
    expect(await count(not(condition))).toBe(await countBySql(not(condition)));
  });

  const operands: Record<string, (string | number)[]> = {
    'choice one': ['twilight'],
    'choice two': ['dusk', 'twilight'],
    'choice many': ['midnight', 'dusk'],
    'number one': [3],
    'number two': [2, 7],
    'date one': ['2027-03-01'],
    'date two': ['2026-12-01', '2027-06-30'],
    'days one': [45],
    'part one': ['haven'],
    'text many': ['Larkhaven', 'Vieuxpré'],
  };
  const setChoices = ['family', 'moon'];
  const every = ['tier', 'tags', 'visits', 'renewal', 'city'].flatMap((id) => {
    const attribute = demoAttributes.find((other) => other.id === id);
    if (!attribute) throw new Error(id);
    return operatorsFor(attribute).map(([op, operator]): [string, Condition] => {
      const values =
        operator.arity === 'none'
          ? []
          : attribute.type === 'set'
            ? setChoices
            : (operands[`${operator.operand} ${operator.arity}`] ?? []);
      return [`${id} ${op}`, test(id, op, ...values)];
    });
  });
  it.each(every)('%s and its opposite', async (_name, condition) => {
    const people = await count(condition);
    expect(people).toBe(await countBySql(condition));
    expect(await countBySql(not(condition))).toBe(2400 - people);
  });
});

describe('the list of people', () => {
  const list = async (query: string) => (await studio.get(`/api/contacts?${query}`)).body;

  it('pages through everybody once', async () => {
    const seen = new Set<number>();
    for (let page = 0; page < 48; page++)
      for (const { id } of (await list(`page=${page}`)).contacts) seen.add(id);
    expect(seen.size).toBe(2400);
    expect((await list('page=48')).contacts).toEqual([]);
  });

  it('finds by name and address, case and accents folded', async () => {
    expect((await list('search=NUNO')).contacts.length).toBeGreaterThan(0);
    expect((await list('search=ines.marlow')).contacts[0].name).toBe('Ines Marlow');
    expect((await list('search=nobody-is-called-that')).matching).toBe(0);
  });

  it('sorts by an attribute, ordered choices by their order, missing ones last', async () => {
    const tiers = async (direction: string) => {
      const first = (await list(`sort=tier&direction=${direction}`)).contacts[0].values.tier;
      const last = (await list(`sort=tier&direction=${direction}&page=47`)).contacts.at(-1).values.tier;
      return [first, last];
    };
    expect(await tiers('up')).toEqual(['dusk', undefined]);
    expect(await tiers('down')).toEqual(['midnight', undefined]);
    const visits = (await list('sort=visits&direction=down')).contacts.map(
      (person: { values: { visits: number } }) => person.values.visits,
    );
    expect(visits).toEqual([...visits].sort((left: number, right: number) => right - left));
  });

  it('filters by audience and by attribute together', async () => {
    const where = encodeURIComponent(JSON.stringify(all(test('city', 'is-one-of', 'Larkhaven'))));
    const { contacts, matching, total } = await list(`audience=midnight-members&where=${where}`);
    expect(total).toBe(2400);
    expect(matching).toBe(
      await countBySql(all(test('tier', 'is-one-of', 'midnight'), test('city', 'is-one-of', 'Larkhaven'))),
    );
    for (const { values } of contacts) expect([values.tier, values.city]).toEqual(['midnight', 'Larkhaven']);
  });

  it('says which values occur, and how many people lack one', async () => {
    const { body } = await studio.get('/api/attributes/tier/values');
    expect(body.lacking).toBe(962);
    expect(body.values[0]).toEqual({ value: 'dusk', count: 720 });
    expect(body.complete).toBe(true);
    const people = demoPeople(demoSize, demoSeed, localDay(loadedAt, 'Europe/London'));
    for (const id of ['last-name', 'renewal']) {
      const found = (await studio.get(`/api/attributes/${id}/values`)).body;
      const all = new Set(people.flatMap(({ values }) => values[id] ?? [])).size;
      expect([id, found.values.length, found.complete]).toEqual([id, Math.min(all, 200), all <= 200]);
    }
  });

  it('has about one value in eight missing in the demo', async () => {
    const gaps = await Promise.all(
      ['city', 'country', 'language', 'joined', 'stage', 'visits', 'orders', 'telescope'].map(
        async (id) => (await studio.get(`/api/attributes/${id}/values`)).body.lacking / 2400,
      ),
    );
    const average = gaps.reduce((sum, gap) => sum + gap, 0) / gaps.length;
    expect(average).toBeGreaterThan(0.1);
    expect(average).toBeLessThan(0.15);
  });
});
