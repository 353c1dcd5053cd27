import type { z } from 'zod';
import type {
  Cast,
  DocumentChange,
  fromHtmlSchema,
  htmlPageSchema,
  ListedDocument,
  newDocumentSchema,
  SavedDocument,
  StoredDocument,
} from '../../contract/documents.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import { everyoneElse } from '../../core/deciding/decide.ts';
import { newBlock } from '../../core/documents/blocks/blocks.ts';
import {
  type Content,
  channelOf,
  contentSchema,
  type DocumentKind,
  type Slot,
  slotsOf,
} from '../../core/documents/document.ts';
import { circleOfPieces, piecesIn, piecesOf } from '../../core/documents/shared.ts';
import { audiencesOf } from '../../core/documents/uses.ts';
import { unsavable } from '../../core/documents/validate.ts';
import type { Setting } from '../../core/population/population.ts';
import { collectionRow } from '../collections/rows.ts';
import { newId } from '../ids.ts';
import { type People, personRecord } from '../people/people.ts';
import type { Scope } from '../people/questions.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import { refuseGoneAudience, refuseGonePage } from '../snapshots/gone.ts';
import { KeptKind } from '../snapshots/kept-kind.ts';
import type { ChangeLog } from '../store/change-log.ts';
import { inTransaction, inTransactionAmongOthers, type Transaction } from '../store/transaction.ts';
import { moveInMenu, refuseTaken } from './addresses.ts';
import { duplicateDocument } from './duplicate.ts';
import type { MarkupThread } from './markup-thread.ts';
import {
  allDocuments,
  type DocumentRow,
  deleteDocument,
  documentOfCollection,
  documentRow,
  insertDocument,
  listedDocuments,
  sharedContent,
  stored,
  updateDocument,
} from './rows.ts';
import { withSanitisedHtml } from './sanitise.ts';

export class Documents {
  private readonly listed = new KeptKind(listedDocuments);

  constructor(
    private readonly people: People,
    private readonly drafts: Drafts,
    private readonly markup: MarkupThread,
    log: ChangeLog,
  ) {
    log.on(['document'], (changes) => {
      for (const { ids } of changes) this.listed.forget(ids);
    });
  }

  /** @param ids which of all, as far as they are there */
  async list(ids?: readonly string[]): Promise<ListedDocument[]> {
    const all = await this.listed.get();
    if (!ids) return all;
    const wanted = new Set(ids);
    return all.filter(({ id }) => wanted.has(id));
  }

  /** Every piece of shared content, whole. */
  async shared(): Promise<StoredDocument[]> {
    return (await sharedContent()).map(stored);
  }

  async get(id: string): Promise<StoredDocument> {
    const row = await documentRow(id);
    if (!row) throw notFound('page or email');
    return stored(row);
  }

  async create({ kind, name, slug }: z.infer<typeof newDocumentSchema>): Promise<StoredDocument> {
    const row = await this.made({ kind, name, slug, content: emptyContent(kind, name) });
    return stored(row);
  }

  private made(document: Pick<DocumentRow, 'kind' | 'name' | 'slug' | 'content'>): Promise<DocumentRow> {
    return inTransactionAmongOthers(async (transaction) => {
      await refuseTaken(document.kind, document.slug, undefined, transaction);
      return insertDocument({ id: newId(), ...document }, transaction);
    });
  }

  /** Makes a page of one written in HTML, and says what of it was left out. */
  async fromHtml({
    name,
    slug,
    html,
  }: z.infer<typeof htmlPageSchema>): Promise<z.infer<typeof fromHtmlSchema>> {
    const { blocks, dropped } = await this.markup.do('blocks', html);
    if (blocks.length === 0)
      throw new Refusal(
        422,
        'There is nothing in it that a page could show: no heading, text, link or picture.',
      );
    const content = storable('page', { subject: [], preview: [], body: blocks });
    const row = await this.made({ kind: 'page', name, slug, content });
    return { id: row.id, dropped: [...dropped] };
  }

