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
import type { Example, StoredAudience } from '../../contract/audiences.ts';
import type { Audience } from '../../core/audiences/audience.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import { id, instant, nested, revision, serial, string, table } from '../store/columns.ts';
import { draftedKind } from '../store/drafted-kind.ts';
import { noteChangesTo } from '../store/noted-changes.ts';
import { inTransaction, type Transaction, waitForTurn } from '../store/transaction.ts';

export class AudienceRow extends Model<InferAttributes<AudienceRow>, InferCreationAttributes<AudienceRow>> {
  declare id: string;
  declare name: string;
  declare description: string;
  declare condition: Condition;
  /** Whom it belongs to. */
  declare ownerName: CreationOptional<string>;
  /** Who changed it last. */
  declare accountName: CreationOptional<string>;
  declare archivedAt: CreationOptional<Date | null>;
  declare examples: CreationOptional<Example[]>;
  declare revision: CreationOptional<number>;
  declare updatedAt: CreationOptional<Date>;
}

/** An audience as it was stored at some time. */
export class AudienceVersionRow extends Model<
  InferAttributes<AudienceVersionRow>,
  InferCreationAttributes<AudienceVersionRow>
> {
  declare id: CreationOptional<number>;
  declare audienceId: string;
  declare at: CreationOptional<Date>;
  declare accountName: string;
  declare name: string;
  declare description: string;
  declare condition: Condition;
}

/** Ties the tables to a connection. */
export function defineAudiences(sequelize: Sequelize): void {
  AudienceRow.init(
    {
      id: id(),
      name: string,
      description: string,
      condition: nested('condition'),
      ownerName: { type: string, defaultValue: '' },
      accountName: { type: string, defaultValue: '' },
      archivedAt: instant,
      examples: { type: DataTypes.JSON, defaultValue: [] },
      revision: revision(),
      updatedAt: instant,
    },
    table(sequelize, 'audiences', 'both'),
  );
  noteChangesTo(AudienceRow, 'audience', 'id');
  AudienceVersionRow.init(
    {
      id: serial(),
      audienceId: string,
      at: { type: instant, defaultValue: DataTypes.NOW },
      accountName: string,
      name: string,
      description: string,
      condition: nested('condition'),
    },
    table(sequelize, 'audience_versions', 'none'),
  );
}

const byName: [string, string][] = [['name', 'ASC']];

/** All audiences by their names. */
export function audiencesByName(): Promise<AudienceRow[]> {
  return AudienceRow.findAll({ order: byName });
}

/** All audiences by their names, as they are in a snapshot. */
export const draftedAudiences = draftedKind(
  (where) => AudienceRow.findAll({ where, order: byName }),
  () => AudienceRow.findAll({ attributes: ['id'], order: byName, raw: true }),
  ({ id, name, description, condition }): Audience => ({ id, name, description, condition }),
  ({ name }) => name,
);

/** Audiences that were held to a contact as an example are held to another one, or to nobody in its place. */
export async function moveExamples(
  from: number,
  to: { readonly id: number; readonly name: string } | null,
  transaction: Transaction,
): Promise<void> {
  for (const audience of await AudienceRow.findAll({ transaction, lock: true })) {
    const { examples, revision } = audience;
    if (!examples.some(({ contact }) => contact === from)) continue;
    const taken = to !== null && examples.some(({ contact }) => contact === to.id);
    const now = examples.flatMap((example) => {
      if (example.contact !== from) return [example];
      return to && !taken ? [{ ...example, contact: to.id, name: to.name }] : [];
    });
    // With a new revision, so that an editor that is open does not bring the old ones back.
    await audience.update({ examples: now, revision: revision + 1 }, { transaction });
  }
}

/** One audience; null where there is none. */
export function audienceRow(id: string): Promise<AudienceRow | null> {
  return AudienceRow.findByPk(id);
}

/** Every audience as it is, and as it stays until the transaction ends: nobody else makes a name or a circle meanwhile. */
export async function audiencesInTurn(transaction: Transaction): Promise<AudienceRow[]> {
  await waitForTurn(transaction);
  return AudienceRow.findAll({ transaction });
}

/** Another audience with a name, as the database compares names, which is how it keeps them unique. */
export function audienceCalled(
  name: string,
  except: string,
  transaction: Transaction,
): Promise<AudienceRow | null> {
  return AudienceRow.findOne({ where: { name, id: { [Op.ne]: except } }, transaction });
}

/** Stores a new audience, with its first version. */
export async function insertAudience(
  values: CreationAttributes<AudienceRow>,
  transaction: Transaction,
): Promise<AudienceRow> {
  const made = await AudienceRow.create(values, { transaction });
  await keepVersion(made, transaction);
  return made.reload({ transaction });
}

/** Stores the next revision of an audience, and keeps it as a version. */
export async function updateAudience(
  row: AudienceRow,
  values: Partial<InferAttributes<AudienceRow>>,
  transaction: Transaction,
): Promise<AudienceRow> {
  // How it was before anybody's first change is kept too.
  if ((await AudienceVersionRow.count({ where: { audienceId: row.id }, transaction })) === 0)
    await keepVersion(row, transaction);
  const changed = await row.update({ ...values, revision: row.revision + 1 }, { transaction });
  await keepVersion(changed, transaction);
  return changed.reload({ transaction });
}

/** Changes what is beside the revisions of an audience. */
export async function setBesideRevisions(
  row: AudienceRow,
  values: Partial<Pick<AudienceRow, 'archivedAt' | 'ownerName'>>,
): Promise<AudienceRow> {
  await inTransaction((transaction) => AudienceRow.update(values, { where: { id: row.id }, transaction }));
  return row.reload();
}

/** Deletes an audience; false where there is none. */
export async function removeAudience(id: string): Promise<boolean> {
  return (await inTransaction((transaction) => AudienceRow.destroy({ where: { id }, transaction }))) > 0;
}

export async function keepVersion(row: AudienceRow, transaction: Transaction): Promise<void> {
  const { id, name, description, condition, accountName } = row;
  await AudienceVersionRow.create(
    { audienceId: id, name, description, condition, accountName },
    { transaction },
  );
}

/** The latest hundred versions of an audience, the latest first. */
export function versionsOf(id: string): Promise<AudienceVersionRow[]> {
  return AudienceVersionRow.findAll({ where: { audienceId: id }, order: [['id', 'DESC']], limit: 100 });
}

/** All audiences by their names, with everything that is stored of them. */
export const storedAudiences = draftedKind(
  (where) => AudienceRow.findAll({ where, order: byName }),
  () => AudienceRow.findAll({ attributes: ['id'], order: byName, raw: true }),
  stored,
  ({ name }) => name,
);

/** An audience as the studio gets it. */
export function stored(row: AudienceRow): StoredAudience {
  const { id, name, description, condition, examples, ownerName, accountName, revision } = row;
  return {
    id,
    name,
    description,
    condition,
    examples,
    ownerName,
    accountName,
    archivedAt: row.archivedAt?.toISOString() ?? null,
    revision,
    updatedAt: row.updatedAt.toISOString(),
  };
}
