import type { Attribute } from '../../core/attributes/attribute.ts';
import type { Audience } from '../../core/audiences/audience.ts';
import type { Condition, Test } from '../../core/conditions/condition.ts';
import type { Content, Node, Slot } from '../../core/documents/document.ts';
import { Random } from '../../demo/random.ts';

/** Now, for all documents, and the end of the two years that they are looked at over. */
export const now = Date.parse('2026-11-24T12:00:00Z');
export const end = Date.parse('2028-11-24T12:00:00Z');

const contact = { source: 'contact', description: '' } as const;
const choices = (...ids: string[]) => ids.map((id) => ({ id, label: id }));
/** Thirty tags; of the first three, and of the next two, at most one. */
export const tagIds = Array.from({ length: 30 }, (_, index) => `t${index}`);
export const groups = [tagIds.slice(0, 3), tagIds.slice(3, 5)];
export const tierIds = ['dusk', 'twilight', 'midnight'];

export const attributes: readonly Attribute[] = [
  { ...contact, id: 'tier', label: 'tier', type: 'choice', ordered: true, choices: choices(...tierIds) },
  {
    ...contact,
    id: 'tags',
    label: 'tags',
    type: 'set',
    choices: choices(...tagIds),
    exclusiveGroups: groups.map((members, index) => ({ name: `group ${index}`, members })),
  },
  { ...contact, id: 'orders', label: 'orders', type: 'number', whole: true },
  { ...contact, id: 'renewal', label: 'renewal', type: 'date' },
  { ...contact, id: 'city', label: 'city', type: 'text' },
];

/** What the tests of a document are about. */
export type Theme = 'tier' | 'tags' | 'orders' | 'renewal' | 'city' | 'signed-in' | 'moment';

export interface RandomDocument {
  readonly zone: string;
  readonly audiences: readonly Audience[];
  readonly content: Content;
  /** The audience that may open it. */
  readonly access: string | undefined;
}

const zones = ['Europe/London', 'America/New_York', 'Australia/Lord_Howe', 'Asia/Kolkata'];
const weekdays = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'];
const months = ['january', 'march', 'april', 'july', 'october', 'november', 'december'];

/** A page with slots, some inside others, over audiences that build on each other; the same for the same seed. */
export function randomDocument(seed: number, themes: readonly Theme[]): RandomDocument {
  const random = new Random(seed);
  const zone = random.pick(zones as [string, ...string[]]);
  const own = pickSome(themes, random.between(1, Math.min(3, themes.length)), random);
  const count = random.between(2, 5);
  const audiences: Audience[] = [];
  for (let index = 0; index < count; index++)
    audiences.push({
      id: `a${index}`,
      name: `a${index}`,
      description: '',
      condition: condition(random, own, index, 2),
    });
  let slots = 0;
  const slot = (depth: number): Slot => {
    const id = `s${slots++}`;
    const ids = pickSome(
      audiences.map((audience) => audience.id),
      random.between(1, Math.min(3, count)),
      random,
    );
    const inside = (): Node[] => (depth < 2 && random.chance(0.3) && slots < 4 ? [slot(depth + 1)] : []);
    return {
      kind: 'slot',
      id,
      name: id,
      variants: ids.map((audience, at) => ({ id: `${id}v${at}`, audience, content: inside() })),
      otherwise: inside(),
    };
  };
  const body = Array.from({ length: random.between(1, 2) }, () => slot(0));
  return {
    zone,
    audiences,
    content: { subject: [], preview: [], body },
    access: random.chance(0.25) ? random.pick(audiences as [Audience, ...Audience[]]).id : undefined,
  };
}

function pickSome<Item>(items: readonly Item[], count: number, random: Random): Item[] {
  const left = [...items];
  const picked: Item[] = [];
  while (picked.length < count && left.length > 0)
    picked.push(...left.splice(random.between(0, left.length - 1), 1));
  return picked;
}

function condition(random: Random, themes: readonly Theme[], earlier: number, depth: number): Condition {
  const chance = random.next();
  if (depth === 0 || chance < 0.35) {
    if (earlier > 0 && random.chance(0.15))
      return { kind: 'audience', audience: `a${random.between(0, earlier - 1)}` };
    return testOf(random, random.pick(themes as [Theme, ...Theme[]]));
  }
  if (chance < 0.5) return { kind: 'not', of: condition(random, themes, earlier, depth - 1) };
  const of = Array.from({ length: random.between(1, 3) }, () =>
    condition(random, themes, earlier, depth - 1),
  );
  return { kind: random.chance(0.6) ? 'all' : 'any', of };
}

