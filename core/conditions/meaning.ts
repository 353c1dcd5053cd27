import { type Attribute, choicesOf } from '../attributes/attribute.ts';
import { dayNumber, instantOf, minuteOfDay, readLocalTime } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { type Network, readNetwork } from '../attributes/networks.ts';
import { pathPattern, type Sign } from '../attributes/patterns.ts';
import { fold } from '../attributes/text-folding.ts';
import type { Test } from './condition.ts';

/** Numbers from one to another; a bound that is left out is not there. */
export interface Range {
  readonly from: number;
  readonly to: number;
  readonly withoutFrom?: boolean;
  readonly withoutTo?: boolean;
}

/** What a test asks of a value that is there. The few forms that all ways of evaluating stand on. */
export type Question =
  | { kind: 'known' }
  | { kind: 'among'; values: ReadonlySet<string | boolean> }
  /** A text is one of these, compared as fold() has it; each with how it was written. */
  | { kind: 'texts'; folded: ReadonlyMap<string, string> }
  /** Numbers, dates, instants and times of day as facts hold them. */
  | { kind: 'within'; ranges: readonly Range[] }
  /** The value's local day, counted from today. */
  | { kind: 'days-from-today'; from: number; to: number }
  /** Its day of the year comes round today or within some days. */
  | { kind: 'anniversary'; days: number }
  | { kind: 'has-any' | 'has-all'; values: readonly string[] }
  /** A folded part of a folded text; see fold(). */
  | { kind: 'part'; where: 'contains' | 'starts' | 'ends'; text: string; written: string }
  | { kind: 'networks'; networks: readonly Network[] }
  /** The first preference, or any of them, is found among tags by lookup (RFC 4647, 3.4). */
  | { kind: 'languages'; first: boolean; tags: readonly string[] }
  | { kind: 'patterns'; patterns: readonly (readonly Sign[])[] }
  | { kind: 'recurs'; start: string; minutes: number; rule: string }
  /** Against the value of another attribute, by its id. */
  | { kind: 'same-as' | 'has-value-of'; other: string };

/** A test holds where its question is answered yes, or, when negated, exactly where it is not. */
export interface Meaning {
  readonly negated: boolean;
  readonly question: Question;
}

function yes(question: Question): Meaning {
  return { negated: false, question };
}

function no(question: Question): Meaning {
  return { negated: true, question };
}

function among(values: Iterable<string | boolean>): Question {
  return { kind: 'among', values: new Set(values) };
}

function oneOf(texts: readonly string[]): Question {
  return { kind: 'texts', folded: new Map(texts.map((text) => [fold(text), text])) };
}

function part(where: 'contains' | 'starts' | 'ends', written: string): Question {
  return { kind: 'part', where, text: fold(written), written };
}

/** What a sound test asks. Throws an Error for an operator that the attribute does not have. */
export function meaningOf(test: Test, attribute: Attribute, catalogue: Catalogue): Meaning {
  if (test.op === 'has-value') return yes({ kind: 'known' });
  if (test.op === 'has-no-value') return no({ kind: 'known' });
  const [first = '', second = ''] = test.values;
  const texts = test.values.map(String);
  switch (`${attribute.type} ${test.op}`) {
    case 'yes-no is-yes':
      return yes(among([true]));
    case 'yes-no is-no':
      return yes(among([false]));
    case 'text is-one-of':
      return yes(oneOf(texts));
    case 'text is-none-of':
      return no(oneOf(texts));
    case 'choice is-one-of':
    case 'country is-one-of':
    case 'path is-one-of':
      return yes(among(texts));
    case 'choice is-none-of':
    case 'country is-none-of':
    case 'path is-none-of':
      return no(among(texts));
    case 'choice at-least':
      return yes(among(choicesFrom(attribute, String(first), undefined)));
    case 'choice at-most':
      return yes(among(choicesFrom(attribute, undefined, String(first))));
    case 'choice between':
      return yes(among(choicesFrom(attribute, String(first), String(second))));
    case 'set includes-any':
      return yes({ kind: 'has-any', values: texts });
    case 'set includes-none':
      return no({ kind: 'has-any', values: texts });
    case 'set includes-all':
      return yes({ kind: 'has-all', values: texts });
    case 'set includes-own':
      return yes({ kind: 'has-value-of', other: String(first) });
    case 'text same-as':
      return yes({ kind: 'same-as', other: String(first) });
    case 'text contains':
      return yes(part('contains', String(first)));
    case 'text starts-with':
      return yes(part('starts', String(first)));
    case 'text ends-with':
      return yes(part('ends', String(first)));
    case 'date within-last':
    case 'date-time within-last':
      return yes({ kind: 'days-from-today', from: -Number(first), to: 0 });
    case 'date within-next':
    case 'date-time within-next':
      return yes({ kind: 'days-from-today', from: 0, to: Number(first) });
    case 'date anniversary-within':
      return yes({ kind: 'anniversary', days: Number(first) });
    case 'date-time recurs':
      return yes({ kind: 'recurs', start: String(first), minutes: Number(second), rule: texts[2] ?? '' });
    case 'address in-range':
      return yes({ kind: 'networks', networks: networksOf(texts) });
    case 'address not-in-range':
      return no({ kind: 'networks', networks: networksOf(texts) });
    case 'language prefers':
      return yes({ kind: 'languages', first: true, tags: texts });
    case 'language accepts':
      return yes({ kind: 'languages', first: false, tags: texts });
    case 'language accepts-none':
      return no({ kind: 'languages', first: false, tags: texts });
    case 'path matches':
      return yes({ kind: 'patterns', patterns: texts.map(pathPattern) });
    case 'path matches-none':
      return no({ kind: 'patterns', patterns: texts.map(pathPattern) });
    default:
      return yes({ kind: 'within', ranges: rangesOf(test, attribute, catalogue) });
  }
}

