import { dequal } from 'dequal';
import type { Connection, RowDataPacket } from 'mysql2/promise';
import { type Attribute, attributeSchema } from '../../core/attributes/attribute.ts';
import { type Condition, conditionSchema } from '../../core/conditions/condition.ts';
import { notFound, Refusal } from '../refusal.ts';
import { takeTurnSql } from '../store/transaction.ts';

/** Refuses to go on from an attribute that somebody else changed, and keeps it as it is until the transaction ends. */
export async function refuseChanged(connection: Connection, before: Attribute): Promise<void> {
  const [rows] = await connection.query<(RowDataPacket & { definition: string | Attribute })[]>(
    'SELECT definition FROM attributes WHERE id = ? FOR UPDATE',
    [before.id],
  );
  const [row] = rows;
  if (!row) throw notFound('attribute of your own');
  const current = attributeSchema.parse(
    typeof row.definition === 'string' ? JSON.parse(row.definition) : row.definition,
  );
  if (!dequal(current, attributeSchema.parse(before)))
    throw new Refusal(409, 'Somebody changed this attribute after you opened it. Yours was not stored.', {
      current,
    });
}

/** Every audience as it is stored now, kept so until the transaction ends. */
export async function lockedConditions(
  connection: Connection,
): Promise<{ id: string; name: string; description: string; condition: Condition }[]> {
  // Before any audience, as whoever saves one does.
  await connection.query(takeTurnSql);
  const [rows] = await connection.query<
    (RowDataPacket & { id: string; name: string; description: string; condition: string })[]
  >('SELECT id, name, description, `condition` FROM audiences ORDER BY id FOR UPDATE');
  return rows.map(({ id, name, description, condition }) => ({
    id,
    name,
    description,
    condition: conditionSchema.parse(JSON.parse(condition)),
  }));
}
