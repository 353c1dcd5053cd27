import { DataTypes, literal, type QueryInterface, QueryTypes } from 'sequelize';

const atOnce = 1000;

interface Definition {
  readonly id: string;
  readonly type: string;
  readonly whole?: boolean;
  readonly choices?: readonly { readonly id: string }[];
  readonly exclusiveGroups?: readonly { readonly members: readonly string[] }[];
}
interface Holder {
  readonly id: number | string;
  readonly values: string | { [attribute: string]: unknown };
}
type Fields = { [attribute: string]: [before: unknown, now: unknown] };

/**
 * Before this version a number with a fraction could be stored where only whole ones are meant, and two values of which one
 * excludes the other. They are taken out, with an entry in the history of the contact, and kept in a list that is shown.
 */
export async function up(tables: QueryInterface): Promise<void> {
  await tables.createTable('set_aside_values', {
    id: { type: DataTypes.INTEGER.UNSIGNED, primaryKey: true, autoIncrement: true },
    attribute: { type: DataTypes.STRING(64), allowNull: false },
    contactId: {
      type: DataTypes.INTEGER.UNSIGNED,
      allowNull: true,
      references: { model: 'contacts', key: 'id' },
      onDelete: 'CASCADE',
    },
    itemId: {
      type: DataTypes.STRING(64),
      allowNull: true,
      references: { model: 'items', key: 'id' },
      onDelete: 'CASCADE',
    },
    /** The value as it was. */
    value: { type: DataTypes.JSON, allowNull: false },
    createdAt: { type: DataTypes.DATE(3), allowNull: false, defaultValue: literal('CURRENT_TIMESTAMP(3)') },
  });
  await tables.addIndex('set_aside_values', ['attribute']);
  const attributes = await rowsOf<{ definition: string | Definition }>(
    tables,
    'SELECT definition FROM attributes',
  );
  const collections = await rowsOf<{ fields: string | { attribute: Definition }[] }>(
    tables,
    'SELECT fields FROM collections',
  );
  await sort(
    tables,
    'contacts',
    attributes.map(({ definition }) => read(definition)),
  );
  await sort(
    tables,
    'items',
    collections.flatMap(({ fields }) => read(fields).map(({ attribute }) => attribute)),
  );
}

async function sort(
  tables: QueryInterface,
  table: 'contacts' | 'items',
  definitions: readonly Definition[],
): Promise<void> {
  const picky = definitions.filter(({ whole, exclusiveGroups }) => whole || exclusiveGroups?.length);
  if (picky.length === 0) return;
  for (let last: number | string = ''; ; ) {
    const holders: Holder[] = await rowsOf<Holder>(
      tables,
      `SELECT id, \`values\` FROM ${table} WHERE id > ? ORDER BY id LIMIT ?`,
      [last === '' && table === 'contacts' ? 0 : last, atOnce],
    );
    if (holders.length === 0) return;
    for (const holder of holders) {
      last = holder.id;
      const values = read(holder.values);
      const fields = fieldsOf(values, picky);
      if (Object.keys(fields).length > 0) await write(tables, table, holder.id, values, fields);
    }
  }
}

/** What has to change of some values. */
function fieldsOf(values: { [attribute: string]: unknown }, definitions: readonly Definition[]): Fields {
  const fields: Fields = {};
  for (const definition of definitions) {
    const value = values[definition.id];
    if (definition.whole && typeof value === 'number' && !Number.isSafeInteger(value))
      fields[definition.id] = [value, null];
    if (!Array.isArray(value)) continue;
    const kept = withoutClashes(value, definition);
    if (kept.length < value.length) fields[definition.id] = [value, kept];
  }
  return fields;
}

/** Of the members of an exclusive group the first in the order of the choices is kept. */
function withoutClashes(
  value: readonly unknown[],
  { choices = [], exclusiveGroups = [] }: Definition,
): unknown[] {
  const out = new Set<unknown>();
  for (const { members } of exclusiveGroups) {
    const held = choices.filter(({ id }) => members.includes(id) && value.includes(id) && !out.has(id));
    for (const { id } of held.slice(1)) out.add(id);
  }
  return value.filter((one) => !out.has(one));
}

async function write(
  { sequelize }: QueryInterface,
  table: 'contacts' | 'items',
  id: number | string,
  values: { readonly [attribute: string]: unknown },
  fields: Fields,
): Promise<void> {
  const now = { ...values };
  for (const [attribute, [before, after]] of Object.entries(fields)) {
    if (after === null) delete now[attribute];
    else now[attribute] = after;
    await sequelize.query(
      'INSERT INTO set_aside_values (attribute, contactId, itemId, value) VALUES (?, ?, ?, ?)',
      {
        replacements: [
          attribute,
          table === 'contacts' ? id : null,
          table === 'items' ? id : null,
          JSON.stringify(before),
        ],
      },
    );
  }
  await sequelize.query(`UPDATE ${table} SET \`values\` = ?, updatedAt = NOW(3) WHERE id = ?`, {
    replacements: [JSON.stringify(now), id],
  });
  if (table === 'contacts')
    await sequelize.query(
      `INSERT INTO contact_changes (contactId, at, kind, source, accountName, fields)
       VALUES (?, NOW(3), 'changed', 'update', '', ?)`,
      { replacements: [id, JSON.stringify(fields)] },
    );
}

function rowsOf<Row extends object>(
  { sequelize }: QueryInterface,
  statement: string,
  replacements: unknown[] = [],
): Promise<Row[]> {
  return sequelize.query<Row>(statement, { type: QueryTypes.SELECT, replacements });
}

/** A JSON column, which comes as text or read already. */
function read<Value>(column: string | Value): Value {
  return typeof column === 'string' ? JSON.parse(column) : column;
}
