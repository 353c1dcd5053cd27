import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Attribute } from '../../core/attributes/attribute.ts';
import { test } from '../../core/conditions/condition.ts';
import { type Caller, type Instance, importFile, importThat, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

const all = async (): Promise<Attribute[]> => (await studio.get('/api/attributes')).body;
const attribute = async (id: string): Promise<Attribute> => {
  const found = (await all()).find((one) => one.id === id);
  if (!found) throw new Error(`no attribute ${id}`);
  return found;
};
const profile = async (id: string) => (await studio.get(`/api/attributes/${id}/profile`)).body;
const change = async (id: string, now: Partial<Attribute> & object) => {
  const before = await attribute(id);
  return studio.call('PUT', `/api/attributes/${id}`, { before, attribute: { ...before, ...now } });
};
const count = async (condition: object): Promise<number> =>
  (await studio.call('POST', '/api/audiences/count', { condition, audience: null })).body.count;

describe('what an attribute holds', () => {
  it.each(['tier', 'tags', 'city', 'visits', 'last-gift', 'joined', 'renewal'])(
    'is told for %s so that every person with a value is behind a bar, and every bar counts its people',
    async (id) => {
      const { total, lacking, bars, more } = await profile(id);
      expect(bars.length).toBeGreaterThan(1);
      for (const bar of bars) expect(bar.count).toBe(await count(bar.condition));
      const held = bars.reduce((sum: number, bar: { count: number }) => sum + bar.count, 0);
      if (id === 'tags') expect(held).toBeGreaterThanOrEqual(total - lacking);
      else if (more === 0) expect(held).toBe(total - lacking);
    },
  );

  it('names its uses in audiences, pages and emails', async () => {
    const { uses } = await profile('tier');
    expect(uses.map(({ what, name }: { what: string; name: string }) => [what, name])).toContainEqual([
      'audience',
      'Midnight members',
    ]);
    expect((await profile('first-name')).uses.map(({ what }: { what: string }) => what)).toContain('email');
    expect((await profile('visit-device')).bars).toEqual([]);
    expect((await studio.get('/api/attributes/gone/profile')).status).toBe(404);
  });
});

describe('an attribute of one’s own', () => {
  it('is made, renamed, put elsewhere in order, and deleted with its values', async () => {
    const made = await studio.call('POST', '/api/attributes', {
      attribute: { id: 'x', source: 'contact', label: 'Shoe size', description: '', type: 'number' },
    });
    expect(made.body.id).toBe('shoe-size');
    await importFile(studio, 'email,Shoe size\nines.marlow@example.org,39');
    expect(await count(test('shoe-size', 'at-least', 39))).toBe(1);
    expect((await change('shoe-size', { label: 'size of shoes' })).body.label).toBe('size of shoes');
    const own = (await all())
      .filter(({ source }) => source === 'contact')
      .map(({ id }) => id)
      .slice(3);
    const turned = [...own].reverse();
    await studio.call('PUT', '/api/attributes', { ids: turned });
    expect(
      (await all())
        .filter(({ source }) => source === 'contact')
        .map(({ id }) => id)
        .slice(3),
    ).toEqual(turned);
    await studio.call('PUT', '/api/attributes', { ids: own });
    expect((await studio.call('DELETE', '/api/attributes/shoe-size')).status).toBe(204);
    expect((await studio.get('/api/contacts/1')).body.values).not.toHaveProperty('shoe-size');
    const { body: history } = await studio.get('/api/contacts/1/history');
    expect(history[0].fields).toEqual({ 'shoe-size': [39, null] });
  });

  it('can’t have the name of another, nor two choices of one name, nor lose a choice that somebody has', async () => {
    expect((await change('city', { label: 'Plan' })).status).toBe(422);
    const tier = await attribute('tier');
    if (tier.type !== 'choice') throw new Error('not a choice');
    const twice = [...tier.choices, { id: 'other', label: 'dusk' }];
    expect((await change('tier', { choices: twice })).body.message).toContain('two choices called');
    const fewer = tier.choices.slice(1);
    expect((await change('tier', { choices: fewer })).body.message).toContain('720 people have “Dusk”');
    expect(await attribute('tier')).toEqual(tier);
  });

  it('is not deleted while it is used, and says where', async () => {
    const answer = await studio.call('DELETE', '/api/attributes/tier');
    expect(answer.status).toBe(409);
    expect(answer.body.message).toContain('audience “Midnight members”');
    expect((await studio.call('DELETE', '/api/attributes/email')).status).toBe(404);
  });

  it('is never overwritten by who is late', async () => {
    const before = await attribute('orders');
    await change('orders', { description: 'in the shop' });
    const late = await studio.call('PUT', '/api/attributes/orders', {
      before,
      attribute: { ...before, label: 'purchases' },
    });
    expect(late.status).toBe(409);
    expect((await attribute('orders')).label).toBe('orders');
  });
});

describe('making two choices one', () => {
  it('moves everybody and every condition, and nobody is lost', async () => {
    const [dusk, twilight] = [
      await count(test('tier', 'is-one-of', 'dusk')),
      await count(test('tier', 'is-one-of', 'twilight')),
    ];
    const { body: before } = await studio.get('/api/audiences');
    const sizeOf = (list: { name: string; count: number }[], name: string) =>
      list.find((audience) => audience.name === name)?.count;
    await studio.call('POST', '/api/attributes/tier/merge-choices', { from: 'dusk', into: 'twilight' });
    expect(await count(test('tier', 'is-one-of', 'twilight'))).toBe(dusk + twilight);
    const { body: after } = await studio.get('/api/audiences');
    expect(sizeOf(after, 'Dusk members')).toBe(dusk + twilight);
    expect(sizeOf(after, 'Members of any tier')).toBe(sizeOf(before, 'Members of any tier'));
    expect(after.flatMap(({ problems }: { problems: unknown[] }) => problems)).toEqual([]);
    const same = { from: 'twilight', into: 'twilight' };
    expect((await studio.call('POST', '/api/attributes/tier/merge-choices', same)).status).toBe(422);
    expect((await studio.call('POST', '/api/attributes/city/merge-choices', same)).status).toBe(422);
  });
});

describe('another type', () => {
  it('says beforehand which values will not survive, and is right', async () => {
    const rows = ['12', '3,5', 'many', 'few', 'many'].map(
      (value, at) => `kind${at}@example.org,${value.includes(',') ? `"${value}"` : value}`,
    );
    await importFile(studio, `email,Score\n${rows.join('\n')}`);
    const { body } = await studio.get('/api/attributes/score/as/number');
    expect(body).toMatchObject({
      kept: 2,
      lost: 3,
      losses: [
        { value: 'many', count: 2 },
        { value: 'few', count: 1 },
      ],
    });
    const converted = await studio.call('PUT', '/api/attributes/score', {
      before: await attribute('score'),
      attribute: body.attribute,
    });
    expect(converted.body.type).toBe('number');
    expect(await count(test('score', 'has-value'))).toBe(2);
    expect(await count(test('score', 'at-least', 12))).toBe(1);
  });

  it('makes choices of the texts that are there, and keeps everybody’s', async () => {
    const { body } = await studio.get('/api/attributes/city/as/choice');
    expect(body.lost).toBe(0);
    expect(body.kept).toBe((await profile('city')).total - (await profile('city')).lacking);
    const answer = await studio.call('PUT', '/api/attributes/city', {
      before: await attribute('city'),
      attribute: body.attribute,
    });
    // “Families nearby” tests the city by its words.
    expect(answer.status).toBe(409);
    expect(answer.body.message).toContain('Families nearby');
    const telescope = (await studio.get('/api/attributes/telescope/as/choice')).body;
    const held = await count(test('telescope', 'has-value'));
    await studio.call('PUT', '/api/attributes/telescope', {
      before: await attribute('telescope'),
      attribute: telescope.attribute,
    });
    expect((await attribute('telescope')).type).toBe('choice');
    expect(await count(test('telescope', 'has-value'))).toBe(held);
  });
});

describe('whole numbers', () => {
  const asked = (id: string) => studio.get(`/api/attributes/${id}/as/whole-number`);

  it('are what a number becomes once it is known which values are lost', async () => {
    await importFile(
      studio,
      'email,Steps\nines.marlow@example.org,2.5\nnoor.vale@example.org,3\ntobias.orrin@example.org,"4,0"',
    );
    if ((await attribute('steps')).type !== 'number')
      await studio.call('PUT', '/api/attributes/steps', {
        before: await attribute('steps'),
        attribute: (await studio.get('/api/attributes/steps/as/number')).body.attribute,
      });
    const { body } = await asked('steps');
    expect(body).toMatchObject({ kept: 2, lost: 1, losses: [{ value: '2.5', count: 1 }] });
    const before = await attribute('steps');
    await studio.call('PUT', '/api/attributes/steps', { before, attribute: body.attribute });
    expect(await attribute('steps')).toMatchObject({ type: 'number', whole: true });
    expect(await count(test('steps', 'has-value'))).toBe(2);
    expect(await count(test('steps', 'between', 3, 4))).toBe(2);
  });

  it('are refused with a fraction wherever a value comes in', async () => {
    const { body: contact } = await studio.get('/api/contacts/1');
    const edited = await studio.call('PUT', '/api/contacts/1', {
      updatedAt: contact.updatedAt,
      values: { steps: 2.5 },
    });
    expect([edited.status, edited.body.message]).toEqual([
      422,
      'This can’t be stored: Steps is not a whole number.',
    ]);
    const { report } = await importFile(studio, 'email,Steps\nines.marlow@example.org,2.5');
    expect(report).toMatchObject({ changed: 0 });
    expect(await count(test('steps', 'equals', 2.5))).toBe(0);
    expect(await count(test('steps', 'has-value'))).toBe(2);
  });

  it('do not come back with an import that is taken back', async () => {
    const source = 'email,Laps\nines.marlow@example.org,';
    await importFile(studio, `${source}1.5`);
    const { id } = await importFile(studio, `${source}2`);
    const number = (await studio.get('/api/attributes/laps/as/number')).body.attribute;
    const before = await attribute('laps');
    if (before.type !== 'number')
      await studio.call('PUT', '/api/attributes/laps', { before, attribute: number });
    const { body } = await asked('laps');
    expect(body.lost).toBe(0);
    await studio.call('PUT', '/api/attributes/laps', {
      before: await attribute('laps'),
      attribute: body.attribute,
    });
    expect((await studio.call('POST', `/api/imports/${id}/undo`)).status).toBe(202);
    const { report } = await importThat(studio, id, 'undone');
    expect(report?.undone).toEqual({ removed: 0, restored: 0, kept: 1 });
    expect(await count(test('laps', 'equals', 2))).toBe(1);
  });
});

describe('values that exclude each other', () => {
  it('are never made so, or made one, while somebody has both', async () => {
    const { id } = (
      await studio.call('POST', '/api/attributes', {
        attribute: { id: 'x', source: 'contact', label: 'Meals', description: '', type: 'text' },
      })
    ).body;
    const choices = ['meat', 'plants', 'fish'].map((label) => ({ id: label, label }));
    await change(id, { type: 'set', choices, exclusiveGroups: [] } as Partial<Attribute>);
    await importFile(studio, 'email,Meals\nines.marlow@example.org,meat;fish');
    const exclusive = (...members: string[]) =>
      change(id, { exclusiveGroups: [{ name: 'diet', members }] } as Partial<Attribute>);
    const refused = await exclusive('meat', 'fish');
    expect(refused.status).toBe(422);
    expect(refused.body.message).toContain('One person has a value that would not be allowed any more');
    expect((await exclusive('meat', 'plants')).status).toBe(200);
    const merged = await studio.call('POST', `/api/attributes/${id}/merge-choices`, {
      from: 'fish',
      into: 'plants',
    });
    expect(merged.status).toBe(422);
    expect(await count(test(id, 'includes-all', 'meat', 'fish'))).toBe(1);
  });
});

describe('choices of a set', () => {
  const make = async (): Promise<Attribute> => {
    const id = (
      await studio.call('POST', '/api/attributes', {
        attribute: { id: 'x', source: 'contact', label: 'Likes', description: '', type: 'text' },
      })
    ).body.id;
    const choices = ['early', 'late', 'rain', 'snow'].map((label) => ({ id: label, label }));
    const groups = [{ name: 'when', members: ['early', 'late'] }];
    const made = await change(id, { type: 'set', choices, exclusiveGroups: groups } as Partial<Attribute>);
    expect(made.status).toBe(200);
    return made.body;
  };

  it('become one with everybody who has either, in their exclusive groups too', async () => {
    const { id } = await make();
    await importFile(
      studio,
      `email,Likes\nines.marlow@example.org,early;rain\nnoor.vale@example.org,late\ntobias.orrin@example.org,rain;snow`,
    );
    expect(await count(test(id, 'includes-any', 'snow'))).toBe(1);
    const merged = await studio.call('POST', `/api/attributes/${id}/merge-choices`, {
      from: 'snow',
      into: 'rain',
    });
    expect(merged.body.choices.map((choice: { id: string }) => choice.id)).toEqual(['early', 'late', 'rain']);
    // Who had both has it once.
    expect(await count(test(id, 'includes-any', 'rain'))).toBe(2);
    const [tobias] = (await studio.get('/api/contacts?search=tobias.orrin')).body.contacts;
    expect(tobias.values[id]).toEqual(['rain']);
    await studio.call('POST', `/api/attributes/${id}/merge-choices`, { from: 'late', into: 'early' });
    const now = await attribute(id);
    expect(now.type === 'set' && now.exclusiveGroups).toEqual([{ name: 'when', members: ['early'] }]);
    expect(await count(test(id, 'includes-any', 'early'))).toBe(2);
  });

  it('are not left out while a condition or a fact names them', async () => {
    const before = await attribute('likes');
    if (before.type !== 'set') throw new Error('not a set');
    const withFog = [...before.choices, { id: 'fog', label: 'fog' }];
    expect((await change('likes', { choices: withFog })).status).toBe(200);
    const fewer = () => change('likes', { choices: before.choices });
    const audience = await studio.call('POST', '/api/audiences', {
      name: 'In the fog',
      condition: test('likes', 'includes-any', 'fog'),
    });
    expect((await fewer()).body.message).toContain('is named by the audience “In the fog”');
    await studio.call('DELETE', `/api/audiences/${audience.body.id}`);
    const fact = await studio.call('POST', '/api/facts', {
      who: test('likes', 'includes-any', 'fog'),
      also: test('tier', 'has-value'),
    });
    expect((await fewer()).body.message).toContain('is named by a data rule');
    const otherType = await change('likes', { type: 'text' } as Partial<Attribute>);
    expect([otherType.status, otherType.body.message]).toEqual([
      409,
      expect.stringContaining('A data rule tests this attribute'),
    ]);
    await studio.call('DELETE', `/api/facts/${fact.body.id}`);
    expect((await fewer()).status).toBe(200);
  });

  it('have ids of their own', async () => {
    const likes = await attribute('likes');
    if (likes.type !== 'set') throw new Error('not a set');
    const twice = await change('likes', { choices: [...likes.choices, { id: 'rain', label: 'drizzle' }] });
    expect([twice.status, twice.body.message]).toEqual([422, expect.stringContaining('the same id')]);
  });
});

describe('what little there is to tell', () => {
  it('of a yes or no both are told, and of nothing that anybody has nothing', async () => {
    const make = async (label: string, type: string) =>
      (
        await studio.call('POST', '/api/attributes', {
          attribute: { id: 'x', source: 'contact', label, description: '', type },
        })
      ).body.id;
    const yesNo = await make('Has a car', 'yes-no');
    await importFile(
      studio,
      'email,Has a car\nines.marlow@example.org,yes\nnoor.vale@example.org,no\nruth.pellow@example.org,no',
    );
    const told = await profile(yesNo);
    expect(
      told.bars.map(({ label, count: people }: { label: string; count: number }) => [label, people]),
    ).toEqual([
      ['yes', 1],
      ['no', 2],
    ]);
    for (const type of ['number', 'date', 'path']) {
      const empty = await profile(await make(`Never ${type}`, type));
      expect([type, empty.bars, empty.lacking]).toEqual([type, [], empty.total]);
    }
  });
});
