import type { z } from 'zod';
import type { Contact, ContactQuery, exportQuerySchema } from '../../contract/people.ts';
import { pageSize } from '../../contract/people.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import { Membership } from '../../core/deciding/membership.ts';
import { writerFor } from '../../core/exchange/write.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import { contactRow, contactsToExport } from './contact-rows.ts';
import { type People, personRecord } from './people.ts';

const valuesShown = 200;
const exportedAtOnce = 500;
const filterId = '\u0000filter';

export class Contacts {
  constructor(
    private readonly people: People,
    private readonly drafts: Drafts,
  ) {}

  /** How far they are read into memory; undefined where they are not read. */
  get reading(): People['reading'] {
    return this.people.reading;
  }

  /** One page of the contacts that match, sorted; people without the sorted value come last. */
  async list(query: ContactQuery) {
    const { catalogue } = await this.drafts.decider();
    const sorted = query.sort === 'name' ? undefined : catalogue.get(query.sort);
    if (query.sort !== 'name' && !sorted)
      throw new Refusal(400, 'There is no such attribute to sort by.', {
        fields: [{ path: 'sort', message: 'is not an attribute' }],
      });
    const where = await this.filterOf(query);
    const scope = this.people.scopeOf(await this.drafts.snapshot());
    const { ids, matching } = await this.people.asks.list(scope, this.people.now(), {
      where,
      search: query.search,
      importId: query.import,
      sort: query.sort,
      direction: query.direction,
      from: query.page * pageSize,
      most: pageSize,
    });
    return {
      contacts: (await this.people.find(ids)).map(personRecord),
      matching,
      total: await this.people.asks.total(),
    };
  }

  async get(id: number): Promise<Contact> {
    const [row, person] = await Promise.all([contactRow(id), this.people.get(id)]);
    if (!row || !person) throw notFound('contact');
    return {
      ...personRecord(person),
      externalId: row.externalId ?? null,
      unsubscribedAt: row.unsubscribedAt?.toISOString() ?? null,
      updatedAt: row.updatedAt.toISOString(),
    };
  }

  /** All who match, in order, or those who are named, written one after another. */
  async *export(query: z.infer<typeof exportQuerySchema>): AsyncGenerator<string> {
    const ids = await this.idsToExport(query);
    for await (const { text } of this.written(query.kind, ids)) yield text;
  }

  /** Whom an export is of; refused where its filter has a problem. */
  idsToExport(query: z.infer<typeof exportQuerySchema>): Promise<readonly number[]> {
    return query.ids ? Promise.resolve(query.ids) : this.idsOf(query);
  }

  /** Contacts as the text of a file, with how many are in each part of it. */
  async *written(
    kind: z.infer<typeof exportQuerySchema>['kind'],
    ids: readonly number[],
  ): AsyncGenerator<{ text: string; people: number }> {
    const { catalogue } = await this.drafts.decider();
    const writer = writerFor(
      kind,
      catalogue.attributes.filter(({ source }) => source === 'contact'),
    );
    yield { text: writer.start, people: 0 };
    for (let start = 0; start < ids.length; start += exportedAtOnce) {
      const wanted = ids.slice(start, start + exportedAtOnce);
      const byId = await contactsToExport(wanted);
      const text = wanted
        .flatMap((id) => byId.get(id) ?? [])
        .map((row) => writer.write(row))
        .join('');
      yield { text, people: wanted.length };
    }
  }

  /** Who matches, in order. */
  async idsOf({
    sort = 'name',
    direction = 'up',
    ...query
  }: Pick<ContactQuery, 'search' | 'audience' | 'where' | 'import'> &
    Partial<Pick<ContactQuery, 'sort' | 'direction'>>): Promise<number[]> {
    const where = await this.filterOf(query);
    const scope = this.people.scopeOf(await this.drafts.snapshot());
    const { asks } = this.people;
    const asked = { where, search: query.search, importId: query.import, sort, direction };
    const most = await asks.total();
    return (await asks.list(scope, this.people.now(), { ...asked, from: 0, most })).ids;
  }

  /** Which values of an attribute occur, most frequent first, and how many people lack one. */
  async valuesOf(attributeId: string) {
    const { catalogue } = await this.drafts.decider();
    const attribute = catalogue.get(attributeId);
    if (attribute?.source !== 'contact') throw notFound('attribute');
    const scope = this.people.scopeOf(await this.drafts.snapshot());
    const [[lacking = 0], values] = await Promise.all([
      this.people.asks.lacking(scope, [attributeId]),
      this.people.asks.values(scope, attributeId, valuesShown + 1),
    ]);
    return { lacking, values: values.slice(0, valuesShown), complete: values.length <= valuesShown };
  }

  /** What the listed contacts have to be in; refused where the filter has a problem. */
  private async filterOf(query: Pick<ContactQuery, 'audience' | 'where'>): Promise<Condition> {
    const parts: Condition[] = [];
    if (query.audience !== undefined) parts.push({ kind: 'audience', audience: query.audience });
    if (query.where) parts.push(query.where);
    const condition: Condition = { kind: 'all', of: parts };
    const { snapshot, catalogue } = await this.drafts.decider();
    const membership = new Membership(catalogue, [
      ...snapshot.audiences,
      { id: filterId, name: 'filter', description: '', condition },
    ]);
    const [problem] = membership.problems.get(filterId) ?? [];
    if (problem)
      throw new Refusal(400, 'The filter can’t be applied.', {
        fields: [{ ...problem, path: `where.${problem.path}` }],
      });
    return condition;
  }
}
