import { readFileSync } from 'node:fs';
import Papa from 'papaparse';
import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { factsOf } from '../../core/attributes/viewer.ts';
import { all, type Condition, not, test } from '../../core/conditions/condition.ts';
import { operatorsFor } from '../../core/conditions/operators.ts';
import { toSql } from '../../core/conditions/sql.ts';
import { demoAttributes, demoAudiences, demoSettings } from '../../demo/scenario.ts';
import { type Caller, type Instance, startInstance } from './instance.ts';

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
  catalogue = new Catalogue(demoAttributes, demoSettings.zone),
): Promise<number> {
  const { sql, values } = toSql(condition, {
    catalogue,
    conditionOf: (id) => demoAudiences.find((audience) => audience.id === id)?.condition,
    facts: factsOf(catalogue, { contact: null, signedIn: false, visit: {}, item: null, instant: Date.now() }),
    signedIn: 'EXISTS (SELECT 1 FROM site_accounts WHERE contactId = contacts.id)',
    column: 'contacts.`values`',
  });
  const [row] = await instance.sequelize.query<{ people: number }>(
    `SELECT COUNT(*) AS people FROM contacts WHERE ${sql}`,
    { type: QueryTypes.SELECT, replacements: values },
  );
  return Number(row?.people);
}

describe('membership by MariaDB itself (ISO SQL truth tables)', () => {
  it.each(demoAudiences)('“$name” has the same members', async ({ condition }) => {
    const people = await count(condition);
    expect(people).toBe(await countBySql(condition));
    expect(people).toBeGreaterThan(0);
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

describe('importing', () => {
  const importCsv = (csv: string, dryRun = false) =>
    studio.call('POST', '/api/contacts/import', { csv, dryRun });

  it('adds, changes and leaves people as they are, and lists the rows it left out with reasons', async () => {
    const csv = [
      'Email,First name,membership tier,Shoe size,Hobbies,Since',
      'new.one@example.org,Nell,Dusk,41,chess; tennis,2020-01-31',
      'INES.MARLOW@example.org,,Midnight,38,chess,2021-05-01',
      'tobias.orrin@example.org,Tobias,Dusk,,,',
      'broken,Bo,Dusk,40,chess,2022-02-02',
      ',Anon,Dusk,40,chess,2022-02-02',
      'new.one@example.org,Again,Dusk,40,chess,2022-02-02',
      'wrong.tier@example.org,Wanda,Dawn,40,chess,2022-02-02',
      'too.many@example.org,Tom,Dusk,40,chess,2022-02-02,extra',
      '"bad\nline@example.org",Lin,Dusk,40,chess,2022-02-02',
      ...Array.from(
        { length: 60 },
        (_, index) => `p${index}@example.org,P,Dusk,${40 + (index % 3)},chess,2023-03-03`,
      ),
    ].join('\r\n');
    const dry = (await importCsv(csv, true)).body;
    expect(await studio.get('/api/contacts?search=new.one')).toMatchObject({ body: { matching: 0 } });
    const { body } = await importCsv(csv);
    expect(body).toEqual(dry);
    expect(body).toMatchObject({ rows: 69, added: 61, changed: 1, unchanged: 1, rejectedCount: 6 });
    expect(body.rejected.map((row: { row: number; reason: string }) => [row.row, row.reason])).toEqual([
      [5, '“broken” is not an email address'],
      [6, 'has no email address'],
      [7, 'has the same address as row 2'],
      [8, 'membership tier: “Dawn” is not one of the choices'],
      [9, 'has 7 cells, the first row has 6'],
      [10, '“bad\nline@example.org” is not an email address'],
    ]);
    expect(
      body.columns.map((column: { attribute: string; type: string; isNew: boolean }) => [
        column.attribute,
        column.type,
        column.isNew,
      ]),
    ).toEqual([
      ['email address', 'email', false],
      ['first name', 'text', false],
      ['membership tier', 'choice', false],
      ['Shoe size', 'number', true],
      ['Hobbies', 'set', true],
      ['Since', 'date', true],
    ]);
    const { body: ines } = await studio.get('/api/contacts/1');
    expect(ines.values).toMatchObject({
      'first-name': 'Ines',
      tier: 'midnight',
      'shoe-size': 38,
      hobbies: ['chess'],
    });
    expect((await importCsv(csv)).body).toMatchObject({ added: 0, changed: 0, unchanged: 63 });
  });

  it.each([
    ['', 'is empty'],
    ['\uFEFF \n', 'is empty'],
    ['name,city\na,b', 'No column is called “email”'],
    ['email,city', 'no people below'],
    ['email,City,city\na@example.org,x,y', 'Two columns are called “city”'],
    ['email,,x\na@example.org,1,2', 'Column 2 has no name'],
    ['email,x\na@example.org,"broken', 'quotation marks'],
    ['email\n\0@example.org', 'NUL'],
    [`email,${Array.from({ length: 300 }, (_, index) => `c${index}`).join()}\na@example.org`, '301 columns'],
  ])('refuses the file %j as a whole', async (csv, reason) => {
    const answer = await importCsv(csv);
    expect(answer.status).toBe(422);
    expect(answer.body.message).toContain(reason);
  });

  it('keeps quoted cells, line breaks and formula-like cells as they are (RFC 4180)', async () => {
    const notes = ['=1+1', 'a, "quoted" word', 'two\nlines', '+44', '@handle', '-5', 'שלום', '🔭'];
    const csv = Papa.unparse(notes.map((note, index) => ({ email: `n${index}@example.org`, Remark: note })));
    expect((await importCsv(csv)).body).toMatchObject({ added: 8, rejectedCount: 0 });
    const { body } = await studio.get('/api/contacts?search=n0@');
    expect(body.contacts[0].values.remark).toBe('=1+1');
    const stored = await studio.get('/api/attributes/remark/values');
    expect(stored.body.values.map((entry: { value: string }) => entry.value).sort()).toEqual(
      [...notes].sort(),
    );
  });

  // Palmer penguins: Gorman, Williams and Fraser 2014; counts as published with the data set.
  it('finds the published counts of the Palmer penguins again', async () => {
    const penguins: Record<string, string | number | null>[] = JSON.parse(
      readFileSync(new URL('../data/penguins.json', import.meta.url), 'utf8'),
    );
    const csv = Papa.unparse(
      penguins.map((row, index) => ({ email: `penguin${index}@example.org`, ...row })),
    );
    const { body } = await importCsv(csv);
    expect(body).toMatchObject({ rows: 344, added: 344, rejectedCount: 0 });
    const species = (name: string) => test('species', 'is-one-of', name);
    expect(await count(species('adelie'))).toBe(152);
    expect(await count(species('chinstrap'))).toBe(68);
    expect(await count(species('gentoo'))).toBe(124);
    const penguin = test('species', 'has-value');
    expect(await count(penguin)).toBe(344);
    expect(await count(all(penguin, test('body-mass-g', 'has-no-value')))).toBe(2);
    expect(await count(all(penguin, test('sex', 'has-no-value')))).toBe(10);
    expect(await count(test('sex', 'is-one-of', 'male'))).toBe(168);
    expect(await count(test('sex', 'is-one-of', 'female'))).toBe(165);
    expect(await count(all(penguin, not(test('sex', 'is-one-of', 'male', 'female'))))).toBe(11);
    const catalogue = new Catalogue((await studio.get('/api/attributes')).body, demoSettings.zone);
    const heavy = all(species('gentoo'), test('body-mass-g', 'more-than', 5000));
    expect(await count(heavy)).toBe(await countBySql(heavy, catalogue));
    expect(await count(heavy)).toBe(
      penguins.filter((row) => row.Species === 'Gentoo' && Number(row['Body Mass (g)']) > 5000).length,
    );
  });
});
