import {
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
  type Transaction,
} from 'sequelize';
import type { Example } from '../../contract/audiences.ts';
import type { Audience } from '../../core/audiences/audience.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import { id, instant, nested, revision, serial, string, table } from '../store/columns.ts';
import { noteChangesTo } from '../store/noted-changes.ts';

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

/** All audiences by their names. */
export async function draftedAudiences(): Promise<Audience[]> {
  const rows = await AudienceRow.findAll({ order: [['name', 'ASC']] });
  return rows.map(({ id, name, description, condition }) => ({ id, name, description, condition }));
}

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
