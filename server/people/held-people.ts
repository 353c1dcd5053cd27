import { randomUUID } from 'node:crypto';
import { setImmediate } from 'node:timers/promises';
import { LRUCache } from 'lru-cache';
import { type Attribute, choicesOf } from '../../core/attributes/attribute.ts';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { fold } from '../../core/attributes/text-folding.ts';
import { type Fact, valueOfFact } from '../../core/attributes/viewer.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import { Membership } from '../../core/deciding/membership.ts';
import type { Content } from '../../core/documents/document.ts';
import { hasBit } from '../../core/population/bits.ts';
import { classify } from '../../core/population/classify.ts';
import { type Asking, Population, type Setting } from '../../core/population/population.ts';
import { smallest } from '../../core/population/smallest.ts';
import type { Access } from '../store/hosts.ts';
import {
  changedSince,
  type HeldContact,
  idsOfContacts,
  nameImage,
  streamContacts,
  streamIdsByName,
} from './held-rows.ts';
import { KeptPeople, type NamedContacts } from './kept-people.ts';
import { NameOrder } from './name-order.ts';
import { NameSearch } from './name-search.ts';
import { personIn, searchedBy } from './people-half.ts';
import type { AsksPeople, Crossing, ListQuery, Scope } from './questions.ts';
import { RestOfPeople } from './rest-of-people.ts';
import { TextsById } from './texts-by-id.ts';

/** Sets of attributes that columns are kept for: those of the drafts and of the release. */
const mostPopulations = 2;
/** How often `tell` is called, in contacts. */
const toldEvery = 10_000;
/** Where more changed than these, the order of names is read anew. */
const mostRenamed = 5000;
/** Where more changed than these since contacts were written down, all are read anew. */
const mostCaughtUp = 100_000;
const mostAtOnce = 5000;

/** Answers about all contacts from columns held in memory; lives in a worker thread. */
export class HeldPeople implements AsksPeople {
  private readonly populations = new LRUCache<string, Population>({ max: mostPopulations });
  private readonly names = new TextsById();
  private readonly search = new NameSearch();
  private asking: { scope: Scope; setting: Setting; population: Population; asking: Asking } | undefined;
  private readonly collator = new Intl.Collator('en', { sensitivity: 'base' });
  private order: NameOrder | undefined;
  private room = { keys: new Float64Array(0), places: new Int32Array(0) };
  /** Contacts that changed since the order of names was brought up to date. */
  private readonly renamed = new Set<number>();

  private readonly kept: KeptPeople | undefined;
  /** Whether what is in memory is written down as it is. */
  private isKept = false;
  private isStopped = false;

  /**
   * @param tell called with the number of contacts read so far, and with null when all are read
   * @param folder where they are kept for the next start; nowhere where it is not given
   * @param fewestForTwo how far ids have to reach for two threads to read the rows
   */
  constructor(
    private readonly connection: Access,
    private readonly tell: (read: number | null) => void = () => undefined,
    folder?: string,
    private readonly fewestForTwo = 100_000,
  ) {
    this.kept = folder ? new KeptPeople(folder, connection.database) : undefined;
  }

  async total(): Promise<number> {
    const [population] = this.populations.values();
    return (population ?? (await this.load({ attributes: [], zone: 'UTC', audiences: [] }))).size;
  }

  async count(scope: Scope, setting: Setting, conditions: readonly Condition[]): Promise<number[]> {
    const { asking } = await this.ask(scope, setting);
    return conditions.map((condition) => asking.count(condition));
  }

  async some(scope: Scope, setting: Setting, condition: Condition, most: number): Promise<number[]> {
    const { population, asking } = await this.ask(scope, setting);
    const ids = population.idsIn(asking.rows(condition));
    if (ids.length <= most) return ids;
    return Array.from({ length: most }, (_, index) => ids[Math.floor((index * ids.length) / most)] ?? 0);
  }

