import { QueryTypes, type Sequelize } from 'sequelize';
import { type Attribute, choicesOf } from '../../core/attributes/attribute.ts';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { type Facts, factsOf } from '../../core/attributes/viewer.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import { type SqlCondition, toSql } from '../../core/conditions/sql.ts';
import { everyoneElse } from '../../core/deciding/decide.ts';
import { Membership } from '../../core/deciding/membership.ts';
import { faceKey, visibilityOf } from '../../core/deciding/visibility.ts';
import { type Content, slotsOf } from '../../core/documents/document.ts';
import { audiencesOf } from '../../core/documents/uses.ts';
import type { FaceCount } from '../../core/population/classify.ts';
import type { Setting } from '../../core/population/population.ts';
import type { AsksPeople, Crossing, ListQuery, Scope } from './questions.ts';

const hasAccount = 'EXISTS (SELECT 1 FROM site_accounts WHERE site_accounts.contactId = contacts.id)';
const column = 'contacts.`values`';
const columns = { id: 'contacts.id', email: 'contacts.email', values: column, folded: 'contacts.folded' };

/** Answers about all contacts by the database itself, for more of them than memory is meant to hold. */
export class AskedPeople implements AsksPeople {
  constructor(private readonly sequelize: Sequelize) {}

  async total(): Promise<number> {
    return this.one('SELECT COUNT(*) AS found FROM contacts', []);
  }

  async count(scope: Scope, setting: Setting, conditions: readonly Condition[]): Promise<number[]> {
    const compiled = this.compile(scope, setting, conditions);
    const counts: number[] = [];
    for (const { sql, values, join, joinValues } of compiled)
      counts.push(
        await this.one(`SELECT COUNT(*) AS found FROM contacts${join} WHERE ${sql}`, [
          ...joinValues,
          ...values,
        ]),
      );
    return counts;
  }

  async some(scope: Scope, setting: Setting, condition: Condition, most: number): Promise<number[]> {
    const [where] = this.compile(scope, setting, [condition]);
    if (!where) return [];
    // From all over the list: in the order of a number that each id has for good.
    const rows = await this.select<{ id: number }>(
      `SELECT contacts.id FROM contacts${where.join} WHERE ${where.sql} ORDER BY CRC32(contacts.id) LIMIT ${Number(most)}`,
      [...where.joinValues, ...where.values],
    );
    return rows.map(({ id }) => id).sort((left, right) => left - right);
  }

  async changes(scope: Scope, settings: readonly Setting[], condition: Condition, most: number) {
    const compiled = settings.map(
      (setting, index) => this.compile(scope, setting, [condition], `step${index}`)[0],
    );
    const steps: Awaited<ReturnType<AsksPeople['changes']>> = [];
    for (const [index, now] of compiled.entries()) {
      const before = compiled[index - 1];
      steps.push({
        count: now
          ? await this.one(`SELECT COUNT(*) AS found FROM contacts${now.join} WHERE ${now.sql}`, [
              ...now.joinValues,
              ...now.values,
            ])
          : 0,
        entering: await this.crossing(now, before, most),
        leaving: await this.crossing(before, now, most),
      });
    }
    return steps;
  }

  private async crossing(
    inside: SqlCondition | undefined,
    outside: SqlCondition | undefined,
    most: number,
  ): Promise<Crossing> {
    // Most tests say the same of one day as of the next.
    if (!inside || !outside || JSON.stringify(inside) === JSON.stringify(outside))
      return { count: 0, ids: [] };
    const from = `FROM contacts${inside.join}${outside.join} WHERE (${inside.sql}) AND NOT (${outside.sql})`;
    const values = [...inside.joinValues, ...outside.joinValues, ...inside.values, ...outside.values];
    const rows = await this.select<{ id: number }>(
      `SELECT contacts.id ${from} ORDER BY contacts.id LIMIT ${Number(most)}`,
      values,
    );
    return {
      count: await this.one(`SELECT COUNT(*) AS found ${from}`, values),
      ids: rows.map(({ id }) => id),
    };
  }

