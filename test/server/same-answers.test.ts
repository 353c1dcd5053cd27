import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { factsOf } from '../../core/attributes/viewer.ts';
import type { Audience } from '../../core/audiences/audience.ts';
import { all, any, type Condition, inAudience, not } from '../../core/conditions/condition.ts';
import { compile } from '../../core/conditions/evaluate.ts';
import type { Content } from '../../core/documents/document.ts';
import type { Setting } from '../../core/population/population.ts';
import { AskedPeople } from '../../server/people/asked-rows.ts';
import { PeopleThread } from '../../server/people/people-thread.ts';
import type { AsksPeople, Scope } from '../../server/people/questions.ts';
import { ContactRow, SiteAccountRow } from '../../server/people/rows.ts';
import { accessOf } from '../../server/store/connection.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { attributes, noon, randomConditionOf, randomValues, tested } from '../random-conditions.ts';
import { type Instance, startInstance } from './instance.ts';

/** 300 random contacts with a value of every type, or without. */
const contacts = fc.sample(fc.record({ values: randomValues, hasAccount: fc.boolean() }), {
  numRuns: 300,
  seed: 24,
});
const catalogue = new Catalogue(attributes, 'Europe/London');
const scope: Scope = { attributes, zone: 'Europe/London', audiences: [] };
const settings: Setting[] = [
  {
    instant: noon,
    channel: 'page',
    visit: { 'visit-device': 'phone', 'visit-came-by': 'search' },
    item: { author: 'lark', 'tiers-for': ['dusk'] },
  },
  { instant: noon + 86_400_000 * 3, channel: 'email' },
];

let instance: Instance;
let held: AsksPeople;
let asked: AsksPeople;
beforeAll(async () => {
  instance = await startInstance();
  // An empty set is a missing value, and is not stored.
  const stored = contacts.map(({ values }) =>
    Object.fromEntries(
      Object.entries(values).filter(([, value]) => !Array.isArray(value) || value.length > 0),
    ),
  );
  const rows = stored.map((values, index) => ({
    id: index + 1,
    email: `p${index}@example.org`,
    name: `Person ${index % 40}`,
    values,
  }));
  const accounts = contacts.flatMap(({ hasAccount }, index) =>
    hasAccount ? [{ contactId: index + 1, passwordHash: null }] : [],
  );
  await inTransaction(async (transaction) => {
    await ContactRow.destroy({ where: {}, transaction });
    await ContactRow.bulkCreate(rows, { transaction });
    await SiteAccountRow.bulkCreate(accounts, { transaction });
  });
  held = new PeopleThread(accessOf(instance.sequelize));
  asked = new AskedPeople(instance.sequelize);
});
afterAll(async () => {
  await held.stop();
  await instance.stop();
});

/** Evaluation, a contact at a time. */
function byEvaluation(condition: Condition, setting: Setting): number[] {
  const check = compile(condition, catalogue);
  return contacts.flatMap(({ values, hasAccount }, index) => {
    const facts = factsOf(catalogue, {
      contact: { ...values, email: `p${index}@example.org` },
      signedIn: hasAccount && setting.channel === 'page',
      visit: { ...setting.visit },
      item: setting.item ? { ...setting.item } : null,
      instant: setting.instant,
    });
    return check(facts) ? [index + 1] : [];
  });
}