  async changes(scope: Scope, settings: readonly Setting[], condition: Condition, most: number) {
    let before: Int32Array | undefined;
    const steps: Awaited<ReturnType<AsksPeople['changes']>> = [];
    for (const setting of settings) {
      const { population, asking } = await this.ask(scope, setting);
      // A copy: what one asking answers is gone with the next.
      const now = asking.rows(condition).slice();
      const crossing = (inside: Int32Array, outside: Int32Array | undefined): Crossing => {
        if (!outside) return { count: 0, ids: [] };
        const crossed = inside.map((word, at) => word & ~(outside[at] ?? 0));
        return { count: population.count(crossed), ids: population.idsIn(crossed, 0, most) };
      };
      steps.push({
        count: population.count(now),
        entering: crossing(now, before),
        leaving: before ? crossing(before, now) : crossing(now, undefined),
      });
      before = now;
    }
    return steps;
  }

  async lacking(scope: Scope, attributes: readonly string[]): Promise<number[]> {
    const population = await this.populationOf(scope);
    return attributes.map((attribute) => population.lacking(attribute));
  }

  async values(scope: Scope, attribute: string, most: number): Promise<{ value: string; count: number }[]> {
    const population = await this.populationOf(scope);
    const definition = catalogueOf(scope).get(attribute);
    if (!definition) return [];
    const counts = new Map<string, number>();
    for (const { fact, rows } of population.counts(attribute))
      for (const one of [valueOfFact(definition, fact)].flat())
        counts.set(String(one), (counts.get(String(one)) ?? 0) + rows);
    return [...counts]
      .map(([value, count]) => ({ value, count }))
      .sort((left, right) => right.count - left.count || (left.value < right.value ? -1 : 1))
      .slice(0, most);
  }

  async faces(scope: Scope, setting: Setting, content: Content) {
    const { population, asking } = await this.ask(scope, setting);
    return classify(content, population, asking);
  }

  async list(scope: Scope, setting: Setting, query: ListQuery): Promise<{ ids: number[]; matching: number }> {
    const order = await this.nameOrder();
    const { population, asking } = await this.ask(scope, setting);
    const bits = asking.rows(query.where);
    const wanted = fold(query.search.trim());
    const rows = wanted === '' ? population.rowsIn(bits) : this.found(wanted, population, bits);
    const attribute = catalogueOf(scope).get(query.sort);
    const { keys, places } = this.roomFor(rows.length);
    if (attribute)
      population.keysAt(attribute.id, rows, this.keyOf(attribute, population, query.direction), keys);
    const sign = !attribute && query.direction === 'down' ? -1 : 1;
    for (let at = 0; at < rows.length; at++)
      places[at] = sign * order.placeOf(population.idAt(rows[at] ?? 0));
    const isPlacedBefore = (one: number, two: number) => (places[one] ?? 0) < (places[two] ?? 0);
    const isBefore = (one: number, two: number): boolean => {
      const [a, b] = [keys[one] ?? 0, keys[two] ?? 0];
      return a === b ? isPlacedBefore(one, two) : a < b;
    };
    const before = attribute ? isBefore : isPlacedBefore;
    const shown = smallest(rows.length, query.from + query.most, before).slice(query.from);
    return { ids: shown.map((at) => population.idAt(rows[at] ?? 0)), matching: rows.length };
  }

  /** Arrays for sorting, reused: new ones of this size start a garbage collection over millions of objects. */
  private roomFor(rows: number): { readonly keys: Float64Array; readonly places: Int32Array } {
    if (this.room.places.length < rows) {
      const some = Math.ceil(1.1 * rows);
      this.room = { keys: new Float64Array(some), places: new Int32Array(some) };
    }
    return this.room;
  }

  /** The rows of those who hold a folded text in their name or address, and whose bit is set. */
  private found(wanted: string, population: Population, bits: Int32Array): Uint32Array {
    return Uint32Array.from(
      this.search.find(wanted).flatMap((id) => {
        const row = population.rowFor(id);
        return row !== undefined && hasBit(bits, row) ? [row] : [];
      }),
    );
  }