  async lacking(_scope: Scope, attributes: readonly string[]): Promise<number[]> {
    const counts: number[] = [];
    for (const attribute of attributes)
      counts.push(
        attribute === 'email'
          ? 0
          : await this.one(`SELECT COUNT(*) AS found FROM contacts WHERE NOT JSON_EXISTS(${column}, ?)`, [
              `$."${attribute}"`,
            ]),
      );
    return counts;
  }

  async values(scope: Scope, attribute: string, most: number): Promise<{ value: string; count: number }[]> {
    const definition = new Catalogue(scope.attributes, scope.zone).get(attribute);
    const isList = definition?.type === 'set' || definition?.type === 'language';
    const path = isList ? `$.${attribute}[*]` : `$.${attribute}`;
    if (!/^\$\.[a-z0-9-]+(\[\*\])?$/.test(path)) return [];
    const quoted = path.replace(/^\$\.([a-z0-9-]+)/, '$$."$1"');
    const rows = await this.select<{ value: string; count: number }>(
      `SELECT found.value AS value, COUNT(*) AS count FROM contacts, JSON_TABLE(${column}, '${quoted}' COLUMNS (value VARCHAR(2000) PATH '$')) AS found WHERE found.value IS NOT NULL GROUP BY BINARY found.value ORDER BY count DESC, found.value LIMIT ${Number(most)}`,
      [],
    );
    return rows.map(({ value, count }) => ({
      value: definition?.type === 'yes-no' ? String(value === '1' || value === 'true') : value,
      count: Number(count),
    }));
  }

  async faces(scope: Scope, setting: Setting, content: Content): Promise<FaceCount[]> {
    const ids = [...audiencesOf(content)];
    const compiled = this.compile(
      scope,
      setting,
      ids.map((audience) => ({ kind: 'audience', audience })),
    );
    const members = compiled.map(({ sql }, index) => `(${sql}) AS in${index}`);
    const values = [
      ...compiled.flatMap(({ values }) => values),
      ...compiled.flatMap(({ joinValues }) => joinValues),
    ];
    const joins = compiled.map(({ join }) => join).join('');
    const names = ids.map((_, index) => `in${index}`);
    const rows = await this.select<{ [name: string]: number }>(
      `SELECT ${[...names, 'COUNT(*) AS people', 'MIN(id) AS first'].join(', ')} FROM (SELECT ${['contacts.id', ...members].join(', ')} FROM contacts${joins}) AS told${names.length > 0 ? ` GROUP BY ${names.join(', ')}` : ''}`,
      values,
    );
    const place = new Map(ids.map((id, index) => [id, index]));
    const visible = visibilityOf(content);
    const faces = new Map<string, { choices: number[]; count: number; contact: number }>();
    for (const row of rows) {
      const isIn = (audience: string) => Number(row[`in${place.get(audience)}`]) === 1;
      const choices = visible(
        slotsOf(content).map((slot) => {
          const first = slot.variants.findIndex(({ audience }) => isIn(audience));
          return first < 0 ? everyoneElse : first;
        }),
      );
      const [count, contact] = [Number(row.people), Number(row.first)];
      if (count === 0) continue;
      const face = faces.get(faceKey(choices));
      if (face) face.count += count;
      else faces.set(faceKey(choices), { choices, count, contact });
    }
    return [...faces.values()].sort((left, right) => right.count - left.count);
  }

