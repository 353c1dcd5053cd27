import type { z } from 'zod';
import type {
  Cast,
  DocumentChange,
  ListedDocument,
  newDocumentSchema,
  StoredDocument,
} from '../../contract/documents.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import { everyoneElse } from '../../core/deciding/decide.ts';
import {
  audiencesOf,
  type Content,
  type DocumentKind,
  type Slot,
  slotsOf,
} from '../../core/documents/document.ts';
import { newBlock } from '../../core/documents/edit.ts';
import { unsavable } from '../../core/documents/validate.ts';
import type { Setting } from '../../core/population/population.ts';
import { newId } from '../ids.ts';
import type { Scope } from '../jobs/questions.ts';
import { notFound, Refusal } from '../refusal.ts';
import { DocumentRow } from '../store/models.ts';
import { inTransaction } from '../store/transaction.ts';
import type { Drafts } from './drafts.ts';
import { type People, personRecord } from './people.ts';

export class Documents {
  constructor(
    private readonly people: People,
    private readonly drafts: Drafts,
  ) {}

  async list(): Promise<ListedDocument[]> {
    const rows = await DocumentRow.findAll({
      order: [
        ['createdAt', 'ASC'],
        ['id', 'ASC'],
      ],
    });
    return rows.map((row) => {
      const { content, ...rest } = stored(row);
      return { ...rest, slots: slotsOf(content).length, audiences: [...audiencesOf(content)] };
    });
  }

  async get(id: string): Promise<StoredDocument> {
    const row = await DocumentRow.findByPk(id);
    if (!row) throw notFound('page or email');
    return stored(row);
  }

  async create({ kind, name, slug }: z.infer<typeof newDocumentSchema>): Promise<StoredDocument> {
    const taken = await DocumentRow.findOne({ where: { kind, slug } });
    if (taken)
      throw new Refusal(422, `“${taken.name}” has the address “${slug || '/'}” already. Choose another.`, {
        fields: [{ path: 'slug', message: 'is taken' }],
      });
    const row = await DocumentRow.create({
      id: newId(),
      kind,
      name,
      slug,
      content: emptyContent(kind, name),
    });
    this.drafts.changed();
    return stored(await row.reload());
  }

  async change(id: string, { revision, name, content }: DocumentChange): Promise<StoredDocument> {
    const saved = await inTransaction(async (transaction) => {
      const row = await DocumentRow.findByPk(id, { transaction, lock: true });
      if (!row) throw notFound('page or email');
      const problems = unsavable(row.kind, content);
      if (problems.length > 0)
        throw new Refusal(422, problems.map((problem) => problem.message).join('. '), {
          fields: problems.map(({ block, message }) => ({ path: block ?? '', message })),
        });
      if (row.revision !== revision)
        throw new Refusal(
          409,
          `Somebody saved “${row.name}” after you opened it. Your version is kept on this screen; theirs is stored.`,
          { current: stored(row) },
        );
      return row.update({ name, content, revision: revision + 1 }, { transaction });
    });
    this.drafts.changed();
    return stored(await saved.reload());
  }

  async remove(id: string): Promise<void> {
    if ((await DocumentRow.destroy({ where: { id } })) === 0) throw notFound('page or email');
    this.drafts.changed();
  }

  /**
   * For each audience that a content uses, somebody to look as: preferring a person for whom a variant of that
   * audience is shown. And for each slot how many contacts get each variant today.
   */
  async cast(content: Content, kind: DocumentKind, instant: number): Promise<Cast> {
    const { snapshot } = await this.drafts.decider();
    const { asks } = this.people;
    const scope = this.people.scopeOf(snapshot);
    const setting = this.people.now(kind, instant);
    const audiences = [...audiencesOf(content)];
    const members: Condition[] = audiences.map((audience) => ({ kind: 'audience', audience }));
    const [faces, sizes, total] = await Promise.all([
      asks.faces(scope, setting, content),
      asks.count(scope, setting, members),
      asks.total(),
    ]);
    const slots = slotsOf(content);
    // A slot in a variant that a contact does not get is hidden from them, and counts for none of its outcomes.
    const outcomes = slots.map((slot, index) =>
      [...slot.variants.keys(), everyoneElse].map((choice) => {
        const shown = faces.filter(({ choices }) => choices[index] === choice);
        return {
          count: shown.reduce((sum, face) => sum + face.count, 0),
          contact: shown.map(({ contact }) => contact).sort((left, right) => left - right)[0],
        };
      }),
    );
    const someone = await this.oneOfEach(audiences, slots, outcomes, scope, setting);
    const ids = [
      ...faces.map(({ contact }) => contact),
      ...outcomes.flat().map(({ contact }) => contact),
      ...someone.values(),
    ];
    const people = await this.people.find([...new Set(ids.filter((id) => id !== undefined))]);
    const records = new Map(people.map((person) => [person.id, personRecord(person)]));
    const recordOf = (id: number | undefined) => (id === undefined ? undefined : records.get(id)) ?? null;
    return {
      people: audiences.map((audience, index) => ({
        audience,
        person: recordOf(someone.get(audience)),
        count: sizes[index] ?? 0,
      })),
      slots: slots.map((slot, index) => ({
        slot: slot.id,
        outcomes: (outcomes[index] ?? []).map(({ count, contact }) => ({ count, person: recordOf(contact) })),
      })),
      faces: faces.flatMap(({ choices, count, contact }) => {
        const person = recordOf(contact);
        return person ? [{ choices, count, person }] : [];
      }),
      total,
    };
  }

  /** For each audience a contact in it, preferring one who gets a variant of it. */
  private async oneOfEach(
    audiences: readonly string[],
    slots: readonly Slot[],
    outcomes: readonly (readonly { contact: number | undefined }[])[],
    scope: Scope,
    setting: Setting,
  ): Promise<Map<string, number>> {
    const found = new Map<string, number>();
    for (const [index, slot] of slots.entries())
      for (const [choice, { audience }] of slot.variants.entries()) {
        const contact = outcomes[index]?.[choice]?.contact;
        if (contact !== undefined && !found.has(audience)) found.set(audience, contact);
      }
    for (const audience of audiences) {
      if (found.has(audience)) continue;
      const [contact] = await this.people.asks.some(scope, setting, { kind: 'audience', audience }, 1);
      if (contact !== undefined) found.set(audience, contact);
    }
    return found;
  }
}

function emptyContent(kind: 'page' | 'email', name: string): Content {
  const heading = newBlock('heading', newId);
  if (heading.kind === 'heading') heading.content = [{ type: 'text', text: name }];
  const line = () => newBlock('line', newId);
  return kind === 'page'
    ? { subject: [], preview: [], body: [heading] }
    : {
        subject: [{ kind: 'line', id: newId(), content: [{ type: 'text', text: name }] }],
        preview: [line()],
        body: [heading],
      };
}

function stored(row: DocumentRow): StoredDocument {
  const { id, kind, name, slug, content, revision } = row;
  return { id, kind, name, slug, content, revision, updatedAt: row.updatedAt.toISOString() };
}