  /** A value as a number in the order that is asked for; who has none comes last in either direction. */
  private keyOf(
    attribute: Attribute,
    population: Population,
    direction: 'up' | 'down',
  ): (fact: Fact) => number {
    const sign = direction === 'up' ? 1 : -1;
    const facts = population.differentFacts(attribute.id);
    if (!facts) return (fact) => (typeof fact === 'number' ? sign * fact : Number.POSITIVE_INFINITY);
    const keyOf = sortKey(attribute);
    const texts = new Set(facts.map(keyOf).filter((key): key is string => typeof key === 'string'));
    const inOrder = [...texts].sort(this.collator.compare);
    const places = new Map<string, number>();
    for (const [index, text] of inOrder.entries()) {
      // Texts that the order does not tell apart have one place.
      const before = inOrder[index - 1];
      const same = before !== undefined && this.collator.compare(before, text) === 0;
      places.set(text, same ? (places.get(before) ?? 0) : index);
    }
    return (fact) => {
      const key = keyOf(fact);
      if (key === undefined) return Number.POSITIVE_INFINITY;
      return sign * (typeof key === 'number' ? key : (places.get(key) ?? 0));
    };
  }

  /** The order of names, with what has changed since it was asked for last. */
  private async nameOrder(): Promise<NameOrder> {
    if (this.renamed.size > mostRenamed) this.order = undefined;
    if (!this.order) {
      const ids: number[] = [];
      this.renamed.clear();
      await streamIdsByName(this.connection, (id) => ids.push(id));
      this.order = new NameOrder(Uint32Array.from(ids));
    } else if (this.renamed.size > 0) {
      this.order.update(this.renamed, (id) => this.names.get(id), this.collator.compare);
      this.renamed.clear();
    }
    return this.order;
  }

  async changed(ids?: readonly number[]): Promise<void> {
    this.asking = undefined;
    this.isKept = false;
    if (!ids) {
      this.populations.clear();
      this.names.clear();
      this.search.clear();
      this.order = undefined;
      return;
    }
    for (const id of ids) this.renamed.add(id);
    const found = new Set<number>();
    if (ids.length > 0)
      await streamContacts(this.connection, ids, (row) => {
        found.add(row.id);
        this.put(row, this.populations.values());
      });
    // Whoever was erased must not stay in a file.
    if (ids.some((id) => !found.has(id))) this.kept?.clear([]);
    for (const id of ids) {
      if (found.has(id)) continue;
      this.names.set(id, undefined);
      this.search.set(id, undefined);
      for (const population of this.populations.values()) population.remove(id);
    }
    for (const population of this.populations.values()) population.tidy();
  }

  async keep(position: number): Promise<boolean> {
    const { kept, populations } = this;
    if (!kept || this.isKept || populations.size === 0) return false;
    // An order that was never asked for is read by whoever asks for it first.
    const order = this.order && (await this.nameOrder()).ids;
    const token = randomUUID();
    for (const [columns, population] of populations.entries())
      kept.write({ columns, token }, { population, named: this.everybody(), order });
    await nameImage(this.connection, token, position);
    kept.clear([...populations.keys()]);
    this.isKept = true;
    return true;
  }

  private *everybody(): Generator<NamedContacts> {
    for (let at = 0; at < this.names.length; at++)
      yield { names: this.names.blockAt(at), found: this.search.texts.blockAt(at) };
  }

  async stop(): Promise<void> {
    this.isStopped = true;
  }

  private async ask(scope: Scope, setting: Setting) {
    const { asking } = this;
    // What is asked in a row is mostly asked in one scope and setting, and audiences need not be worked out again.
    if (asking?.scope === scope && sameSetting(asking.setting, setting)) return asking;
    const population = await this.populationOf(scope);
    const membership = new Membership(population.catalogue, scope.audiences);
    this.asking = {
      scope,
      setting,
      population,
      asking: population.under(setting, scope.audiences, membership.problems),
    };
    return this.asking;
  }

  private async populationOf(scope: Scope): Promise<Population> {
    return this.populations.get(columnsOf(scope)) ?? this.load(scope);
  }

  private async load(scope: Scope): Promise<Population> {
    this.tell(0);
    try {
      return (await this.restored(scope)) ?? (await this.read(scope));
    } finally {
      this.tell(null);
    }
  }

