import { describe, expect, it } from 'vitest';
import type { Attribute } from '../attributes/attribute.ts';
import { readCsv } from './csv.ts';
import { guessPlan } from './guess.ts';
import { inPieces } from './pieces.ts';
import type { ImportPlan } from './plan.ts';
import { type Incoming, Reading, type Rejected, unknownChoices } from './reading.ts';
import { type ColumnSurvey, Surveyor } from './survey.ts';

const base = { source: 'contact', description: '' } as const;
const tier: Attribute = {
  ...base,
  id: 'tier',
  label: 'membership tier',
  type: 'choice',
  ordered: true,
  choices: [
    { id: 'dusk', label: 'Dusk' },
    { id: 'midnight', label: 'Midnight' },
  ],
};
const known: Attribute[] = [
  { ...base, id: 'first-name', label: 'first name', type: 'text' },
  { ...base, id: 'email', label: 'email address', type: 'text' },
  tier,
];

async function surveysOf(text: string): Promise<ColumnSurvey[]> {
  const source = await readCsv(inPieces(text));
  const surveyors = source.headers.map(() => new Surveyor());
  for await (const batch of source.batches)
    for (const { cells } of batch)
      for (const [at, surveyor] of surveyors.entries()) surveyor.add(cells[at] ?? '');
  return surveyors.map((surveyor, at) => surveyor.result(source.headers[at] ?? ''));
}

/** A file read with the guessed plan, changed as a person would. */
async function readAll(text: string, change: (plan: ImportPlan) => void = () => {}) {
  const surveys = await surveysOf(text);
  const plan = guessPlan(surveys, known);
  change(plan);
  const reading = new Reading(plan, surveys, known);
  const read: (Incoming | Rejected)[] = [];
  for await (const batch of (await readCsv(inPieces(text))).batches)
    for (const record of batch) read.push(reading.read(record));
  const accepted = read.filter((one): one is Incoming => !('reason' in one));
  const rejected = read.filter((one): one is Rejected => 'reason' in one);
  return { plan, surveys, reading, accepted, rejected };
}

const lines = (header: string, ...rows: string[]) => [header, ...rows].join('\n');

describe('guessing what columns are', () => {
  it('goes by names first, then by values', async () => {
    const rows = Array.from(
      { length: 30 },
      (_, at) =>
        `p${at}@example.org;${at};Ada;${at % 2 ? 'dusk' : 'Midnight'};${at},5;2025-0${(at % 9) + 1}-03;${at % 2 ? 'yes' : 'no'};Tarnley;Moon|Sun;free words ${at};`,
    );
    const { plan } = await readAll(
      lines('Kontakt;Customer ID;Forename;Membership tier;Score;Since;Member;City;Likes;Note;Empty', ...rows),
    );
    expect(
      plan.columns.map(({ to }) =>
        to.kind === 'new' ? `new ${to.attribute.type}` : to.kind === 'attribute' ? to.attribute : to.kind,
      ),
    ).toEqual([
      'email',
      'external-id',
      'first-name',
      'tier',
      'new number',
      'new date',
      'new yes-no',
      'new choice',
      'new set',
      'new text',
      'skip',
    ]);
    const likes = plan.columns[8]?.to;
    expect(likes?.kind === 'new' && 'choices' in likes.attribute && likes.attribute.choices).toEqual([
      { id: 'moon', label: 'Moon' },
      { id: 'sun', label: 'Sun' },
    ]);
  });

  it('knows the order of day and month only where a date shows it', async () => {
    const text = lines(
      'email,a,b,c,d',
      'x@example.org,03/04/2025,13.04.2025,04/13/2025,2025-04-13',
      'y@example.org,05/04/2025,03.04.2025,04/03/2025,03/04/2025',
    );
    const { surveys, plan, reading } = await readAll(text);
    expect(surveys.map(({ dates }) => dates)).toEqual([null, 'either', 'day-first', 'month-first', 'either']);
    expect(plan.columns.map(({ dates }) => dates)).toEqual([
      undefined,
      undefined,
      'day-first',
      'month-first',
      undefined,
    ]);
    expect(reading.problems).toEqual([
      { path: 'columns.1', message: 'say whether the day or the month comes first in “03/04/2025”' },
      { path: 'columns.4', message: 'say whether the day or the month comes first in “03/04/2025”' },
    ]);
  });

  it('asks where dates contradict each other, and leaves out what does not fit the answer', async () => {
    const text = lines(
      'email,since',
      'x@example.org,13/04/2025',
      'y@example.org,04/13/2025',
      'z@example.org,2025-04-13',
    );
    const { surveys, accepted, rejected, reading } = await readAll(text, ({ columns }) => {
      if (columns[1]) columns[1].dates = 'day-first';
    });
    expect(surveys[1]?.dates).toBe('mixed');
    expect(reading.problems).toEqual([]);
    expect(accepted.map(({ values }) => values.since)).toEqual(['2025-04-13', '2025-04-13']);
    expect(rejected.map(({ row, column }) => [row, column])).toEqual([[3, 'since']]);
  });

  it('asks what a comma in numbers means where it could be either', async () => {
    const text = lines('email;sum', 'x@example.org;1,234', 'y@example.org;12');
    expect((await readAll(text)).reading.problems).toEqual([
      { path: 'columns.1', message: 'say whether a point or a comma begins the decimals' },
    ]);
    const as = async (sign: 'point' | 'comma') =>
      (
        await readAll(text, ({ columns }) => {
          if (columns[1]) columns[1].decimals = sign;
        })
      ).accepted[0]?.values.sum;
    expect([await as('point'), await as('comma')]).toEqual([1234, 1.234]);
    const clear = await readAll(lines('email;sum', 'x@example.org;3,5', 'y@example.org;1.234,5'));
    expect(clear.accepted.map(({ values }) => values.sum)).toEqual([3.5, 1234.5]);
  });
});

