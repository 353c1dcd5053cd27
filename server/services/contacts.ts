import type { Contact, ContactQuery } from '../../contract/people.ts';
import { pageSize } from '../../contract/people.ts';
import { type Attribute, choicesOf } from '../../core/attributes/attribute.ts';
import { readValue } from '../../core/attributes/parse.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import { fold } from '../../core/conditions/meaning.ts';
import { Membership } from '../../core/deciding/membership.ts';
import { membersOf } from '../../core/population/population.ts';
import { notFound, Refusal } from '../refusal.ts';
import { ContactRow } from '../store/models.ts';
import type { Drafts } from './drafts.ts';
import { type KnownPerson, type People, personRecord } from './people.ts';

const valuesShown = 200;
const filterId = '\u0000filter';

export class Contacts {
  constructor(
    private readonly people: People,
    private readonly drafts: Drafts,
  ) {}

  /** One page of the contacts that match, sorted; people without the sorted value come last. */
  async list(query: ContactQuery) {
    const { catalogue } = await this.drafts.decider();
    const sorted = query.sort === 'name' ? undefined : catalogue.get(query.sort);
    if (query.sort !== 'name' && !sorted)
      throw new Refusal(400, 'There is no such attribute to sort by.', {
        fields: [{ path: 'sort', message: 'is not an attribute' }],
      });
    let found = await this.matching(query);
    const wanted = fold(query.search.trim());
    if (wanted !== '')
      found = found.filter((person) => fold(`${person.name} ${person.email}`).includes(wanted));
    found.sort(comparing(sorted, query.direction === 'up' ? 1 : -1));
    const start = query.page * pageSize;
    return {
      contacts: found.slice(start, start + pageSize).map(personRecord),
      matching: found.length,
      total: this.people.total,
    };
  }

  async get(id: number): Promise<Contact> {
    const [row, person] = [await ContactRow.findByPk(id), this.people.get(id)];
    if (!row || !person) throw notFound('contact');
    return {
      ...personRecord(person),
      unsubscribedAt: row.unsubscribedAt?.toISOString() ?? null,
      updatedAt: row.updatedAt.toISOString(),
    };
  }

  /** Which values of an attribute occur, most frequent first, and how many people lack one. */
  async valuesOf(attributeId: string) {
    const { catalogue } = await this.drafts.decider();
    const attribute = catalogue.get(attributeId);
    if (attribute?.source !== 'contact') throw notFound('attribute');
    const counts = new Map<string, number>();
    let lacking = 0;
    for (const person of this.people.all()) {
      const value = readValue(attribute, person.values[attributeId]);
      if (value === undefined) lacking++;
      for (const one of value === undefined ? [] : [value].flat())
        counts.set(String(one), (counts.get(String(one)) ?? 0) + 1);
    }
    const values = [...counts].map(([value, count]) => ({ value, count }));
    values.sort((left, right) => right.count - left.count || (left.value < right.value ? -1 : 1));
    return { lacking, values: values.slice(0, valuesShown) };
  }

  private async matching(query: ContactQuery): Promise<KnownPerson[]> {
    const parts: Condition[] = [];
    if (query.audience !== undefined) parts.push({ kind: 'audience', audience: query.audience });
    if (query.where) parts.push(query.where);
    if (parts.length === 0) return [...this.people.all()];
    const { snapshot, catalogue } = await this.drafts.decider();
    const condition: Condition = { kind: 'all', of: parts };
    const membership = new Membership(catalogue, [
      ...snapshot.audiences,
      { id: filterId, name: 'filter', description: '', condition },
    ]);
    const [problem] = membership.problems.get(filterId) ?? [];
    if (problem)
      throw new Refusal(400, 'The filter can’t be applied.', {
        fields: [{ ...problem, path: `where.${problem.path}` }],
      });
    const facts = this.people.factsAt(catalogue, snapshot.settings.zone, Date.now());
    return membersOf(this.people.all(), [filterId], membership, facts).get(filterId) ?? [];
  }
}

function comparing(attribute: Attribute | undefined, sign: 1 | -1) {
  const collator = new Intl.Collator('en', { sensitivity: 'base', numeric: true });
  const byName = (left: KnownPerson, right: KnownPerson) =>
    collator.compare(left.name, right.name) || left.id - right.id;
  if (!attribute) return (left: KnownPerson, right: KnownPerson) => sign * byName(left, right);
  const order = new Map(choicesOf(attribute).map((choice, index) => [choice.id, index]));
  const key = (person: KnownPerson): string | number | undefined => {
    const value = person.values[attribute.id];
    if (Array.isArray(value))
      return value.map((id) => choicesOf(attribute).find((c) => c.id === id)?.label).join(', ');
    if (typeof value === 'boolean') return value ? 1 : 0;
    if (attribute.type === 'choice' && typeof value === 'string') return order.get(value);
    return typeof value === 'string' || typeof value === 'number' ? value : undefined;
  };
  return (left: KnownPerson, right: KnownPerson) => {
    const [a, b] = [key(left), key(right)];
    if (a === undefined || b === undefined) return a === b ? byName(left, right) : a === undefined ? 1 : -1;
    const difference =
      typeof a === 'number' && typeof b === 'number' ? a - b : collator.compare(String(a), String(b));
    return sign * difference || byName(left, right);
  };
}