  /** What was written down before the last stop, with what changed since; undefined where that is of no use. */
  private async restored(scope: Scope): Promise<Population | undefined> {
    const columns = columnsOf(scope);
    const image = this.kept?.open(columns);
    if (!image) return undefined;
    const isFirst = this.populations.size === 0;
    const changed = await changedSince(this.connection, image.token, mostCaughtUp);
    if (!changed) {
      image.drop();
      return undefined;
    }
    try {
      const { population, named, order } = image.read(catalogueOf(scope));
      // Names that are there already are newer than those in the file.
      if (isFirst) {
        for (const { names, found } of named) {
          this.names.putBlock(names);
          this.search.putBlock(found);
        }
        this.order = order && new NameOrder(order);
      }
      this.populations.set(columns, population);
    } catch {
      // A file that is damaged is as good as none.
      image.drop();
      if (isFirst) await this.changed();
      return undefined;
    }
    for (let at = 0; at < changed.length; at += mostAtOnce)
      await this.changed(changed.slice(at, at + mostAtOnce));
    this.isKept = changed.length === 0;
    const population = this.populations.get(columns);
    if (population) void this.makeIndexes(population);
    return population;
  }

  /** Makes the indexes that no question has asked for yet, one after another, each before the next question. */
  private async makeIndexes(population: Population): Promise<void> {
    do await setImmediate();
    while (!this.isStopped && population.tidy());
  }

  private async read(scope: Scope): Promise<Population> {
    const population = new Population(catalogueOf(scope));
    let read = 0;
    this.isKept = false;
    // The second half is read by another thread at the same time.
    const middle = await this.middleId();
    const rest = middle === undefined ? undefined : new RestOfPeople(this.connection, scope, middle);
    try {
      await streamContacts(this.connection, { before: middle }, (row) => {
        this.put(row, [population]);
        if (++read % toldEvery === 0) this.tell(read + (rest?.read ?? 0));
      });
      const others = await rest?.done;
      if (others) {
        population.append(others.image);
        for (const { names, found } of others.named) {
          this.names.putBlock(names);
          this.search.putBlock(found);
        }
      }
    } finally {
      await rest?.stop();
    }
    this.populations.set(columnsOf(scope), population);
    void this.makeIndexes(population);
    return population;
  }

  /** The id where the second half of the contacts begins; undefined where they are too few for two threads. */
  private async middleId(): Promise<number | undefined> {
    const ids = await idsOfContacts(this.connection);
    if (!ids || ids.greatest - ids.least < this.fewestForTwo) return undefined;
    return TextsById.startOfBlock((ids.least + ids.greatest) / 2);
  }

  private put(row: HeldContact, populations: Iterable<Population>): void {
    const person = personIn(row);
    for (const population of populations) population.put(person);
    this.names.set(row.id, row.name);
    this.search.set(row.id, searchedBy(row));
  }
}

const catalogues = new WeakMap<Scope, Catalogue>();

function catalogueOf(scope: Scope): Catalogue {
  let catalogue = catalogues.get(scope);
  if (!catalogue) {
    catalogue = new Catalogue(scope.attributes, scope.zone);
    catalogues.set(scope, catalogue);
  }
  return catalogue;
}

/** What the columns of a scope depend on, as a text: how attributes and their choices are called changes none. */
function columnsOf({ zone, attributes }: Scope): string {
  const isWords = (key: string) => key === 'label' || key === 'description';
  return JSON.stringify([zone, attributes], (key, value) => (isWords(key) ? undefined : value));
}

/** What a value is sorted by: ordered choices by their order, sets by their labels, the rest by itself. */
function sortKey(attribute: Attribute): (fact: Fact) => string | number | undefined {
  const order = new Map(choicesOf(attribute).map((choice, index) => [choice.id, index]));
  const labels = new Map(choicesOf(attribute).map(({ id, label }) => [id, label]));
  return (fact) => {
    if (typeof fact === 'object') return fact.map((id) => labels.get(id) ?? id).join(', ');
    if (typeof fact === 'boolean') return fact ? 1 : 0;
    return attribute.type === 'choice' && fact !== undefined ? order.get(String(fact)) : fact;
  };
}

function sameSetting(left: Setting, right: Setting): boolean {
  return (
    left.channel === right.channel &&
    left.instant === right.instant &&
    left.visit === right.visit &&
    left.item === right.item
  );
}
