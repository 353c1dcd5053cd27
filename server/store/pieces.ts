import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { changeBy } from './single-change.ts';

/** A piece has at most so many bytes: far below what a database takes in one statement. */
const pieceSize = 1024 * 1024;

/** Stores a file in pieces, under the name of what it is for and in place of what was there. Returns its size in bytes. */
export async function storePieces(
  sequelize: Sequelize,
  owner: string,
  file: AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
  transaction?: Transaction,
): Promise<number> {
  await removePieces(sequelize, [owner], transaction);
  let [size, position, waiting] = [0, 0, 0];
  let parts: Uint8Array[] = [];
  const store = async (bytes: Buffer) => {
    await sequelize.query(
      'INSERT INTO pieces (owner, position, bytes, storedAt) VALUES (?, ?, ?, UTC_TIMESTAMP(3))',
      {
        replacements: [owner, position++, bytes],
        type: QueryTypes.INSERT,
        ...(transaction && { transaction }),
      },
    );
  };
  for await (const part of file) {
    size += part.length;
    waiting += part.length;
    parts.push(part);
    if (waiting < pieceSize) continue;
    const bytes = Buffer.concat(parts);
    let at = 0;
    for (; bytes.length - at >= pieceSize; at += pieceSize) await store(bytes.subarray(at, at + pieceSize));
    parts = [bytes.subarray(at)];
    waiting = bytes.length - at;
  }
  if (waiting > 0) await store(Buffer.concat(parts));
  return size;
}

/** The pieces of a file, in order; none where there is no such file. */
export async function* readPieces(sequelize: Sequelize, owner: string): AsyncGenerator<Buffer> {
  for (let position = 0; ; position++) {
    const [row] = await sequelize.query<{ bytes: Buffer }>(
      'SELECT bytes FROM pieces WHERE owner = ? AND position = ?',
      { replacements: [owner, position], type: QueryTypes.SELECT },
    );
    if (!row) return;
    yield row.bytes;
  }
}

/** Removes files. Returns how many there were. */
export async function removePieces(
  sequelize: Sequelize,
  owners: readonly string[],
  transaction?: Transaction,
): Promise<number> {
  const rows = await sequelize.query<{ owner: string }>(
    'SELECT owner FROM pieces WHERE owner IN (?) AND position = 0',
    { replacements: [owners], type: QueryTypes.SELECT, ...(transaction && { transaction }) },
  );
  await sequelize.query('DELETE FROM pieces WHERE owner IN (?)', {
    replacements: [owners],
    type: QueryTypes.DELETE,
    ...(transaction && { transaction }),
  });
  return rows.length;
}

/** Removes the files whose names begin in some way and that were stored before a moment. */
export async function removePiecesBefore(sequelize: Sequelize, start: string, before: Date): Promise<void> {
  await changeBy(sequelize, 'DELETE FROM pieces WHERE owner LIKE ? AND storedAt < ?', [`${start}%`, before]);
}