describe('reading people', () => {
  it('leaves out rows with a reason that names row and column, and keeps the others', async () => {
    const { accepted, rejected } = await readAll(
      lines(
        'email,first name,membership tier',
        'a@example.org,Zoë 🔭,DUSK',
        ',Ada,Dusk',
        'not an address,Ada,Dusk',
        'A@EXAMPLE.ORG,Again,Dusk',
        'b@example.org,=1+1,Gold',
        'c@example.org,=1+1,',
      ),
    );
    expect(accepted.map(({ email, values }) => [email, values['first-name'], values.tier])).toEqual([
      ['a@example.org', 'Zoë 🔭', 'dusk'],
      ['c@example.org', '=1+1', undefined],
    ]);
    expect(rejected.map(({ row, column, reason }) => ({ row, column, reason }))).toEqual([
      { row: 3, column: 'email', reason: 'has no email address' },
      { row: 4, column: 'email', reason: '“not an address” is not an email address' },
      { row: 5, column: undefined, reason: 'has the same address as row 2' },
      { row: 6, column: 'membership tier', reason: '“Gold” is not one of the choices' },
    ]);
  });

  it('makes choices of values that are none yet, when told to', async () => {
    const text = lines(
      'email,membership tier',
      'a@example.org,Gold',
      'b@example.org,gold',
      'c@example.org,Dusk',
    );
    const { surveys, reading, accepted } = await readAll(text, ({ columns }) => {
      const to = columns[1]?.to;
      if (to?.kind === 'attribute') to.addChoices = true;
    });
    expect(surveys[1] && unknownChoices(tier, surveys[1], undefined)).toEqual(['Gold', 'gold']);
    expect(reading.extended).toEqual([
      {
        ...tier,
        choices: [
          ...(tier.type === 'choice' ? tier.choices : []),
          { id: 'gold', label: expect.stringMatching(/^gold$/i) },
        ],
      },
    ]);
    expect(accepted.map(({ values }) => values.tier)).toEqual(['gold', 'gold', 'dusk']);
  });

  it('splits a list at the sign that was chosen', async () => {
    const text = lines('email;likes', 'a@example.org;Moon/Sun', 'b@example.org;Sun');
    const { accepted } = await readAll(text, ({ columns }) => {
      const column = columns[1];
      if (column)
        Object.assign(column, {
          splitAt: '/',
          to: {
            kind: 'new',
            attribute: {
              ...base,
              id: 'likes',
              label: 'likes',
              type: 'set',
              exclusiveGroups: [],
              choices: [
                { id: 'moon', label: 'Moon' },
                { id: 'sun', label: 'Sun' },
              ],
            },
          },
        });
    });
    expect(accepted.map(({ values }) => values.likes)).toEqual([['moon', 'sun'], ['sun']]);
  });

  it('knows the values that are none of the choices yet, of a list each member, and of too many none', async () => {
    const [survey] = await surveysOf(lines('tier', 'Dusk', 'Dawn', 'Dusk; Noon', 'Dawn'));
    if (!survey) throw new Error('there is a column');
    expect(unknownChoices(tier, survey, undefined)).toEqual(['Dawn', 'Dusk; Noon']);
    const set: Attribute = { ...base, ...tier, type: 'set', exclusiveGroups: [] };
    expect(unknownChoices(set, survey, undefined)).toEqual(['Dawn', 'Noon']);
    expect(unknownChoices(tier, { ...survey, distinct: null }, undefined)).toEqual([]);
    const { reading } = await readAll(lines('email,membership tier', 'a@example.org,Dusk'));
    expect([reading.added, reading.extended]).toEqual([[], []]);
  });

  it('refuses plans that can’t be followed, each with its place', async () => {
    const text = lines('email,other,tier,again', 'a@example.org,b@example.org,Dusk,Dusk');
    const problems = async (change: (plan: ImportPlan) => void) =>
      (await readAll(text, change)).reading.problems.map(({ path }) => path);
    expect(
      await problems(({ columns }) => {
        if (columns[0]) columns[0].to = { kind: 'skip' };
      }),
    ).toEqual(['matchBy']);
    expect(
      await problems((plan) => {
        plan.matchBy = 'external-id';
      }),
    ).toEqual(['matchBy']);
    expect(
      await problems(({ columns }) => {
        if (columns[1]) columns[1].to = { kind: 'email' };
      }),
    ).toEqual(['columns.1']);
    expect(
      await problems(({ columns }) => {
        for (const at of [2, 3])
          if (columns[at]) columns[at].to = { kind: 'attribute', attribute: 'tier', addChoices: false };
      }),
    ).toEqual(['columns.3']);
    expect(
      await problems(({ columns }) => {
        if (columns[3]) columns[3].to = { kind: 'attribute', attribute: 'signed-in', addChoices: false };
      }),
    ).toEqual(['columns.3']);
    expect(
      await problems(({ columns }) => {
        if (columns[3]) columns[3].to = { kind: 'new', attribute: { ...tier, id: 'first-name' } };
      }),
    ).toEqual(['columns.3']);
  });
});

