import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parse as parseWithSecondReader } from 'csv-parse/sync';
import Papa from 'papaparse';
import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { all, type Condition, not, test } from '../../core/conditions/condition.ts';
import { Caller, type Guessed, type Instance, importFile, importThat, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

const count = async (condition: Condition): Promise<number> =>
  (await studio.call('POST', '/api/audiences/count', { condition, audience: null })).body.count;

/** All contacts as the database has them, and the attributes. */
async function everything(): Promise<unknown> {
  const contacts = await instance.sequelize.query(
    'SELECT id, email, externalId, name, `values` FROM contacts ORDER BY id',
    { type: QueryTypes.SELECT },
  );
  return contacts;
}

const mixed = [
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

/** So many people that an import takes a moment. */
function crowd(people: number, prefix: string): string {
  const rows = Array.from(
    { length: people },
    (_, at) => `${prefix}${at}@example.org,Nell ${at},${at % 7},Tarnley,free words about ${at}`,
  );
  return ['email,First name,visits this year,city,Remark', ...rows].join('\n');
}

describe('importing', () => {
  it('does what the trial said: adds, changes and leaves people as they are, and lists what it left out', async () => {
    const tried = await importFile(studio, mixed, { run: false });
    expect(await studio.get('/api/contacts?search=new.one')).toMatchObject({ body: { matching: 0 } });
    const done = await importFile(studio, mixed);
    expect({ ...done.report, attributes: undefined }).toEqual({ ...tried.report, attributes: undefined });
    expect(done.report).toMatchObject({ rows: 69, added: 61, changed: 1, unchanged: 1, rejected: 6 });
    expect(done.report?.samples.rejected.map(({ row, column, reason }) => [row, column, reason])).toEqual([
      [5, 'Email', '“broken” is not an email address'],
      [6, 'Email', 'has no email address'],
      [7, null, 'has the same address as row 2'],
      [8, 'membership tier', '“Dawn” is not one of the choices'],
      [9, null, 'has 7 cells, but there are 6 columns'],
      [10, 'Email', '“bad\nline@example.org” is not an email address'],
    ]);
    expect(done.report?.samples.added).toHaveLength(20);
    const { body: ines } = await studio.get('/api/contacts/1');
    expect(ines.values).toMatchObject({
      'first-name': 'Ines',
      tier: 'midnight',
      'shoe-size': 38,
      hobbies: ['chess'],
    });
    expect((await importFile(studio, mixed)).report).toMatchObject({ added: 0, changed: 0, unchanged: 63 });
  });

  it('gives the rows back that it left out, with the reason beside each', async () => {
    const { id } = await importFile(studio, mixed, { run: false, name: 'my people.csv' });
    const file = await studio.get(`/api/imports/${id}/left-out.csv`);
    expect(file.headers.get('content-disposition')).toContain('my-people-left-out.csv');
    const rows: string[][] = parseWithSecondReader(file.text, { bom: true });
    expect(rows[0]?.slice(-3)).toEqual(['row in the file', 'what was left out', 'why it was left out']);
    expect(rows).toHaveLength(7);
    expect(rows[4]).toEqual([
      'wrong.tier@example.org',
      'Wanda',
      'Dawn',
      '40',
      'chess',
      '2022-02-02',
      '8',
      'the row',
      'membership tier: “Dawn” is not one of the choices',
    ]);
    expect((await studio.get('/api/imports/999/left-out.csv')).status).toBe(404);
  });

  it('brings rows in without the cells that can’t be read, where that is asked for, and lists those cells', async () => {
    const text = [
      'email,membership tier,visits this year,City',
      'ines.marlow@example.org,Dawn,12,Ashwold',
      'cell.by.cell@example.org,Dusk,many,Ashwold',
      'cell.by.cell2@example.org,Dawn,lots,Ashwold',
      'broken,Dusk,1,Ashwold',
    ].join('\n');
    const before = (await studio.get('/api/contacts/1')).body.values;
    const whole = await importFile(studio, text, { run: false });
    expect(whole.report).toMatchObject({
      added: 0,
      rejected: 4,
      cells: 0,
      causes: [
        { column: 'membership tier', rows: 2 },
        { column: 'visits this year', rows: 1 },
        { column: 'email', rows: 1 },
      ],
    });
    const { id, report } = await importFile(studio, text, {
      plan: (guessed) => ({ ...guessed, unreadable: 'cell' }),
    });
    expect(report).toMatchObject({ added: 2, changed: 1, rejected: 1, cells: 4 });
    expect(report?.samples.cells.map(({ row, column }) => [row, column])).toEqual([
      [2, 'membership tier'],
      [3, 'visits this year'],
      [4, 'membership tier'],
      [4, 'visits this year'],
    ]);
    expect((await studio.get('/api/contacts/1')).body.values).toEqual({
      ...before,
      visits: 12,
      city: 'Ashwold',
    });
    const added = (await studio.get('/api/contacts?search=cell.by.cell')).body.contacts;
    expect(added.map(({ values }: { values: object }) => values)).toEqual([
      { email: 'cell.by.cell@example.org', tier: 'dusk', city: 'Ashwold' },
      { email: 'cell.by.cell2@example.org', city: 'Ashwold' },
    ]);
    const rows: string[][] = parseWithSecondReader(
      (await studio.get(`/api/imports/${id}/left-out.csv`)).text,
      {
        bom: true,
      },
    );
    expect(rows.map((row) => row.slice(-3, -1))).toEqual([
      ['row in the file', 'what was left out'],
      ['2', 'the cell'],
      ['3', 'the cell'],
      ['4', 'the cell'],
      ['4', 'the cell'],
      ['5', 'the row'],
    ]);
    await studio.call('POST', `/api/imports/${id}/undo`);
    await importThat(studio, id, 'undone');
    expect((await studio.get('/api/contacts/1')).body.values).toEqual(before);
  });

  it('puts everybody in a file on a list that it makes, lists exactly them, and takes both back', async () => {
    const before = await everything();
    const text = 'email,City\nines.marlow@example.org,\nstall.visitor@example.org,Ashwold\n,nobody\n';
    const tags = (await studio.get('/api/attributes')).body.find(({ id }: { id: string }) => id === 'tags');
    const { id, report } = await importFile(studio, text, {
      plan: (guessed) => ({ ...guessed, given: [{ attribute: 'tags', label: 'Autumn stall' }] }),
    });
    expect(report).toMatchObject({ added: 1, changed: 1, rejected: 1 });
    const these = (await studio.get(`/api/contacts?import=${id}`)).body;
    expect(these.matching).toBe(2);
    expect(these.contacts.map(({ email }: { email: string }) => email).sort()).toEqual([
      'ines.marlow@example.org',
      'stall.visitor@example.org',
    ]);
    for (const { values } of these.contacts) expect(values.tags).toContain('autumn-stall');
    expect(await count(test('tags', 'includes-any', 'autumn-stall'))).toBe(2);
    const found = (await studio.get(`/api/contacts?import=${id}&search=stall`)).body;
    expect(found.matching).toBe(1);
    const exported = await studio.get(`/api/contacts/export?kind=csv&import=${id}`);
    expect(parseWithSecondReader(exported.text, { bom: true })).toHaveLength(3);
    await studio.call('POST', `/api/imports/${id}/undo`);
    await importThat(studio, id, 'undone');
    expect(await everything()).toEqual(before);
    expect(
      (await studio.get('/api/attributes')).body.find((one: { id: string }) => one.id === 'tags'),
    ).toEqual(tags);
    expect((await studio.get('/api/contacts?import=0')).status).toBe(400);
    expect((await studio.get('/api/contacts?import=999999')).body.matching).toBe(0);
  });

  it('takes an import back exactly, again after a second one, and keeps what was changed since', async () => {
    const before = await everything();
    const text = [
      'email,membership tier,City,visits this year',
      'ines.marlow@example.org,Dusk,,0',
      'tobias.orrin@example.org,Midnight,Ashwold,77',
      'fresh@example.org,Midnight,Ashwold,77',
    ].join('\n');
    const clear = { plan: (guessed: Guessed) => ({ ...guessed, blank: 'clear' as const }) };
    const { id, report } = await importFile(studio, text, clear);
    expect(report).toMatchObject({ added: 1, changed: 2 });
    expect(await everything()).not.toEqual(before);
    expect((await studio.call('POST', `/api/imports/${id}/undo`)).status).toBe(202);
    const undone = await importThat(studio, id, 'undone');
    expect(undone.report?.undone).toEqual({ removed: 1, restored: 2, kept: 0 });
    expect(await everything()).toEqual(before);
    expect((await studio.get('/api/contacts?search=fresh@')).body.matching).toBe(0);
    expect((await studio.call('POST', `/api/imports/${id}/undo`)).status).toBe(409);

    const again = await importFile(studio, text, clear);
    await importFile(studio, 'email,City\nfresh@example.org,Tarnley\ntobias.orrin@example.org,Tarnley');
    await studio.call('POST', `/api/imports/${again.id}/undo`);
    const kept = await importThat(studio, again.id, 'undone');
    expect(kept.report?.undone).toEqual({ removed: 0, restored: 1, kept: 2 });
    const { body } = await studio.get('/api/contacts?search=fresh@');
    expect(body.contacts[0].values.city).toBe('Tarnley');
  });

  it('takes back the attributes and choices that came with it, unless they are used by now', async () => {
    const attributes = async () => (await studio.get('/api/attributes')).body;
    const before = await attributes();
    const text =
      'email,membership tier,Boat\nsail.one@example.org,Dawn,Ketch\nsail.two@example.org,Dusk,Yawl';
    const addChoices = {
      plan: (guessed: Guessed) => ({
        ...guessed,
        columns: guessed.columns.map((column) =>
          column.to.kind === 'attribute' ? { ...column, to: { ...column.to, addChoices: true } } : column,
        ),
      }),
    };
    const first = await importFile(studio, text, addChoices);
    expect(first.report).toMatchObject({ added: 2, rejected: 0 });
    expect(await attributes()).not.toEqual(before);
    await studio.call('POST', `/api/imports/${first.id}/undo`);
    await importThat(studio, first.id, 'undone');
    expect(await attributes()).toEqual(before);

    const second = await importFile(studio, text, addChoices);
    const audience = { name: 'Sailors', description: '', condition: test('boat', 'has-value') };
    const { body: made } = await studio.call('POST', '/api/audiences', audience);
    await studio.call('POST', `/api/imports/${second.id}/undo`);
    await importThat(studio, second.id, 'undone');
    expect((await attributes()).map(({ id }: { id: string }) => id)).toContain('boat');
    await studio.call('DELETE', `/api/audiences/${made.id}`);
    await studio.call('DELETE', '/api/attributes/boat');
    expect(await attributes()).toEqual(before);
  });

  it('matches by the id of another system, changes an address by it, and never takes somebody else’s', async () => {
    const byId = (guessed: Guessed) => ({
      ...guessed,
      matchBy: 'external-id' as const,
    });
    const first = await importFile(studio, 'id,email\nC1,one@example.org\nC2,two@example.org', {
      plan: byId,
    });
    expect(first.report).toMatchObject({ added: 2 });
    const second = await importFile(
      studio,
      'id,email\nC1,uno@example.org\nC2,uno@example.org\nC3,\nC2,ines.marlow@example.org',
      { plan: byId },
    );
    expect(second.report).toMatchObject({ changed: 1, rejected: 3 });
    expect((await studio.get('/api/contacts?search=uno@')).body.matching).toBe(1);
  });

  it('asks before it reads dates that could be either, and says where', async () => {
    const text = 'email,Since\na@example.org,03/04/2025\nb@example.org,05/06/2025';
    const open = await importFile(studio, text);
    expect(open.status).toBe('read');
    expect(open.problems).toEqual([
      { path: 'columns.1', message: 'say whether the day or the month comes first in “03/04/2025”' },
    ]);
    expect((await studio.call('POST', `/api/imports/${open.id}/run`)).status).toBe(409);
  });

  it.each([
    ['', 'The file is empty.'],
    ['\uFEFF \n', 'The file is empty.'],
    ['email,city', 'no people below'],
    ['email,City,city\na@example.org,x,y', 'Columns 2 and 3 are both called “city”'],
    ['email,,x\na@example.org,1,2', 'Column 2 has no name'],
    ['email,x\na@example.org,"broken', 'A quotation mark in row 2 is opened and never closed.'],
    ['email\n\0@example.org', 'NUL'],
    [`email,${Array.from({ length: 300 }, (_, index) => `c${index}`).join()}\na@example.org`, '301 columns'],
    ['PK\u0003\u0004 not a CSV', 'spreadsheet'],
  ])('refuses as a whole a file that is no list of people (%#)', async (text, reason) => {
    const failed = await importFile(studio, text);
    expect(failed.status).toBe('failed');
    expect(failed.failure).toContain(reason);
  });

  it('refuses a file of 300 MB while it is sent, and keeps none of it', async () => {
    const piece = new Uint8Array(1024 * 1024).fill(97);
    let sent = 0;
    const body = new ReadableStream({
      pull(controller) {
        if (sent++ < 300) controller.enqueue(piece);
        else controller.close();
      },
    });
    const response = await fetch(`${instance.app.address}/api/imports?name=large.csv`, {
      method: 'POST',
      headers: { ...studio.cookieHeader, 'content-type': 'application/octet-stream' },
      body,
      duplex: 'half',
    } as RequestInit).catch((error: Error) => error);
    // The server may close the connection before all is sent; then there is no answer to read.
    if (response instanceof Response) expect(response.status).toBe(413);
    const { body: imports } = await studio.get('/api/imports');
    expect(imports.map(({ name }: { name: string }) => name)).not.toContain('large.csv');
  });

  it('takes a plan at the very moment when the trial of the one before is stored, and imports by it', async () => {
    const sent = await studio.call(
      'POST',
      '/api/imports?name=moments.csv',
      Buffer.from(
        ['email,First name', ...Array.from({ length: 200 }, (_, at) => `moment${at}@example.org,Nell`)].join(
          '\n',
        ),
      ),
      {
        'content-type': 'application/octet-stream',
      },
    );
    const { id, plan } = await importThat(studio, sent.body.id, 'read');
    const isTried = async () => {
      const [row] = await instance.sequelize.query<{ status: string }>(
        'SELECT status FROM imports WHERE id = ?',
        {
          replacements: [id],
          type: QueryTypes.SELECT,
        },
      );
      return row?.status === 'checked';
    };
    const put = async (label: string) => {
      const given = [{ attribute: 'tags', label }];
      const { status, text } = await studio.call('PUT', `/api/imports/${id}/plan`, { ...plan, given });
      expect([label, status, text]).toEqual([label, 200, expect.any(String)]);
    };
    for (let turn = 0; turn < 8; turn++) {
      await put(`Moment ${turn}`);
      while (!(await isTried()));
    }
    await put('Moment last');
    await importThat(studio, id, 'checked');
    expect((await studio.call('POST', `/api/imports/${id}/run`)).status).toBe(202);
    await importThat(studio, id, 'imported');
    const { body } = await studio.get('/api/contacts?search=moment7@');
    expect(body.contacts[0].values.tags).toHaveLength(1);
    const { body: tags } = await studio.get('/api/attributes');
    const tag = tags.find((one: { id: string }) => one.id === 'tags');
    const chosen = tag.choices.find(
      (choice: { id: string }) => choice.id === body.contacts[0].values.tags[0],
    );
    expect(chosen.label).toBe('Moment last');
  });

  it('needs a column that tells people apart', async () => {
    const open = await importFile(studio, 'name,city\nAda,Tarnley');
    expect(open.problems).toEqual([
      { path: 'matchBy', message: 'Say which column is the email address: people are told apart by it.' },
    ]);
  });

  it('reads Windows-1252, cards and JSON Lines', async () => {
    const latin = Buffer.from('email;First name;Ort\nzoe@example.org;Zoë;Tarnley\n', 'latin1');
    expect((await importFile(studio, latin)).survey).toMatchObject({ encoding: 'windows-1252', kind: 'csv' });
    expect((await studio.get('/api/contacts?search=zoe@')).body.contacts[0].values['first-name']).toBe('Zoë');
    const cards =
      'BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Ada Lark\r\nN:Lark;Ada;;;\r\nEMAIL:ada.lark@example.org\r\nEND:VCARD\r\n';
    expect((await importFile(studio, cards)).report).toMatchObject({ added: 1 });
    const lines =
      '{"email":"jay@example.org","tags":["family","Moon"]}\n{"tags":["Sun"],"email":"kay@example.org"}\n';
    expect((await importFile(studio, lines)).report).toMatchObject({ added: 2 });
    expect((await studio.get('/api/contacts?search=kay@')).body.contacts[0].values.tags).toEqual(['sun']);
  });

  it('keeps quoted cells, line breaks and formula-like cells as they are (RFC 4180)', async () => {
    const notes = ['=1+1', 'a, "quoted" word', 'two\nlines', '+44', '@handle', '-5', 'שלום', '🔭'];
    const csv = Papa.unparse(notes.map((note, index) => ({ email: `n${index}@example.org`, Remark: note })));
    expect((await importFile(studio, csv)).report).toMatchObject({ added: 8, rejected: 0 });
    const { body } = await studio.get('/api/contacts?search=n0@');
    expect(body.contacts[0].values.remark).toBe('=1+1');
    const stored = await studio.get('/api/attributes/remark/values');
    expect(stored.body.values.map((entry: { value: string }) => entry.value).sort()).toEqual(
      [...notes].sort(),
    );
  });

  it('stores nothing of an import that is stopped, answers meanwhile, and can do it again', async () => {
    const before = await everything();
    const { id } = await importFile(studio, crowd(30_000, 'stop'), { run: false });
    await studio.call('POST', `/api/imports/${id}/run`);
    for (let tries = 0; ; tries++) {
      const { body } = await studio.get(`/api/imports/${id}`);
      if (body.status === 'importing' && body.progress > 0.2) break;
      if (tries > 2000 || body.status === 'imported') throw new Error('was never seen in the middle');
    }
    expect((await studio.get('/api/contacts')).status).toBe(200);
    expect((await studio.call('PUT', `/api/imports/${id}/plan`, {})).status).toBe(400);
    expect((await studio.call('POST', `/api/imports/${id}/run`)).status).toBe(409);
    const { body: stopped } = await studio.call('POST', `/api/imports/${id}/cancel`);
    expect(stopped).toMatchObject({ status: 'checked', failure: 'Stopped. Nothing of it was stored.' });
    expect(await everything()).toEqual(before);
    await studio.call('POST', `/api/imports/${id}/run`);
    expect((await importThat(studio, id, 'imported')).report).toMatchObject({ added: 30_000 });
    expect((await studio.get('/api/contacts?search=stop29999')).body.matching).toBe(1);
    await studio.call('POST', `/api/imports/${id}/undo`);
    await importThat(studio, id, 'undone');
    expect(await everything()).toEqual(before);
  });

  // Palmer penguins: Gorman, Williams and Fraser 2014; counts as published with the data set.
  it('finds the published counts of the Palmer penguins again', async () => {
    const penguins: Record<string, string | number | null>[] = JSON.parse(
      readFileSync(new URL('../data/penguins.json', import.meta.url), 'utf8'),
    );
    const csv = Papa.unparse(
      penguins.map((row, index) => ({ email: `penguin${index}@example.org`, ...row })),
    );
    const { report } = await importFile(studio, csv);
    expect(report).toMatchObject({ rows: 344, added: 344, rejected: 0 });
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
    const heavy = all(species('gentoo'), test('body-mass-g', 'more-than', 5000));
    expect(await count(heavy)).toBe(
      penguins.filter((row) => row.Species === 'Gentoo' && Number(row['Body Mass (g)']) > 5000).length,
    );
  });
});

describe('a server that is killed in the middle of an import', () => {
  it('leaves nothing of it, and another server does it, once', async () => {
    const { id } = await importFile(studio, crowd(30_000, 'kill'), { run: false });
    const before = await everything();
    // Nobody but the one that is killed has it, until another one starts.
    await instance.app.queue.stop();
    const child = spawn(process.execPath, ['--import', 'tsx', join('server', 'main.ts')], {
      env: { ...process.env, DATABASE_URL: instance.databaseUrl, PORT: '0' },
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    });
    const [ready] = await once(child, 'message');
    const other = await new Caller(ready.address).signIn();
    await other.call('POST', `/api/imports/${id}/run`);
    for (let tries = 0; ; tries++) {
      const { body } = await studio.get(`/api/imports/${id}`);
      if (body.status === 'importing' && body.progress > 0.2) break;
      if (tries > 2000 || body.status === 'imported') throw new Error('was never seen in the middle');
    }
    child.kill('SIGKILL');
    await once(child, 'exit');
    expect(await everything()).toEqual(before);
    const again = await startInstance(instance);
    try {
      const { report } = await importThat(again.studio, id, 'imported', 'checked');
      expect(report).toMatchObject({ added: 30_000 });
      expect((await again.studio.get('/api/contacts?search=kill29999')).body.matching).toBe(1);
    } finally {
      await again.stop();
    }
  });
});
