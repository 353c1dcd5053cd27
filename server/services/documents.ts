import type { z } from 'zod';
import type {
  Cast,
  DocumentChange,
  ListedDocument,
  newDocumentSchema,
  StoredDocument,
} from '../../contract/documents.ts';
import { faceKey, visibilityOf } from '../../core/analysis/faces.ts';
import type { Catalogue } from '../../core/attributes/catalogue.ts';
import type { Facts } from '../../core/attributes/viewer.ts';
import { everyoneElse, SlotPlan } from '../../core/deciding/decide.ts';
import { audiencesOf, type Content, type DocumentKind, slotsOf } from '../../core/documents/document.ts';
import { newBlock } from '../../core/documents/edit.ts';
import { unsavable } from '../../core/documents/validate.ts';
import { newId } from '../ids.ts';
import { notFound, Refusal } from '../refusal.ts';
import { DocumentRow } from '../store/models.ts';
import { inTransaction } from '../store/transaction.ts';
import type { Drafts } from './drafts.ts';
import { type KnownPerson, type People, personRecord } from './people.ts';

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
    const { snapshot, catalogue, membership } = await this.drafts.decider();
    const plan = new SlotPlan(content, membership);
    const ofPerson = this.people.factsAt(catalogue, snapshot.settings.zone, instant);
    const facts =
      kind === 'email' ? (person: KnownPerson) => asReader(ofPerson(person), catalogue) : ofPerson;
    const audiences = [...audiencesOf(content)];
    const indexes = audiences.map((id) => membership.indexOf(id));
    const shown = new Map<string, KnownPerson>();
    const inside = new Map<string, KnownPerson>();
    const sizes = new Map(audiences.map((id) => [id, 0]));
    const outcomes = plan.slots.map((slot) =>
      [...slot.variants, null].map((): { count: number; person: KnownPerson | null } => ({
        count: 0,
        person: null,
      })),
    );
    const visible = visibilityOf(content);
    const faces = new Map<string, { choices: number[]; count: number; person: KnownPerson }>();
    for (const person of this.people.all()) {
      membership.lookAs(facts(person));
      const choices = plan.decide(membership);
      const shownChoices = visible(choices);
      const face = faces.get(faceKey(shownChoices));
      if (face) face.count++;
      else faces.set(faceKey(shownChoices), { choices: shownChoices, count: 1, person });
      plan.slots.forEach((slot, index) => {
        const choice = choices[index] ?? everyoneElse;
        const outcome = outcomes[index]?.at(choice);
        if (outcome) {
          outcome.count++;
          outcome.person ??= person;
        }
        const variant = slot.variants[choice];
        if (variant && !shown.has(variant.audience)) shown.set(variant.audience, person);
      });
      audiences.forEach((id, index) => {
        if (!membership.contains(indexes[index] ?? -1)) return;
        sizes.set(id, (sizes.get(id) ?? 0) + 1);
        if (!inside.has(id)) inside.set(id, person);
      });
    }
    return {
      people: audiences.map((audience) => {
        const person = shown.get(audience) ?? inside.get(audience);
        return { audience, person: person ? personRecord(person) : null, count: sizes.get(audience) ?? 0 };
      }),
      slots: plan.slots.map((slot, index) => ({
        slot: slot.id,
        outcomes: (outcomes[index] ?? []).map(({ count, person }) => ({
          count,
          person: person && personRecord(person),
        })),
      })),
      faces: [...faces.values()].map((face) => ({ ...face, person: personRecord(face.person) })),
      total: this.people.total,
    };
  }
}

/** Facts of somebody reading an email: recognised, never signed in. */
function asReader(facts: Facts, catalogue: Catalogue): Facts {
  const place = catalogue.indexOf('signed-in');
  return { ...facts, values: facts.values.map((fact, index) => (index === place ? false : fact)) };
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
