import { CelScalar, celEnv, celFunc, parse, plan } from '@bufbuild/cel';
import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { fold } from '../../core/attributes/text-folding.ts';
import { Facts, factsOf } from '../../core/attributes/viewer.ts';
import { toCel } from '../../core/conditions/cel.ts';
import { not, test } from '../../core/conditions/condition.ts';
import { compile } from '../../core/conditions/evaluate.ts';
import { toSql } from '../../core/conditions/sql.ts';
import { Population } from '../../core/population/population.ts';
import { Random } from '../../demo/random.ts';
import { ContactRow } from '../../server/people/rows.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { attributes, noon } from '../random-conditions.ts';
import { partOf, randomText } from '../random-texts.ts';
import { type Instance, startInstance } from './instance.ts';

const catalogue = new Catalogue(attributes, 'Europe/London');
const random = new Random(2026);
const texts = ['한국', 'ΟΔΟΣΑ', 'कुमार', 'कमर', 'İstanbul', 'ısı', 'Straße', 'ｆｕｌｌ', '①', '🔭 moon'];
while (texts.length < 1000) texts.push(randomText(random));

let instance: Instance;
beforeAll(async () => {
  instance = await startInstance();
  const people = texts.map((city, index) => ({
    id: index + 1,
    email: `p${index}@example.org`,
    name: 'Person',
    values: { city },
  }));
  await inTransaction(async (transaction) => {
    await ContactRow.destroy({ where: {}, transaction });
    await ContactRow.bulkCreate(people, { transaction });
  });
});
afterAll(() => instance.stop());

const facts = texts.map((city) =>
  factsOf(catalogue, { contact: { city }, signedIn: false, visit: {}, item: null, instant: noon }),
);
const nowhere = Facts.of([], 0);

/** Conditions about parts and forms of the texts themselves, so that many of them hold. */
const conditions = Array.from({ length: 1000 }, (_, index) => {
  const part = partOf(texts[index] ?? '', random);
  const op = random.pick(['contains', 'contains', 'starts-with', 'ends-with', 'is-one-of', 'is-none-of']);
  const asked = test(
    'city',
    op,
    ...(op.startsWith('is') ? [part, partOf(random.pick(texts as [string, ...string[]]), random)] : [part]),
  );
  return random.chance(0.2) ? not(asked) : asked;
});

it('1,000,000 pairs of a text and a test, of every script, have one answer by all four ways', async () => {
  const population = new Population(catalogue);
  for (const [index, city] of texts.entries())
    population.put({ id: index + 1, values: { city }, hasAccount: false });
  population.reindex();
  const asking = population.under({ instant: noon, channel: 'page' }, [], new Map());
  const environment = celEnv({ funcs: [celFunc('fold', [CelScalar.STRING], CelScalar.STRING, fold)] });
  const viewers = texts.map((city) => ({ it: new Map([['city', city]]) }));
  let held = 0;
  for (const condition of conditions) {
    const said = JSON.stringify(condition);
    const holds = compile(condition, catalogue);
    const evaluated = facts.flatMap((of, index) => (holds(of) ? [index + 1] : []));
    expect(population.idsIn(asking.rows(condition)), said).toEqual(evaluated);
    const program = plan(environment, parse(toCel(condition, catalogue)));
    expect(
      viewers.flatMap((viewer, index) => (program(viewer) === true ? [index + 1] : [])),
      said,
    ).toEqual(evaluated);
    const { sql, values } = toSql(condition, {
      catalogue,
      conditionOf: () => undefined,
      facts: nowhere,
      signedIn: 'FALSE',
      columns: {
        id: 'contacts.id',
        email: 'contacts.email',
        values: 'contacts.`values`',
        folded: 'contacts.folded',
      },
    });
    const rows = await instance.sequelize.query<{ id: number }>(
      `SELECT id FROM contacts WHERE ${sql} ORDER BY id`,
      {
        type: QueryTypes.SELECT,
        replacements: values,
      },
    );
    expect(
      rows.map(({ id }) => id),
      said,
    ).toEqual(evaluated);
    held += evaluated.length;
  }
  // Enough of the pairs hold, and enough do not, for the comparison to say something.
  expect(held).toBeGreaterThan(50_000);
  expect(held).toBeLessThan(950_000);
});
