import { findCountry } from '../attributes/countries.ts';
import { parseValue, splitSet } from '../attributes/parse.ts';
import { needsOrder, writtenDate, writtenNumber } from './written.ts';

/** Different values that a column is remembered by; where there are more, it is text. */
export const mostDistinct = 500;
const longestChoice = 80;
const examplesShown = 4;

/** What a column of a file holds, from all of its cells. */
export interface ColumnSurvey {
  readonly header: string;
  readonly filled: number;
  readonly blank: number;
  readonly examples: string[];
  /** Every different value, most frequent first; null where there are too many, or too long ones. */
  readonly distinct: string[] | null;
  /** How many cells can be read as each. */
  readonly fits: {
    readonly email: number;
    readonly 'yes-no': number;
    readonly number: number;
    readonly date: number;
    readonly 'date-time': number;
    readonly country: number;
    readonly list: number;
    /** Digits that are no number: they begin with a zero that counts, or with the plus of a telephone number. */
    readonly code: number;
  };
  /** In which order day and month stand; `either` where every date fits both, `mixed` where some fit only one. */
  readonly dates: 'day-first' | 'month-first' | 'either' | 'mixed' | null;
  /** Which sign begins the decimals; `either` where every number fits both. */
  readonly decimals: 'point' | 'comma' | 'either' | 'mixed' | null;
}

const email = /^[^\s@]+@[^\s@]+\.[^\s@]+$/;
/** “007”, “+44 20 7946 0000”, “(020) 7946-0000”. */
const code = /^(0\d[\d ()/.-]*|\+\d[\d ()/.-]{5,}|\(0\d*\)[\d ()/.-]+)$/;
const yesNo = { id: 'x', source: 'contact', type: 'yes-no', label: 'x', description: '' } as const;
const number = { ...yesNo, type: 'number' } as const;
const instant = { ...yesNo, type: 'date-time' } as const;

/** Looks at a column cell by cell; the same value is judged once. */
export class Surveyor {
  private blank = 0;
  private filled = 0;
  private counts: Map<string, number> | undefined = new Map();
  private readonly examples: string[] = [];
  private readonly fits = {
    email: 0,
    'yes-no': 0,
    number: 0,
    date: 0,
    'date-time': 0,
    country: 0,
    list: 0,
    code: 0,
  };
  private readonly order = { asked: 0, dayFirst: 0, monthFirst: 0 };
  private readonly sign = { asked: 0, point: 0, comma: 0 };
  private readonly judged = new Map<string, () => void>();

  add(cell: string): void {
    const text = cell.trim();
    if (text === '') {
      this.blank++;
      return;
    }
    this.filled++;
    if (this.examples.length < examplesShown && !this.examples.includes(text)) this.examples.push(text);
    if (this.counts) {
      this.counts.set(text, (this.counts.get(text) ?? 0) + 1);
      if (this.counts.size > mostDistinct || text.length > 1000) this.counts = undefined;
    }
    let judge = this.judged.get(text);
    if (!judge) {
      judge = this.judge(text);
      if (this.judged.size < mostDistinct) this.judged.set(text, judge);
    }
    judge();
  }

  addBlanks(count: number): void {
    this.blank += count;
  }

  result(header: string): ColumnSurvey {
    const { filled, blank, examples, fits, order, sign } = this;
    const distinct = this.counts
      ? [...this.counts].sort((one, two) => two[1] - one[1]).map(([value]) => value)
      : null;
    return {
      header,
      filled,
      blank,
      examples,
      distinct,
      fits,
      dates: which(order.asked, order.dayFirst, order.monthFirst, ['day-first', 'month-first']),
      decimals: which(sign.asked, sign.point, sign.comma, ['point', 'comma']),
    };
  }

  /** What to count for a value each time it occurs. */
  private judge(text: string): () => void {
    const { fits, order, sign } = this;
    const dayFirst = writtenDate(text, 'day-first') !== undefined;
    const monthFirst = writtenDate(text, 'month-first') !== undefined;
    const asksOrder = needsOrder(text) && (dayFirst || monthFirst);
    const point = writtenNumber(text, 'point');
    const comma = writtenNumber(text, 'comma');
    const asksSign = point !== comma;
    const is = {
      email: email.test(text),
      'yes-no': parseValue(yesNo, text).ok,
      number: parseValue(number, text).ok || point !== undefined || comma !== undefined,
      date: dayFirst || monthFirst,
      'date-time': parseValue(instant, text).ok,
      country: findCountry(text) !== undefined,
      list: splitSet(text).length > 1,
      code: code.test(text) && !dayFirst && !monthFirst,
    };
    return () => {
      for (const key of Object.keys(fits) as (keyof typeof fits)[]) if (is[key]) fits[key]++;
      if (asksOrder) {
        order.asked++;
        if (dayFirst) order.dayFirst++;
        if (monthFirst) order.monthFirst++;
      }
      if (asksSign) {
        sign.asked++;
        if (point !== undefined) sign.point++;
        if (comma !== undefined) sign.comma++;
      }
    };
  }
}

/** Which of two readings all of the cells allow. */
function which<One extends string>(
  asked: number,
  first: number,
  second: number,
  [one, two]: readonly [One, One],
): One | 'either' | 'mixed' | null {
  if (asked === 0) return null;
  if (first === asked && second === asked) return 'either';
  if (first === asked) return one;
  return second === asked ? two : 'mixed';
}

/** What is written as a sentence is no name of a choice. */
function isSentence(text: string): boolean {
  return text.length > 30 && /[.!?…](\s|$)/.test(text);
}

/** Whether the values are short and few enough, and repeat enough, to be choices. */
export function looksLikeChoices(
  { distinct, filled }: ColumnSurvey,
  values: readonly string[] | null = distinct,
): boolean {
  return (
    values !== null &&
    values.length <= 60 &&
    values.length * 3 <= filled &&
    values.every((value) => value.length <= longestChoice && !isSentence(value))
  );
}
