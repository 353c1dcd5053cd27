import type { Attribute } from '../core/attributes/attribute.ts';
import { dayNumber, isoDate } from '../core/attributes/calendar.ts';
import type { Audience } from '../core/audiences/audience.ts';
import { type Condition, not, test } from '../core/conditions/condition.ts';
import type { Content, Slot } from '../core/documents/document.ts';
import { Random } from '../demo/random.ts';

/** The moment everything is asked at. */
export const instant = Date.parse('2026-11-24T12:00:00Z');
export const today = dayNumber('2026-11-24') ?? 0;

const contact = { source: 'contact', description: '' } as const;
const ids = (prefix: string, count: number) =>
  Array.from({ length: count }, (_, index) => ({ id: `${prefix}${index}`, label: `${prefix}${index}` }));
const choice = (id: string, count: number, ordered = false): Attribute => ({
  ...contact,
  id,
  label: id,
  type: 'choice',
  ordered,
  choices: ids(id, count),
});
const set = (id: string, count: number): Attribute => ({
  ...contact,
  id,
  label: id,
  type: 'set',
  choices: ids(id, count),
  exclusiveGroups: [],
});

/** Fifteen attributes, as an organisation has them. */
export const attributes: Attribute[] = [
  choice('tier', 4, true),
  choice('plan', 3),
  choice('stage', 6),
  choice('country', 40),
  set('roles', 5),
  set('lists', 6),
  set('tags', 12),
  { ...contact, id: 'visits', label: 'visits', type: 'number', whole: true },
  { ...contact, id: 'orders', label: 'orders', type: 'number', whole: true },
  { ...contact, id: 'gift', label: 'gift', type: 'number' },
  { ...contact, id: 'score', label: 'score', type: 'number' },
  { ...contact, id: 'joined', label: 'joined', type: 'date' },
  { ...contact, id: 'renewal', label: 'renewal', type: 'date' },
  { ...contact, id: 'city', label: 'city', type: 'text' },
  { ...contact, id: 'vip', label: 'vip', type: 'yes-no' },
];
const cities = Array.from({ length: 500 }, (_, index) => `Town ${index}`);

export interface Contact {
  id: number;
  values: { [attribute: string]: unknown };
  hasAccount: boolean;
}

/** One contact after another, one value in eight missing. */
export function* crowd(count: number, seed = 1): Generator<Contact> {
  const random = new Random(seed);
  for (let id = 1; id <= count; id++) {
    const values: { [attribute: string]: unknown } = {};
    for (const attribute of attributes) {
      if (random.chance(0.125)) continue;
      const value = randomValue(attribute, random);
      if (value !== undefined) values[attribute.id] = value;
    }
    yield { id, values, hasAccount: random.chance(0.4) };
  }
}

const days = new Map<number, string>();
function dateOf(day: number): string {
  let date = days.get(day);
  if (date === undefined) {
    date = isoDate(day);
    days.set(day, date);
  }
  return date;
}

function randomValue(attribute: Attribute, random: Random): unknown {
  switch (attribute.type) {
    case 'choice':
      // Low ones are more frequent, as in life.
      return attribute.choices[Math.floor(random.next() ** 2 * attribute.choices.length)]?.id;
    case 'set': {
      const held = attribute.choices.filter(() => random.chance(0.2)).map(({ id }) => id);
      return held.length > 0 ? held : undefined;
    }
    case 'number':
      return attribute.whole ? random.between(0, 30) : Math.round(random.next() * 100_000) / 100;
    case 'date':
      return dateOf(today + random.between(-1500, 400));
    case 'text':
      return cities[Math.floor(random.next() ** 2 * cities.length)];
    default:
      return random.chance(0.3);
  }
}

function randomTest(random: Random): Condition {
  const attribute = random.pick(attributes as [Attribute, ...Attribute[]]);
  const of = (op: string, ...values: (string | number)[]) => test(attribute.id, op, ...values);
  switch (attribute.type) {
    case 'choice': {
      const picked = attribute.choices[random.between(0, attribute.choices.length - 1)]?.id ?? '';
      if (attribute.ordered && random.chance(0.5)) return of('at-least', picked);
      const other = attribute.choices[random.between(0, attribute.choices.length - 1)]?.id ?? '';
      return of(random.chance(0.8) ? 'is-one-of' : 'is-none-of', ...new Set([picked, other]));
    }
    case 'set': {
      const picked = attribute.choices[random.between(0, attribute.choices.length - 1)]?.id ?? '';
      return of(random.chance(0.7) ? 'includes-any' : 'includes-none', picked);
    }
    case 'number':
      return attribute.whole
        ? of(random.chance(0.5) ? 'at-least' : 'fewer-than', random.between(1, 29))
        : of('between', random.between(0, 400), random.between(401, 1000));
    case 'date':
      return random.chance(0.5)
        ? of('within-last', random.between(7, 900))
        : of('before', isoDate(today - random.between(0, 1000)));
    case 'text':
      return of('is-one-of', cities[random.between(0, 499)] ?? '', cities[random.between(0, 499)] ?? '');
    default:
      return of(random.chance(0.5) ? 'is-yes' : 'has-no-value');
  }
}

/** Audiences of two to five tests, nested, some negated, one in five building on an earlier one. */
export function randomAudiences(count: number, seed = 2): Audience[] {
  const random = new Random(seed);
  const part = (): Condition => {
    const found = randomTest(random);
    return random.chance(0.15) ? not(found) : found;
  };
  const made: Audience[] = [];
  for (let index = 0; index < count; index++) {
    const inner: Condition = { kind: random.chance(0.5) ? 'any' : 'all', of: [part(), part()] };
    const of: Condition[] = [part(), random.chance(0.6) ? inner : part()];
    if (random.chance(0.4)) of.push(part());
    if (index > 10 && random.chance(0.2)) of.push({ kind: 'audience', audience: `a${random.between(0, 9)}` });
    const condition: Condition = { kind: random.chance(0.75) ? 'all' : 'any', of };
    made.push({ id: `a${index}`, name: `a${index}`, description: '', condition });
  }
  return made;
}

/** A page of slots with one to three variants each. */
export function randomPage(slots: number, audiences: number, seed = 3): Content {
  const random = new Random(seed);
  const body = Array.from({ length: slots }, (_, index): Slot => {
    const used = new Set(
      Array.from({ length: random.between(1, 3) }, () => `a${random.between(0, audiences - 1)}`),
    );
    return {
      kind: 'slot',
      id: `s${index}`,
      name: `s${index}`,
      variants: [...used].map((audience, at) => ({ id: `v${index}-${at}`, audience, content: [] })),
      otherwise: [],
    };
  });
  return { subject: [], preview: [], body };
}