describe('evaluation, bitsets and MariaDB', () => {
  const conditions = fc.sample(randomConditionOf(tested), { numRuns: 160, seed: 7 });
  it('find the same members of any condition of any attribute', async () => {
    for (const setting of settings) {
      const [byBits, bySql] = [
        await held.count(scope, setting, conditions),
        await asked.count(scope, setting, conditions),
      ];
      for (const [index, condition] of conditions.entries()) {
        const wanted = byEvaluation(condition, setting);
        const said = JSON.stringify(condition);
        expect(`${byBits[index]} ${said}`).toBe(`${wanted.length} ${said}`);
        expect(`${bySql[index]} ${said}`).toBe(`${wanted.length} ${said}`);
      }
    }
  });

  it('find the members of an audience that names another twice at each of twenty levels', async () => {
    const [below, other] = conditions;
    if (!below || !other) throw new Error('there are conditions');
    const audiences: Audience[] = [{ id: 'c0', name: 'c0', description: '', condition: below }];
    for (let level = 1; level <= 20; level++) {
      const before = inAudience(`c${level - 1}`);
      const condition = any(all(before, conditions[level] ?? other), all(not(before), other));
      audiences.push({ id: `c${level}`, name: `c${level}`, description: '', condition });
    }
    const within: Scope = { ...scope, audiences };
    for (const setting of settings) {
      let members = new Set(byEvaluation(below, setting));
      const everyone = contacts.map((_, index) => index + 1);
      const others = new Set(byEvaluation(other, setting));
      for (let level = 1; level <= 20; level++) {
        const own = new Set(byEvaluation(conditions[level] ?? other, setting));
        const before = members;
        members = new Set(everyone.filter((id) => (before.has(id) ? own.has(id) : others.has(id))));
      }
      const ask = [inAudience('c20'), not(inAudience('c20'))];
      const wanted = [members.size, contacts.length - members.size];
      expect(await held.count(within, setting, ask)).toEqual(wanted);
      expect(await asked.count(within, setting, ask)).toEqual(wanted);
    }
  });

  it('list them alike, page by page', async () => {
    const [setting = { instant: noon, channel: 'page' as const }] = settings;
    for (const sort of ['name', 'tier', 'visits', 'renewal'])
      for (const direction of ['up', 'down'] as const) {
        const query = {
          where: conditions[3] ?? { kind: 'all' as const, of: [] },
          search: 'person 3',
          sort,
          direction,
          from: 2,
          most: 20,
        };
        const [one, two] = [await held.list(scope, setting, query), await asked.list(scope, setting, query)];
        expect(one).toEqual(two);
      }
  });

  it('find the same faces, who lacks a value, and the values that occur', async () => {
    const audiences = conditions.slice(0, 12).map((condition, index): Audience => {
      return { id: `a${index}`, name: '', description: '', condition };
    });
    const within: Scope = { ...scope, audiences };
    const content: Content = {
      subject: [],
      preview: [],
      body: audiences.map(({ id }, index) => ({
        kind: 'slot',
        id: `s${index}`,
        name: id,
        variants: [
          { id: `v${index}`, audience: id, content: [] },
          { id: `w${index}`, audience: `a${(index + 1) % 12}`, content: [] },
        ],
        otherwise: [],
      })),
    };
    for (const setting of settings) {
      const faces = async (asks: AsksPeople) =>
        (await asks.faces(within, setting, content))
          .map(({ choices, count }) => `${choices.join()}: ${count}`)
          .sort();
      expect(await faces(held)).toEqual(await faces(asked));
    }
    for (const attribute of ['tier', 'tags', 'visits', 'vip', 'city', 'speaks']) {
      const [one, two] = [await held.values(scope, attribute, 50), await asked.values(scope, attribute, 50)];
      expect(new Map(one.map(({ value, count }) => [value, count]))).toEqual(
        new Map(two.map(({ value, count }) => [value, count])),
      );
    }
    const ids = ['tier', 'tags', 'city', 'email'];
    expect(await held.lacking(scope, ids)).toEqual(await asked.lacking(scope, ids));
  });

  it('see a contact that was changed, added or deleted in the next count', async () => {
    const [setting = { instant: noon, channel: 'page' as const }] = settings;
    const vip: Condition = { kind: 'test', attribute: 'vip', op: 'is-yes', values: [] };
    const counts = async () => [
      ...(await held.count(scope, setting, [vip])),
      ...(await asked.count(scope, setting, [vip])),
    ];
    const [before = 0] = await counts();
    const person = { email: 'new@example.org', name: 'New', values: { vip: true } };
    const made = await inTransaction((transaction) => ContactRow.create(person, { transaction }));
    await held.changed([made.id]);
    expect(await counts()).toEqual([before + 1, before + 1]);
    await inTransaction((transaction) => made.update({ values: { vip: false } }, { transaction }));
    await held.changed([made.id]);
    expect(await counts()).toEqual([before, before]);
    await inTransaction((transaction) => made.destroy({ transaction }));
    await held.changed([made.id]);
    expect([await held.total(), await asked.total()]).toEqual([300, 300]);
    await held.changed();
    expect(await counts()).toEqual([before, before]);
  });

  it('hold on when the thread dies: the next question begins another', async () => {
    await held.stop();
    expect(await held.total()).toBe(300);
  });
});

describe('who comes and goes from one moment to the next', () => {
  it('is told by memory and by the database as evaluating everybody at each moment tells', async () => {
    const days = [0, 1, 2, 9, 40, 200].map(
      (ahead): Setting => ({
        instant: noon + ahead * 86_400_000,
        channel: 'page',
      }),
    );
    const conditions = fc.sample(randomConditionOf(tested), { numRuns: 60, seed: 7 });
    let crossed = 0;
    for (const condition of conditions) {
      const members = days.map((setting) => byEvaluation(condition, setting));
      const wanted = members.map((now, index) => {
        const before = members[index - 1] ?? now;
        const entering = now.filter((id) => !before.includes(id));
        const leaving = before.filter((id) => !now.includes(id));
        crossed += entering.length + leaving.length;
        return {
          count: now.length,
          entering: { count: entering.length, ids: entering },
          leaving: { count: leaving.length, ids: leaving },
        };
      });
      expect(await held.changes(scope, days, condition, 1000)).toEqual(wanted);
      expect(await asked.changes(scope, days, condition, 1000)).toEqual(wanted);
    }
    expect(crossed).toBeGreaterThan(100);
  });
});