/** Every day, as month and day (`11-29`), that comes round today or within some days. */
export function anniversaryDays(today: number, days: number): ReadonlySet<string> {
  const found = new Set<string>();
  for (let day = today; day <= today + Math.min(days, 366); day++) {
    const date = new Date(day * 86_400_000);
    const text = date.toISOString().slice(5, 10);
    found.add(text);
    // Who was born on a leap day celebrates on the last of February in other years.
    if (text === '02-28' && new Date((day + 1) * 86_400_000).getUTCDate() === 1) found.add('02-29');
  }
  return found;
}

function choicesFrom(attribute: Attribute, from: string | undefined, to: string | undefined): string[] {
  const ids = choicesOf(attribute).map((choice) => choice.id);
  const start = from === undefined ? 0 : ids.indexOf(from);
  const end = to === undefined ? ids.length - 1 : ids.indexOf(to);
  return start < 0 ? [] : ids.slice(start, end + 1);
}

function networksOf(texts: readonly string[]): Network[] {
  return texts.map((text) => {
    const network = readNetwork(text);
    if (!network) throw new Error(`no range of addresses “${text}”`);
    return network;
  });
}

const infinity = Number.POSITIVE_INFINITY;

function rangesOf(test: Test, attribute: Attribute, catalogue: Catalogue): Range[] {
  const [from = Number.NaN, to = Number.NaN] = test.values.map((value) =>
    numberOf(value, attribute, catalogue),
  );
  switch (`${attribute.type} ${test.op}`) {
    case 'number equals':
    case 'date on':
      return [{ from, to: from }];
    case 'number at-least':
    case 'date-time from':
      return [{ from, to: infinity }];
    case 'number at-most':
      return [{ from: -infinity, to: from }];
    case 'number more-than':
    case 'date after':
      return [{ from, to: infinity, withoutFrom: true }];
    case 'number fewer-than':
    case 'date before':
    case 'date-time before':
      return [{ from: -infinity, to: from, withoutTo: true }];
    case 'number between':
    case 'date between':
      return [{ from, to }];
    case 'date-time between':
      return [{ from, to, withoutTo: true }];
    case 'time between':
      // Half-open, and across midnight where it ends before it starts.
      return from < to
        ? [{ from, to, withoutTo: true }]
        : [
            { from, to: infinity },
            { from: -infinity, to, withoutTo: true },
          ];
    default:
      throw new Error(`no test “${test.op}” on “${test.attribute}”`);
  }
}

/** An operand as facts hold values: a number, a day number, an instant or minutes since midnight; NaN for none. */
function numberOf(value: string | number, attribute: Attribute, catalogue: Catalogue): number {
  const text = String(value);
  if (attribute.type === 'number') return Number(value);
  if (attribute.type === 'date') return dayNumber(text) ?? Number.NaN;
  if (attribute.type === 'time') return minuteOfDay(text) ?? Number.NaN;
  const local = readLocalTime(text);
  return local ? instantOf(local, catalogue.zone) : Number.NaN;
}
