import {
  type CreationAttributes,
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  Op,
  type Sequelize,
} from 'sequelize';
import type { Change } from '../../core/deciding/changes.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { id, instant, nested, serial, string, table } from '../store/columns.ts';
import { noteChangesTo } from '../store/noted-changes.ts';
import { inTransaction, type Transaction } from '../store/transaction.ts';
import { type Contents, hashesIn, putTogether, takeApart } from './parts.ts';

/** How many versions are written at once. */
const mostAtOnce = 50;

export class ReleaseRow extends Model<InferAttributes<ReleaseRow>, InferCreationAttributes<ReleaseRow>> {
  declare id: CreationOptional<number>;
  declare note: string;
  declare accountName: string;
  declare changes: Change[];
  /** Which versions of everything it holds. */
  declare contents: Contents;
  declare createdAt: CreationOptional<Date>;
}

/** One version of a document, an audience or anything else that releases hold; it never changes. */
export class ReleasePartRow extends Model<
  InferAttributes<ReleasePartRow>,
  InferCreationAttributes<ReleasePartRow>
> {
  declare hash: string;
  declare content: string;
  /** Since when no release was seen to hold it; null for one that is held. */
  declare unusedSince: CreationOptional<Date | null>;
}

/** Ties the tables to a connection. */
export function defineReleases(sequelize: Sequelize): void {
  ReleaseRow.init(
    {
      id: serial(),
      note: string,
      accountName: string,
      changes: DataTypes.JSON,
      contents: nested('contents'),
      createdAt: instant,
    },
    table(sequelize, 'releases', 'created'),
  );
  noteChangesTo(ReleaseRow, 'release', 'id');
  ReleasePartRow.init(
    { hash: id(), content: DataTypes.TEXT('long'), unusedSince: instant },
    table(sequelize, 'release_parts', 'none'),
  );
}

/** The ids of a release and of those before it, the latest first. */
export async function releasesUpTo(id: number, most: number): Promise<number[]> {
  const rows = await ReleaseRow.findAll({
    attributes: ['id'],
    where: { id: { [Op.lte]: id } },
    order: [['id', 'DESC']],
    limit: most,
    raw: true,
  });
  return rows.map((row) => row.id);
}

/** The latest releases without what is in them, the latest first. */
export function latestReleases(most: number): Promise<ReleaseRow[]> {
  return ReleaseRow.findAll({
    attributes: { exclude: ['contents'] },
    order: [['id', 'DESC']],
    limit: most,
  });
}

/** A release without what is in it; null where there is none. */
export function releaseRow(id: number): Promise<ReleaseRow | null> {
  return ReleaseRow.findByPk(id, { attributes: { exclude: ['contents'] } });
}

/** The snapshot of a release as it is stored; undefined where there is no such release. Throws where a part is missing. */
export async function storedSnapshot(id: number): Promise<unknown> {
  const row = await ReleaseRow.findByPk(id, { attributes: ['contents'] });
  if (!row) return undefined;
  const { contents } = row;
  const rows = await ReleasePartRow.findAll({
    attributes: ['hash', 'content'],
    where: { hash: hashesIn(contents) },
    raw: true,
  });
  return putTogether(contents, new Map(rows.map(({ hash, content }) => [hash, content])));
}

/** Stores a release, and the versions that no release before it held. */
export async function insertRelease(
  { snapshot, ...values }: Omit<CreationAttributes<ReleaseRow>, 'contents'> & { readonly snapshot: Snapshot },
  transaction: Transaction,
): Promise<ReleaseRow> {
  const { contents, parts } = takeApart(snapshot);
  await storeParts(parts, transaction);
  const row = await ReleaseRow.create({ ...values, contents }, { transaction });
  return row.reload({ transaction });
}

/** Stores those of some versions that are not stored yet. */
export async function storeParts(
  parts: ReadonlyMap<string, string>,
  transaction: Transaction,
): Promise<void> {
  const known = await ReleasePartRow.findAll({
    attributes: ['hash', 'unusedSince'],
    where: { hash: [...parts.keys()] },
    raw: true,
    transaction,
  });
  const isKnown = new Set(known.map(({ hash }) => hash));
  const missing = [...parts].filter(([hash]) => !isKnown.has(hash));
  for (const some of chunk(missing, mostAtOnce))
    await ReleasePartRow.bulkCreate(
      some.map(([hash, content]) => ({ hash, content })),
      // Another server may store the same one at this moment.
      { transaction, ignoreDuplicates: true },
    );
  const unused = known.flatMap(({ hash, unusedSince }) => (unusedSince === null ? [] : [hash]));
  if (unused.length > 0)
    await ReleasePartRow.update({ unusedSince: null }, { where: { hash: unused }, transaction });
}

/** All releases and when each was made. */
export function releaseTimes(): Promise<{ readonly id: number; readonly createdAt: Date }[]> {
  return ReleaseRow.findAll({ attributes: ['id', 'createdAt'], raw: true });
}

export async function deleteReleases(ids: readonly number[], transaction: Transaction): Promise<void> {
  await ReleaseRow.destroy({ where: { id: [...ids] }, transaction });
}

/** Whether there are versions that no release was seen to hold. */
export async function hasUnusedParts(): Promise<boolean> {
  return (await ReleasePartRow.count({ where: { unusedSince: { [Op.ne]: null } } })) > 0;
}

/**
 * Marks the versions that no release holds, and deletes those that none has held for some time: a release that is being
 * stored at this moment may be about to hold one, and takes the mark away.
 *
 * @param now an instant
 * @param kept for how long they are kept, in milliseconds
 */
export async function sweepParts(now: number, kept: number): Promise<void> {
  const held = new Set<string>();
  for (const { id } of await releaseTimes()) {
    const row = await ReleaseRow.findByPk(id, { attributes: ['contents'] });
    for (const hash of row ? hashesIn(row.contents) : []) held.add(hash);
  }
  const parts = await ReleasePartRow.findAll({ attributes: ['hash', 'unusedSince'], raw: true });
  const marked = parts.filter(({ unusedSince }) => unusedSince !== null);
  const mark = async (of: typeof parts, unusedSince: Date | null) => {
    for (const some of chunk(of, mostAtOnce))
      await inTransaction((transaction) =>
        ReleasePartRow.update(
          { unusedSince },
          { where: { hash: some.map(({ hash }) => hash) }, transaction },
        ),
      );
  };
  await mark(
    marked.filter(({ hash }) => held.has(hash)),
    null,
  );
  await mark(
    parts.filter(({ hash, unusedSince }) => unusedSince === null && !held.has(hash)),
    new Date(now),
  );
  const gone = marked.filter(({ hash }) => !held.has(hash)).map(({ hash }) => hash);
  for (const hash of chunk(gone, mostAtOnce))
    await inTransaction((transaction) =>
      ReleasePartRow.destroy({
        where: { hash, unusedSince: { [Op.lt]: new Date(now - kept) } },
        transaction,
      }),
    );
}

function chunk<Of>(all: readonly Of[], most: number): Of[][] {
  return Array.from({ length: Math.ceil(all.length / most) }, (_, at) =>
    all.slice(at * most, (at + 1) * most),
  );
}
