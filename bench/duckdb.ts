import {
  BOOLEAN,
  DOUBLE,
  DuckDBDataChunk,
  DuckDBInstance,
  INTEGER,
  LIST,
  listValue,
  VARCHAR,
} from '@duckdb/node-api';
import type { Attribute } from '../core/attributes/attribute.ts';
import { choicesOf } from '../core/attributes/attribute.ts';
import { dayNumber } from '../core/attributes/calendar.ts';
import type { Condition, Test } from '../core/conditions/condition.ts';
import type { Contact } from './crowd.ts';

/** A table of contacts in DuckDB, two threads, one column an attribute; choices as enumerations, which it is best at. */
export async function duckTable(attributes: readonly Attribute[], contacts: Iterable<Contact>) {
  const instance = await DuckDBInstance.create(':memory:', { threads: '2' });
  const connection = await instance.connect();
  const sqlTypes = attributes.map((attribute) =>
    attribute.type === 'choice'
      ? `ENUM (${attribute.choices.map(({ id }) => `'${id}'`).join(', ')})`
      : attribute.type === 'set'
        ? 'VARCHAR[]'
        : attribute.type === 'number'
          ? 'DOUBLE'
          : attribute.type === 'date'
            ? 'INTEGER'
            : attribute.type === 'yes-no'
              ? 'BOOLEAN'
              : 'VARCHAR',
  );
  const plain = sqlTypes.map((type) => (type.startsWith('ENUM') ? 'VARCHAR' : type));
  const columns = (types: readonly string[]) =>
    attributes.map(({ id }, at) => `${id} ${types[at]}`).join(', ');
  await connection.run(`CREATE TABLE loaded (${columns(plain)}, account BOOLEAN)`);
  const types = [
    ...plain.map((type) =>
      type === 'VARCHAR[]'
        ? LIST(VARCHAR)
        : type === 'DOUBLE'
          ? DOUBLE
          : type === 'INTEGER'
            ? INTEGER
            : type === 'BOOLEAN'
              ? BOOLEAN
              : VARCHAR,
    ),
    BOOLEAN,
  ];
  const appender = await connection.createAppender('loaded');
  let rows: Contact[] = [];
  const flush = () => {
    const chunk = DuckDBDataChunk.create(types, rows.length);
    for (const [at, { id, type }] of attributes.entries())
      chunk.setColumnValues(
        at,
        rows.map(({ values }) => {
          const value = values[id];
          if (value === undefined) return null;
          if (Array.isArray(value)) return listValue(value.map(String));
          if (type === 'date') return dayNumber(String(value)) ?? null;
          return typeof value === 'number' || typeof value === 'boolean' ? value : String(value);
        }),
      );
    chunk.setColumnValues(
      attributes.length,
      rows.map(({ hasAccount }) => hasAccount),
    );
    appender.appendDataChunk(chunk);
    rows = [];
  };
  for (const contact of contacts) {
    rows.push(contact);
    if (rows.length === 2048) flush();
  }
  if (rows.length > 0) flush();
  appender.closeSync();
  await connection.run(`CREATE TABLE contacts (${columns(sqlTypes)}, account BOOLEAN)`);
  await connection.run('INSERT INTO contacts SELECT * FROM loaded');
  await connection.run('DROP TABLE loaded');
  return {
    async count(where: string): Promise<number> {
      const reader = await connection.runAndReadAll(`SELECT count(*) FROM contacts WHERE ${where}`);
      return Number(reader.getRows()[0]?.[0]);
    },
    close() {
      connection.closeSync();
      instance.closeSync();
    },
  };
}

/** A condition in DuckDB's SQL, with the same outcome. */
export function duckSql(
  condition: Condition,
  attributeOf: (id: string) => Attribute | undefined,
  conditionOf: (audience: string) => Condition | undefined,
  today: number,
): string {
  const walk = (part: Condition): string => {
    switch (part.kind) {
      case 'test': {
        const attribute = attributeOf(part.attribute);
        if (!attribute) throw new Error(part.attribute);
        return `coalesce(${testSql(part, attribute, today)}, false)`;
      }
      case 'audience': {
        const inner = conditionOf(part.audience);
        if (!inner) throw new Error(part.audience);
        return walk(inner);
      }
      case 'not':
        return `NOT (${walk(part.of)})`;
      default:
        return `(${part.of.map(walk).join(part.kind === 'all' ? ' AND ' : ' OR ')})`;
    }
  };
  return walk(condition);
}

function testSql({ attribute: id, op, values }: Test, attribute: Attribute, today: number): string {
  const texts = values.map((value) => `'${value}'`).join(', ');
  const operand = (at: number) =>
    attribute.type === 'date' ? dayNumber(String(values[at])) : Number(values[at]);
  const order = choicesOf(attribute).map((choice) => choice.id);
  switch (op) {
    case 'is-yes':
      return id;
    case 'has-no-value':
      return `${id} IS NULL`;
    case 'is-one-of':
      return `${id} IN (${texts})`;
    case 'is-none-of':
      return `NOT coalesce(${id} IN (${texts}), false)`;
    case 'includes-any':
      return `list_has_any(${id}, [${texts}])`;
    case 'includes-none':
      return `NOT coalesce(list_has_any(${id}, [${texts}]), false)`;
    case 'at-least':
      return attribute.type === 'choice'
        ? `${id} IN (${order
            .slice(order.indexOf(String(values[0])))
            .map((one) => `'${one}'`)
            .join(', ')})`
        : `${id} >= ${operand(0)}`;
    case 'fewer-than':
    case 'before':
      return `${id} < ${operand(0)}`;
    case 'between':
      return `${id} BETWEEN ${operand(0)} AND ${operand(1)}`;
    case 'within-last':
      return `${id} BETWEEN ${today - Number(values[0])} AND ${today}`;
    default:
      throw new Error(`the benchmark has no SQL for ${op}`);
  }
}