  async list(scope: Scope, setting: Setting, query: ListQuery): Promise<{ ids: number[]; matching: number }> {
    const [where] = this.compile(scope, setting, [query.where]);
    if (!where) return { ids: [], matching: 0 };
    const search = query.search.trim();
    const searched =
      search === '' ? 'TRUE' : "CONCAT(contacts.name, ' ', contacts.email) LIKE ? COLLATE utf8mb4_unicode_ci";
    const written =
      query.importId === undefined
        ? 'TRUE'
        : 'contacts.id IN (SELECT contactId FROM contact_changes WHERE importId = ?)';
    const values = [
      ...where.joinValues,
      ...where.values,
      ...(search === '' ? [] : [`%${search.replace(/[\\%_]/g, '\\$&')}%`]),
      ...(query.importId === undefined ? [] : [query.importId]),
    ];
    const attribute = new Catalogue(scope.attributes, scope.zone).get(query.sort);
    const order = orderSql(attribute, query.direction === 'up' ? 'ASC' : 'DESC');
    const from = `FROM contacts${where.join} WHERE ${where.sql} AND ${searched} AND ${written}`;
    const rows = await this.select<{ id: number }>(
      `SELECT contacts.id ${from} ORDER BY ${order.sql} LIMIT ${Number(query.from)}, ${Number(query.most)}`,
      [...values, ...order.values],
    );
    return {
      ids: rows.map(({ id }) => id),
      matching: await this.one(`SELECT COUNT(*) AS found ${from}`, values),
    };
  }

  /** The database is asked each time, so there is nothing to bring up to date. */
  async changed(): Promise<void> {}

  /** The database has it all. */
  async keep(): Promise<boolean> {
    return false;
  }

  async stop(): Promise<void> {}

  private compile(
    scope: Scope,
    setting: Setting,
    conditions: readonly Condition[],
    name = 'asked',
  ): SqlCondition[] {
    const catalogue = new Catalogue(scope.attributes, scope.zone);
    const { problems } = new Membership(catalogue, scope.audiences);
    const byId = new Map(scope.audiences.map((audience) => [audience.id, audience.condition]));
    const facts: Facts = factsOf(catalogue, {
      contact: null,
      signedIn: false,
      visit: setting.channel === 'email' ? {} : { ...setting.visit },
      item: setting.item ? { ...setting.item } : null,
      instant: setting.instant,
    });
    const nobody: Condition = { kind: 'any', of: [] };
    return conditions.map((condition, index) =>
      toSql(condition, {
        catalogue,
        conditionOf: (id) => (problems.has(id) ? nobody : (byId.get(id) ?? nobody)),
        facts,
        signedIn: setting.channel === 'email' ? 'FALSE' : hasAccount,
        columns,
        joinedAs: `${name}${index}`,
      }),
    );
  }

  private async one(sql: string, values: readonly (string | number)[]): Promise<number> {
    const [row] = await this.select<{ found: number }>(sql, values);
    return Number(row?.found ?? 0);
  }

  private select<Row extends object>(sql: string, values: readonly (string | number)[]): Promise<Row[]> {
    return this.sequelize.query<Row>(sql, { type: QueryTypes.SELECT, replacements: [...values] });
  }
}

type Ordering = Pick<SqlCondition, 'sql' | 'values'>;

function orderSql(attribute: Attribute | undefined, direction: 'ASC' | 'DESC'): Ordering {
  const byName = 'contacts.name, contacts.id';
  if (!attribute) return { sql: `contacts.name ${direction}, contacts.id ${direction}`, values: [] };
  if (attribute.id === 'email') return { sql: `contacts.email ${direction}`, values: [] };
  const path = `$."${attribute.id}"`;
  const missing = `NOT JSON_EXISTS(${column}, ?)`;
  const value = `JSON_VALUE(${column}, ?)`;
  if (attribute.type === 'choice') {
    const ids = choicesOf(attribute).map(({ id }) => id);
    if (ids.length === 0) return { sql: byName, values: [] };
    const places = ids.map(() => '?').join(', ');
    return {
      sql: `${missing}, FIELD(BINARY ${value}, ${places}) ${direction}, ${byName}`,
      values: [path, path, ...ids],
    };
  }
  const key =
    attribute.type === 'number'
      ? `CAST(${value} AS DOUBLE)`
      : attribute.type === 'set'
        ? `JSON_EXTRACT(${column}, ?)`
        : value;
  return { sql: `${missing}, ${key} ${direction}, ${byName}`, values: [path, path] };
}