describe('what everybody in a file gets', () => {
  const lists: Attribute = {
    ...base,
    id: 'lists',
    label: 'lists',
    type: 'set',
    choices: ['news', 'daily', 'weekly'].map((id) => ({ id, label: id })),
    exclusiveGroups: [{ name: 'how often', members: ['daily', 'weekly'] }],
  };
  const givenBy = async (given: ImportPlan['given'], header = 'email', row = 'a@example.org') => {
    const surveys = await surveysOf(lines(header, row));
    const all = [...known, lists];
    const reading = new Reading({ ...guessPlan(surveys, all), given }, surveys, all);
    return {
      problems: reading.problems.map(({ message }) => message),
      members: reading.given.map(({ members }) => members),
      extended: reading.extended.map(({ id }) => id),
      choices: reading.extended.flatMap((one) =>
        one.type === 'set' ? one.choices.map(({ label }) => label) : [],
      ),
    };
  };

  it('is found by its label, and made where there is none', async () => {
    expect(await givenBy([{ attribute: 'lists', label: 'NEWS' }])).toEqual({
      problems: [],
      members: [['news']],
      extended: [],
      choices: [],
    });
    expect(
      await givenBy([
        { attribute: 'lists', label: 'Autumn' },
        { attribute: 'lists', label: 'news' },
      ]),
    ).toEqual({
      problems: [],
      members: [['autumn', 'news']],
      extended: ['lists'],
      choices: ['news', 'daily', 'weekly', 'Autumn'],
    });
  });

  it('joins the choices that a column brings along', async () => {
    const surveys = await surveysOf(lines('email,lists', 'a@example.org,Spring'));
    const all = [...known, lists];
    const guessed = guessPlan(surveys, all);
    const columns = guessed.columns.map((one) =>
      one.to.kind === 'attribute' ? { ...one, to: { ...one.to, addChoices: true } } : one,
    );
    const given = [
      { attribute: 'lists', label: 'Autumn' },
      { attribute: 'lists', label: 'spring' },
    ];
    const { extended, problems, given: made } = new Reading({ ...guessed, columns, given }, surveys, all);
    expect(problems).toEqual([]);
    expect(extended).toHaveLength(1);
    expect(extended[0]).toMatchObject({
      choices: ['news', 'daily', 'weekly', 'Spring', 'Autumn'].map((label) => ({ label })),
    });
    expect(made[0]?.members).toEqual(['autumn', 'spring']);
  });

  it('is refused where it is no set, is gone, or excludes itself', async () => {
    const refused = 'What everybody gets is not a list or tag any more.';
    expect((await givenBy([{ attribute: 'tier', label: 'Dusk' }])).problems).toEqual([refused]);
    expect((await givenBy([{ attribute: 'nothing', label: 'x' }])).problems).toEqual([refused]);
    expect(
      (
        await givenBy([
          { attribute: 'lists', label: 'daily' },
          { attribute: 'lists', label: 'weekly' },
        ])
      ).problems,
    ).toEqual(['“lists” holds 2 values of “how often”, which allows one.']);
  });
});

describe('cells that can’t be read', () => {
  const text = lines(
    'email,membership tier,First name',
    'a@example.org,Dawn,Ada',
    'nobody,Dusk,Bo',
    ',Dusk,Cy',
  );

  it('take their row along, or are left out alone, but never those that say who it is', async () => {
    const strict = await readAll(text);
    expect(strict.accepted).toEqual([]);
    expect(strict.rejected).toHaveLength(3);
    const mild = await readAll(text, (plan) => {
      plan.unreadable = 'cell';
    });
    expect(mild.accepted).toMatchObject([
      {
        values: { 'first-name': 'Ada' },
        unreadable: [{ column: 'membership tier', reason: '“Dawn” is not one of the choices' }],
      },
    ]);
    expect(mild.accepted[0]?.values).not.toHaveProperty('tier');
    expect(mild.rejected.map(({ column }) => column)).toEqual(['email', 'email']);
  });
});
