import type { Attribute } from '../../attributes/attribute.ts';
import { dayNumber, instantOf, localDay } from '../../attributes/calendar.ts';
import { type Fact, latestInstant } from '../../attributes/viewer.ts';
import type { Question } from '../../conditions/meaning.ts';
import type { Diagram } from '../diagrams/diagrams.ts';
import { Cuts } from './cuts.ts';
import { type Domain, known, type Levels, notAsked, type Today, type Variable } from './domain.ts';
import { sayBounds } from './words.ts';

export const [firstDay, lastDay] = [dayNumber('0100-01-01') ?? 0, dayNumber('9999-12-31') ?? 0];

/** The ends of what a value can be, and whether values are whole: milliseconds, days, minutes and counts are. */
export function spanOf(attribute: Attribute): { whole: boolean; least: number; most: number } {
  switch (attribute.type) {
    case 'date':
      return { whole: true, least: firstDay, most: lastDay };
    case 'date-time':
      return { whole: true, least: instantOf({ day: firstDay, minute: 0 }, 'UTC'), most: latestInstant };
    case 'time':
      return { whole: true, least: 0, most: 1439 };
    default:
      return attribute.type === 'number' && attribute.whole === true
        ? { whole: true, least: Number.MIN_SAFE_INTEGER, most: Number.MAX_SAFE_INTEGER }
        : { whole: false, least: -Number.MAX_VALUE, most: Number.MAX_VALUE };
  }
}

/** Numbers, times of day, and dates and instants that are compared with fixed ones: a cell for each interval. */
export class OrderedDomain implements Domain {
  readonly variables: readonly [Variable];
  private readonly cuts: Cuts;

  /** @param questions of kind `within` and `known` */
  constructor(
    readonly attribute: Attribute,
    questions: readonly Question[],
    private readonly zone: string,
  ) {
    const { whole, least, most } = spanOf(attribute);
    this.cuts = new Cuts(rangesIn(questions), whole, least, most);
    this.variables = [
      {
        width: this.cuts.count + 1,
        say: (cells) => sayBounds(attribute, cells, (cell) => this.cuts.bounds(cell - 1), zone),
      },
    ];
  }

  answer(question: Question, levels: Levels): Diagram {
    const [variable] = this.variables;
    if (question.kind === 'known') return known(levels, variable);
    if (question.kind !== 'within') throw notAsked(question, this.attribute);
    return levels.diagrams.any(
      question.ranges.map((range) => {
        const [from, until] = this.cuts.within(range);
        return levels.diagrams.range(levels.levelOf(variable), variable.width, from + 1, until + 1);
      }),
    );
  }

  constraints(): Diagram[] {
    return [];
  }

  invent([cell = 0]: readonly number[]): Fact {
    if (cell === 0) return undefined;
    const [least, greatest] = this.attribute.type === 'date-time' ? this.cuts.ends(cell - 1) : [0, 0];
    // Nobody signed up in the year 100.
    return this.attribute.type === 'date-time'
      ? niceInstant(least, greatest, this.zone)
      : this.cuts.inside(cell - 1);
  }

  place(fact: Fact): number[] {
    return [typeof fact === 'number' ? this.cuts.placeOf(fact) + 1 : 0];
  }
}

/** Dates and instants that are compared with today alone: a cell for each interval of days from today. */
export class RelativeDomain implements Domain {
  readonly variables: readonly [Variable];
  private readonly cuts: Cuts;

  /** @param questions of kind `days-from-today` and `known` */
  constructor(
    readonly attribute: Attribute,
    questions: readonly Question[],
    private readonly zone: string,
  ) {
    this.cuts = relativeCuts(questions);
    this.variables = [
      {
        width: this.cuts.count + 1,
        say: (cells) => sayBounds(attribute, cells, (cell) => this.cuts.bounds(cell - 1), zone, true),
      },
    ];
  }

  answer(question: Question, levels: Levels): Diagram {
    const [variable] = this.variables;
    if (question.kind === 'known') return known(levels, variable);
    if (question.kind !== 'days-from-today') throw notAsked(question, this.attribute);
    const [from, until] = this.cuts.within(question);
    return levels.diagrams.range(levels.levelOf(variable), variable.width, from + 1, until + 1);
  }

  constraints(): Diagram[] {
    return [];
  }

  invent([cell = 0]: readonly number[], today: Today): Fact {
    if (cell === 0) return undefined;
    const day = today.day + this.cuts.inside(cell - 1);
    return this.attribute.type === 'date' ? day : instantOf({ day, minute: 720 }, this.zone);
  }

  place(fact: Fact, today: Today): number[] {
    if (typeof fact !== 'number') return [0];
    const day = this.attribute.type === 'date' ? fact : localDay(fact, this.zone);
    return [this.cuts.placeOf(day - today.day) + 1];
  }
}

/** Days from today, up to the furthest that any test asks about; all beyond are equivalent. */
export function relativeCuts(questions: readonly Question[]): Cuts {
  const ranges = questions.flatMap((one) => (one.kind === 'days-from-today' ? [one] : []));
  return new Cuts(ranges, true, firstDay, lastDay);
}

export function rangesIn(questions: readonly Question[]) {
  return questions.flatMap((question) => (question.kind === 'within' ? question.ranges : []));
}

/** An instant of a stretch, at a time that looks like one where there is room. */
function niceInstant(least: number, greatest: number, zone: string): number {
  const day = localDay(greatest, zone);
  const noon = instantOf({ day, minute: 720 }, zone);
  const { least: first } = { least: instantOf({ day: firstDay, minute: 0 }, 'UTC') };
  if (least > first) return least;
  return noon >= least && noon <= greatest ? noon : greatest;
}
