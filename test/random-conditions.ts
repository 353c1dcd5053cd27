import fc from 'fast-check';
import type { Attribute } from '../core/attributes/attribute.ts';
import { momentAttributes, signInAttributes, visitAttributes } from '../core/attributes/builtin.ts';
import { dayNumber, isoDate } from '../core/attributes/calendar.ts';
import type { Viewer } from '../core/attributes/viewer.ts';
import { type Condition, not, test } from '../core/conditions/condition.ts';
import { type OperandKind, type Operator, operandKind, operatorsFor } from '../core/conditions/operators.ts';
import { RecurrenceRule } from '../core/conditions/recurrence-rule.ts';

const contact = { source: 'contact', description: '' } as const;
const item = { source: 'item', description: '' } as const;
const choices = (...ids: string[]) => ids.map((id) => ({ id, label: id }));
const tiers = choices('dusk', 'twilight', 'midnight');

/** One contact attribute of each type, and an item's fields that are compared with the viewer's own. */
export const attributes: Attribute[] = [
  { ...contact, id: 'tier', label: 'tier', type: 'choice', ordered: true, choices: tiers },
  {
    ...contact,
    id: 'plan',
    label: 'plan',
    type: 'choice',
    ordered: false,
    choices: choices('digital', 'print'),
  },
  {
    ...contact,
    id: 'tags',
    label: 'tags',
    type: 'set',
    choices: choices('a', 'b', 'c'),
    exclusiveGroups: [],
  },
  { ...contact, id: 'visits', label: 'visits', type: 'number' },
  { ...contact, id: 'renewal', label: 'renewal', type: 'date' },
  { ...contact, id: 'signed-up', label: 'signed up', type: 'date-time' },
  { ...contact, id: 'call-at', label: 'call at', type: 'time' },
  { ...contact, id: 'city', label: 'city', type: 'text' },
  { ...contact, id: 'home', label: 'home country', type: 'country' },
  { ...contact, id: 'speaks', label: 'speaks', type: 'language' },
  { ...contact, id: 'last-page', label: 'last page', type: 'path' },
  { ...contact, id: 'last-address', label: 'last address', type: 'address' },
  { ...contact, id: 'vip', label: 'vip', type: 'yes-no' },
  { ...item, id: 'author', label: 'author', type: 'text' },
  { ...item, id: 'tiers-for', label: 'tiers it is for', type: 'set', choices: tiers, exclusiveGroups: [] },
];

/** All attributes that random tests are about. */
export const tested: readonly Attribute[] = [
  ...attributes,
  ...signInAttributes,
  ...visitAttributes,
  ...momentAttributes,
];

export const noon = Date.parse('2026-11-24T12:00:00Z');
const today = dayNumber('2026-11-24') ?? 0;
const nearDay = fc.integer({ min: -9, max: 9 }).map((by) => isoDate(today + by));
const instantNear = fc
  .integer({ min: -9 * 48, max: 9 * 48 })
  .map((by) => new Date(noon + by * 1_800_000).toISOString());
const city = fc.constantFrom('Larkhaven', 'lark', 'N', 'é', 'Nuño', 'Élise', 'haven');
const path = fc.constantFrom('/', '/guides', '/guides/moon', '/guides/moon/phases', '/shop');
const time = fc.constantFrom('00:00', '06:30', '12:00', '22:15', '23:59');
const country = fc.constantFrom('GB', 'DE', 'FR');
const language = fc.constantFrom('en', 'de', 'de-CH', 'fr');
const address = fc.constantFrom(
  '203.0.113.7',
  '203.0.113.200',
  '198.51.100.1',
  '2001:db8::1',
  '2001:db8:1::5',
);

function operandOf(kind: OperandKind, attribute: Attribute): fc.Arbitrary<string | number> {
  switch (kind) {
    case 'choice':
      return fc.constantFrom(
        ...('choices' in attribute ? attribute.choices.map((choice) => choice.id) : ['']),
      );
    case 'number':
      return fc.oneof(fc.integer({ min: -3, max: 6 }), fc.constantFrom(0.5, 2.25));
    case 'days':
      return fc.integer({ min: 0, max: 9 });
    case 'date':
      return nearDay;
    case 'moment':
      return instantNear.map((text) => text.slice(0, 16));
    case 'time':
      return time;
    case 'country':
      return country;
    case 'network':
      return fc.constantFrom(
        '203.0.113.0/24',
        '203.0.113.128/25',
        '198.51.100.1',
        '2001:db8::/32',
        '2001:db8::/48',
      );
    case 'language':
      return language;
    case 'path':
      return path;
    case 'pattern':
      return fc.constantFrom('/guides/*', '/guides/**', '**moon**', '/*', '/guides');
    case 'minutes':
      return fc.constantFrom(30, 120, 1440);
    case 'rule':
      return fc.constantFrom(
        'FREQ=DAILY;INTERVAL=2',
        'FREQ=WEEKLY;BYDAY=TU,FR',
        'FREQ=MONTHLY;BYMONTHDAY=24',
      );
    case 'attribute':
      return fc.constant(attribute.type === 'set' ? 'tier' : 'city');
    case 'text':
    case 'part':
      return city;
  }
}