  async change(id: string, change: DocumentChange): Promise<SavedDocument> {
    const { revision, name, slug, access, collection } = change;
    const content = withSanitisedHtml(change.content);
    const snapshot = await this.drafts.snapshot();
    const saved = await inTransaction(async (transaction) => {
      const row = await documentRow(id, transaction);
      if (!row) throw notFound('page or email');
      const problems = unsavable(row.kind, content);
      if (problems.length > 0)
        throw new Refusal(422, problems.map((problem) => problem.message).join('. '), {
          fields: problems.map(({ block, message }) => ({ path: block ?? '', message })),
        });
      if (row.revision !== revision)
        throw new Refusal(
          409,
          `Someone saved “${row.name}” after you opened it. Your version is kept on this screen; theirs is stored.`,
          { current: stored(row) },
        );
      if (slug !== undefined && slug !== row.slug) await refuseTaken(row.kind, slug, id, transaction);
      await refuseCircle(id, row.kind, content, transaction);
      if (collection) await refuseTakenCollection(collection, id, transaction);
      if (access) {
        const instead = (given: typeof access) =>
          typeof given?.otherwise === 'object' ? given.otherwise.page : null;
        refuseGoneAudience(access.audience, row.access?.audience, snapshot);
        refuseGonePage(instead(access), row.access && instead(row.access), snapshot);
      }
      if (slug !== undefined && slug !== row.slug && row.kind === 'page')
        await moveInMenu(row.slug, slug, transaction);
      return updateDocument(
        row,
        {
          name,
          content,
          ...(slug !== undefined && { slug }),
          ...(access !== undefined && { access }),
          ...(collection !== undefined && { collectionId: collection }),
          revision: revision + 1,
        },
        transaction,
      );
    });
    const { content: now, ...rest } = stored(saved);
    return content === change.content ? rest : { ...rest, content: now };
  }

  /** Makes another document like one. */
  duplicate(id: string): Promise<StoredDocument> {
    return duplicateDocument(id);
  }

  /** Deletes a document. Refused where others lead to it or hold it, or the site shows it by itself. */
  async remove(id: string): Promise<void> {
    const { settings } = await this.drafts.snapshot();
    const row = await documentRow(id);
    if (row?.kind === 'page' && row.slug === '' && !row.collectionId)
      throw new Refusal(409, 'The home page can’t be deleted. Give it another path first.');
    if (settings.notFoundPage === id || settings.afterSignIn === id)
      throw new Refusal(
        409,
        `The site is set to show this page ${settings.notFoundPage === id ? 'as its not-found page' : 'after signing in'}. Choose another there first, then delete it.`,
      );
    const rows = await allDocuments();
    const holder = rows.find(
      ({ content, access }) =>
        piecesIn(content).has(id) || (typeof access?.otherwise === 'object' && access.otherwise.page === id),
    );
    if (holder) throw new Refusal(409, `“${holder.name}” uses this. Remove it there first, then delete it.`);
    if (!(await deleteDocument(id))) throw notFound('page or email');
  }

  /**
   * For each audience that a content uses, somebody to look as: preferring a person for whom a variant of that
   * audience is shown. And for each slot how many contacts get each variant today.
   */
  async cast(content: Content, kind: DocumentKind, instant: number): Promise<Cast> {
    const { snapshot } = await this.drafts.decider();
    const { asks } = this.people;
    const scope = this.people.scopeOf(snapshot);
    const setting = this.people.now(channelOf(kind), instant);
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

function emptyContent(kind: DocumentKind, name: string): Content {
  const heading = newBlock('heading', newId);
  if (heading.kind === 'heading') {
    heading.level = 1;
    heading.content = [{ type: 'text', text: name }];
  }
  const line = () => newBlock('line', newId);
  return kind !== 'email'
    ? { subject: [], preview: [], body: [heading] }
    : {
        subject: [{ kind: 'line', id: newId(), content: [{ type: 'text', text: name }] }],
        preview: [line()],
        body: [heading],
      };
}

async function refuseTakenCollection(
  collectionId: string,
  except: string,
  transaction: Transaction,
): Promise<void> {
  // Locked, so that two pages can't take it at once.
  if (!(await collectionRow(collectionId, transaction))) throw notFound('collection');
  const other = await documentOfCollection(collectionId, transaction);
  if (other && other.id !== except)
    throw new Refusal(422, `“${other.name}” shows the items of this collection already.`);
}

/** Refuses shared content that would stand in itself, through any number of pieces. */
async function refuseCircle(
  id: string,
  kind: DocumentKind,
  content: Content,
  transaction: Transaction,
): Promise<void> {
  if (piecesIn(content).size === 0 || kind !== 'shared') return;
  const rows = await sharedContent(transaction);
  const pieces = piecesOf(rows.map((row) => (row.id === id ? { id, kind, content } : row)));
  const circle = circleOfPieces(pieces);
  if (!circle) return;
  const names = new Map(rows.map((row) => [row.id, row.name]));
  throw new Refusal(
    422,
    `These pieces would stand in each other in a circle: ${circle.map((one) => `“${names.get(one) ?? one}”`).join(' → ')}. Remove one of them.`,
  );
}

/** A content that was made by a program, as what a person saves: refused where it could not be read again. */
function storable(kind: DocumentKind, content: Content): Content {
  const read = contentSchema.safeParse(content);
  const problems = read.success
    ? unsavable(kind, read.data).map(({ message }) => message)
    : [read.error.issues[0]?.message ?? 'it is not a page'];
  if (!read.success || problems.length > 0)
    throw new Refusal(422, `This can’t be made a page: ${problems.join('. ')}.`);
  return read.data;
}
