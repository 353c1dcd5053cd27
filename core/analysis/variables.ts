import { type Attribute, choicesOf } from '../attributes/attribute.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { all, any, type Condition, leavesOf, type Test, test as testOf } from '../conditions/condition.ts';
import { meaningOf, type Question } from '../conditions/meaning.ts';
import type { Work } from './diagrams/work.ts';
import { AddressDomain } from './domains/addresses.ts';
import { AnniversaryDomain, TiedDateDomain } from './domains/dates.ts';
import type { Domain } from './domains/domain.ts';
import { FiniteDomain } from './domains/finite.ts';
import { LanguageDomain } from './domains/languages.ts';
import { SetDomain } from './domains/members.ts';
import { OrderedDomain, RelativeDomain } from './domains/ordered.ts';
import { PathDomain } from './domains/paths.ts';
import { TextDomain } from './domains/texts.ts';

const noAttribute: Attribute = { id: 'none', source: 'item', type: 'text', label: '', description: '' };
const keys = new WeakMap<Test, string>();

/** Stands for what a test asks, apart from its attribute. */
export function keyOf(test: Test): string {
  let key = keys.get(test);
  if (key === undefined) {
    key = JSON.stringify([test.op, test.values]);
    keys.set(test, key);
  }
  return key;
}

/** The tests that conditions ask, by attribute, with those of the audiences that they build on, each read once. */
export class AskedTests {
  readonly byAttribute = new Map<string, Map<string, Test>>();
  private readonly read = new Set<string>();

  /** @param conditionOf what an audience asks; undefined for one that is gone or has an error */
  constructor(
    private readonly catalogue: Catalogue,
    private readonly conditionOf: (audience: string) => Condition | undefined,
  ) {}

  collect(condition: Condition): void {
    for (const leaf of leavesOf(condition)) {
      if (leaf.kind === 'audience') {
        if (this.read.has(leaf.audience)) continue;
        this.read.add(leaf.audience);
        const inner = this.conditionOf(leaf.audience);
        if (inner) this.collect(inner);
        continue;
      }
      if (leaf.op === 'includes-own') {
        this.collect(spelledOut(leaf, this.catalogue));
        continue;
      }
      this.put(leaf.attribute, leaf);
      // The viewer's own text becomes a variable too, even where nothing else asks for it.
      if (leaf.op === 'same-as') {
        const own = String(leaf.values[0]);
        this.put(own, testOf(own, 'has-value'));
      }
    }
  }

  private put(attribute: string, test: Test): void {
    let tests = this.byAttribute.get(attribute);
    if (!tests) {
      tests = new Map();
      this.byAttribute.set(attribute, tests);
    }
    tests.set(keyOf(test), test);
  }
}

/** Expands "includes the viewer's own tier" into one case for each tier. */
export function spelledOut({ attribute, values }: Test, catalogue: Catalogue): Condition {
  const other = catalogue.get(String(values[0]));
  const own = new Set(choicesOf(catalogue.get(attribute) ?? noAttribute).map(({ id }) => id));
  return any(
    ...choicesOf(other ?? noAttribute)
      .filter(({ id }) => own.has(id))
      .map(({ id }) =>
        all(testOf(String(values[0]), 'is-one-of', id), testOf(attribute, 'includes-any', id)),
      ),
  );
}

/** Two texts, one of an item and one of the viewer, that a test compares with each other. */
export interface Pair {
  readonly attribute: Attribute;
  readonly other: Attribute;
}

export interface Asked {
  /** In the order in which the tests were collected. */
  readonly domains: readonly Domain[];
  readonly momentTests: readonly Test[];
  readonly pairs: readonly Pair[];
}

/**
 * The domains of the attributes that some tests ask for. Throws TooManyValues where one can't be split exactly.
 *
 * @param tests by attribute, see {@link AskedTests}
 */
export function domainsOf(
  tests: ReadonlyMap<string, ReadonlyMap<string, Test>>,
  catalogue: Catalogue,
  work: Work,
): Asked {
  const domains: Domain[] = [];
  const momentTests: Test[] = [];
  const pairs: Pair[] = [];
  const questions = new Map<string, Question[]>();
  for (const [id, own] of tests) {
    const attribute = catalogue.get(id);
    if (!attribute) continue;
    for (const test of own.values()) {
      const other = test.op === 'same-as' ? catalogue.get(String(test.values[0])) : undefined;
      if (other) pairs.push({ attribute, other });
    }
    const list = [...own.values()].filter(({ op }) => op !== 'same-as');
    questions.set(
      id,
      list.map((test) => meaningOf(test, attribute, catalogue).question),
    );
  }
  // Texts that are compared with each other are split alike, so that equal texts lie in equal cells.
  const compared = new Set(pairs.flatMap(({ attribute, other }) => [attribute.id, other.id]));
  const shared = [...compared].flatMap((id) => questions.get(id) ?? []);
  for (const [id, own] of tests) {
    const attribute = catalogue.get(id);
    if (!attribute || attribute.source === 'sign-in') continue;
    if (attribute.source === 'moment') momentTests.push(...own.values());
    else if (compared.has(id)) domains.push(new TextDomain(attribute, shared, true));
    else domains.push(domainOf(attribute, questions.get(id) ?? [], catalogue, work));
  }
  return { domains, momentTests, pairs };
}

function domainOf(
  attribute: Attribute,
  questions: readonly Question[],
  { zone }: Catalogue,
  work: Work,
): Domain {
  work.spend(questions.length);
  switch (attribute.type) {
    case 'yes-no':
    case 'choice':
    case 'country':
      return new FiniteDomain(attribute, questions);
    case 'set':
      return new SetDomain(attribute, questions);
    case 'number':
    case 'time':
      return new OrderedDomain(attribute, questions, zone);
    case 'text':
      return new TextDomain(attribute, questions);
    case 'path':
      return new PathDomain(attribute, questions, work);
    case 'address':
      return new AddressDomain(attribute, questions);
    case 'language':
      return new LanguageDomain(attribute, questions);
    case 'date':
    case 'date-time': {
      const asks = (kind: Question['kind']) => questions.some((one) => one.kind === kind);
      const ways = (['within', 'days-from-today', 'anniversary'] as const).filter(asks);
      if (ways.length > 1 || AnniversaryDomain.isTooLong(questions))
        return new TiedDateDomain(attribute, questions, zone);
      if (asks('anniversary')) return new AnniversaryDomain(attribute, questions);
      return asks('days-from-today')
        ? new RelativeDomain(attribute, questions, zone)
        : new OrderedDomain(attribute, questions, zone);
    }
  }
}