function testOf(random: Random, theme: Theme): Test {
  const make = (attribute: string, op: string, ...values: (string | number)[]): Test => ({
    kind: 'test',
    attribute,
    op,
    values,
  });
  const presence = random.chance(0.1) ? random.pick(['has-value', 'has-no-value']) : undefined;
  if (presence && theme !== 'signed-in' && theme !== 'moment') return make(theme, presence);
  switch (theme) {
    case 'signed-in':
      return make('signed-in', random.pick(['is-yes', 'is-no']));
    case 'tier': {
      const tier = random.pick(tierIds as [string, ...string[]]);
      return make('tier', random.pick(['is-one-of', 'is-none-of', 'at-least', 'at-most']), tier);
    }
    case 'tags': {
      const some = pickSome(tagIds.slice(0, 8), random.between(1, 2), random);
      return make('tags', random.pick(['includes-any', 'includes-all', 'includes-none']), ...some);
    }
    case 'orders': {
      const op = random.pick(['equals', 'at-least', 'at-most', 'more-than', 'fewer-than', 'between']);
      const first = random.between(0, 5);
      return make('orders', op, first, ...(op === 'between' ? [first + random.between(0, 3)] : []));
    }
    case 'city':
      return make(
        'city',
        random.pick(['contains', 'starts-with', 'ends-with', 'is-one-of', 'is-none-of']),
        random.pick(['a', 'B', 'ab', 'BA', 'aba', 'b']),
      );
    case 'renewal':
      return renewalTest(random, make);
    case 'moment':
      return momentTest(random, make);
  }
}

type Make = (attribute: string, op: string, ...values: (string | number)[]) => Test;

/** A day between now and 700 days from it, or shortly before. */
function day(random: Random): string {
  const days = random.chance(0.5) ? random.between(-8, 30) : random.between(30, 700);
  return new Date(Date.UTC(2026, 10, 24 + days)).toISOString().slice(0, 10);
}

function renewalTest(random: Random, make: Make): Test {
  switch (random.between(0, 5)) {
    case 0:
      return make('renewal', 'before', day(random));
    case 1:
      return make('renewal', 'after', day(random));
    case 2:
      return make('renewal', 'within-next', random.between(0, 12));
    case 3:
      return make('renewal', 'within-last', random.between(0, 12));
    case 4:
      return make('renewal', 'anniversary-within', random.pick([0, 3, 30, 364]));
    default:
      return make('renewal', 'on', day(random));
  }
}

function quarter(random: Random): string {
  const two = (number: number) => String(number).padStart(2, '0');
  // Often within the hours in which clocks are changed.
  const hour = random.chance(0.4) ? random.between(0, 3) : random.between(0, 23);
  return `${two(hour)}:${two(15 * random.between(0, 3))}`;
}

function momentTest(random: Random, make: Make): Test {
  switch (random.between(0, 5)) {
    case 0:
      return make('moment-weekday', 'is-one-of', ...pickSome(weekdays, random.between(1, 3), random));
    case 1:
      return make('moment-month', 'is-one-of', ...pickSome(months, random.between(1, 2), random));
    case 2: {
      const [from, to] = [quarter(random), quarter(random)];
      return make('moment-time', 'between', from, from === to ? '23:45' : to);
    }
    case 3: {
      const [one, two] = [day(random), day(random)].sort();
      return make(
        'moment',
        'between',
        `${one}T${quarter(random)}`,
        `${two}T23:59`.replace('23:59', one === two ? '23:45' : quarter(random)),
      );
    }
    case 4:
      return make('moment', random.pick(['from', 'before']), `${day(random)}T${quarter(random)}`);
    default:
      return recurrence(random, make);
  }
}

/** A window that recurs by a plain rule, on the day of which it starts. */
function recurrence(random: Random, make: Make): Test {
  const from = new Date(Date.UTC(2026, 10, 1 + random.between(0, 60)));
  const start = from.toISOString().slice(0, 10);
  const name = ['SU', 'MO', 'TU', 'WE', 'TH', 'FR', 'SA'][from.getUTCDay()];
  const rule = random.pick([
    'FREQ=DAILY',
    'FREQ=DAILY;INTERVAL=2',
    'FREQ=DAILY;COUNT=5',
    `FREQ=WEEKLY;BYDAY=${name}`,
    `FREQ=WEEKLY;INTERVAL=2;BYDAY=${name}`,
    `FREQ=MONTHLY;BYMONTHDAY=${from.getUTCDate()}`,
    'FREQ=YEARLY',
  ]);
  return make(
    'moment',
    'recurs',
    `${start}T${quarter(random)}`,
    random.pick([15, 60, 180, 1440, 2880]),
    rule,
  );
}