function operands(attribute: Attribute, operator: Operator): fc.Arbitrary<(string | number)[]> {
  const one = operandOf(operandKind(operator, 0), attribute);
  switch (operator.arity) {
    case 'none':
      return fc.constant([]);
    case 'one':
      return fc.tuple(one);
    case 'many':
      return fc.uniqueArray(one, { minLength: 1, maxLength: 3 });
    case 'each':
      return fc
        .tuple(
          ...Array.from(operator.operand, (_, place) => operandOf(operandKind(operator, place), attribute)),
        )
        .map(onTheRule);
    case 'two': {
      const order = 'choices' in attribute ? attribute.choices.map((choice) => choice.id) : undefined;
      const pair = fc.tuple(one, one);
      if (operator.operand === 'time') return pair.filter(([from, to]) => from !== to);
      const sorted = pair.map((both) =>
        both.sort((left, right) =>
          order
            ? order.indexOf(String(left)) - order.indexOf(String(right))
            : left < right
              ? -1
              : left > right
                ? 1
                : 0,
        ),
      );
      return operator.operand === 'moment' ? sorted.filter(([from, to]) => from !== to) : sorted;
    }
  }
}

/** A recurrence that starts on the first day from its start on that its rule occurs on. */
function onTheRule([start = '', minutes = 0, rule = '']: (string | number)[]): (string | number)[] {
  const day = dayNumber(String(start).slice(0, 10)) ?? 0;
  const first = new RecurrenceRule(String(rule), day, 0).nextFrom(day) ?? day;
  return [`${isoDate(first)}${String(start).slice(10)}`, minutes, rule];
}

/** A sound test of any operator of one of some attributes. */
export function randomTestOf(of: readonly Attribute[]): fc.Arbitrary<Condition> {
  return fc
    .constantFrom(...of)
    .chain((attribute) =>
      fc
        .constantFrom(...operatorsFor(attribute))
        .chain(([op, operator]) =>
          operands(attribute, operator).map((values) => test(attribute.id, op, ...values)),
        ),
    );
}

/** Conditions of any shape over some attributes, without references. */
export function randomConditionOf(of: readonly Attribute[]): fc.Arbitrary<Condition> {
  return fc.letrec<{ condition: Condition }>((tie) => ({
    condition: fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      randomTestOf(of),
      fc.array(tie('condition'), { maxLength: 3 }).map((of): Condition => ({ kind: 'all', of })),
      fc.array(tie('condition'), { maxLength: 3 }).map((of): Condition => ({ kind: 'any', of })),
      tie('condition').map(not),
    ),
  })).condition;
}

export const randomCondition = randomConditionOf(tested);

/** A contact's values, any of them missing. */
export const randomValues = fc.record(
  {
    tier: fc.constantFrom('dusk', 'twilight', 'midnight'),
    plan: fc.constantFrom('digital', 'print'),
    tags: fc.uniqueArray(fc.constantFrom('a', 'b', 'c')),
    visits: fc.oneof(fc.integer({ min: -3, max: 6 }), fc.constantFrom(0.5, 2.25)),
    renewal: nearDay,
    'signed-up': instantNear,
    'call-at': time,
    city,
    home: country,
    speaks: fc.uniqueArray(language, { minLength: 1 }),
    'last-page': path,
    'last-address': address,
    vip: fc.boolean(),
  },
  { requiredKeys: [] },
);

const choiceOf = (id: string) => {
  const attribute = visitAttributes.find((one) => one.id === id);
  return fc.constantFrom(
    ...(attribute?.type === 'choice' ? attribute.choices.map((choice) => choice.id) : ['']),
  );
};
const randomVisit = fc.record(
  {
    'visit-device': choiceOf('visit-device'),
    'visit-browser': choiceOf('visit-browser'),
    'visit-system': choiceOf('visit-system'),
    'visit-came-by': choiceOf('visit-came-by'),
    'visit-language': fc.uniqueArray(language, { minLength: 1 }),
    'visit-address': address,
    'visit-country': country,
    'visit-region': city,
    'visit-referrer': city,
    'visit-campaign': city,
    'visit-campaign-source': city,
    'visit-campaign-medium': city,
    'visit-campaign-term': city,
    'visit-campaign-content': city,
    'visit-path': path,
    'visit-pages': fc.integer({ min: 1, max: 6 }),
    'visit-item-views': fc.integer({ min: 1, max: 6 }),
    'visit-seconds': fc.integer({ min: 0, max: 6 }),
  },
  { requiredKeys: [] },
);
/** A returning visitor has been here more than once. */
const randomVisits = fc.constantFrom(
  {},
  { 'visit-returning': true },
  { 'visit-returning': false },
  { 'visit-returning': false, 'visit-count': 1 },
  { 'visit-returning': true, 'visit-count': 4 },
  { 'visit-count': 2 },
);
const randomItem = fc.record(
  { author: city, 'tiers-for': fc.uniqueArray(fc.constantFrom('dusk', 'twilight', 'midnight')) },
  { requiredKeys: [] },
);

/** Any viewer: anonymous or not, with any visit and item, at a moment near noon of 24 November 2026 or later. */
export const randomViewer: fc.Arbitrary<Viewer> = fc.record({
  contact: fc.option(randomValues, { freq: 8 }),
  signedIn: fc.boolean(),
  visit: fc.tuple(randomVisit, randomVisits).map(([visit, visits]) => ({ ...visit, ...visits })),
  item: fc.option(randomItem, { freq: 4 }),
  instant: fc.integer({ min: 0, max: 40 * 48 }).map((by) => noon + by * 1_800_000),
});
