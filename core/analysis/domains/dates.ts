import type { Attribute } from '../../attributes/attribute.ts';
import { calendarDate, instantOf, localDay } from '../../attributes/calendar.ts';
import type { Fact } from '../../attributes/viewer.ts';
import type { Question } from '../../conditions/meaning.ts';
import { type Diagram, never } from '../diagrams/diagrams.ts';
import {
  type Arc,
  arcsFrom,
  firstInArc,
  hasWholeYear,
  isInArc,
  leapYearsAround,
  longestGap,
  placeInYear,
} from './anniversaries.ts';
import { Cuts } from './cuts.ts';
import {
  type Domain,
  known,
  type Levels,
  notAsked,
  type Today,
  TooManyValues,
  type Variable,
} from './domain.ts';
import { lastDay, rangesIn, relativeCuts, spanOf } from './ordered.ts';
import { mergeRanges } from './ranges.ts';
import { sayBounds } from './words.ts';

/** Most days on which what a date can be changes, each fixed bound against each span. */
const mostCriticalDays = 4000;

/**
 * Dates and instants that are compared in several ways: with fixed days, with today, and by the day of the year. Each way
 * is a variable; which of their cells there can be together changes as time passes, so that they are tied to the moment.
 */
export class TiedDateDomain implements Domain {
  readonly variables: readonly Variable[];
  /** Whether the day of the year matters, so that what there can be changes round the year for good. */
  readonly isYearly: boolean;
  private readonly fixed: Cuts;
  private readonly relative: Cuts;
  private readonly spans: readonly number[];
  private readonly isDate: boolean;
  private readonly fixedVariable: Variable;
  private readonly relativeVariable: Variable;
  private readonly anniversaryVariable: Variable;
  /** Days around which what there can be depends on the very day, in ranges; and what is known of days far from them. */
  private readonly nearBounds: readonly (readonly [from: number, to: number])[];
  private readonly farStates = new Map<string, string>();
  private readonly yearsAround: number;

  /** @param questions of kind `within`, `days-from-today`, `anniversary` and `known` */
  constructor(
    readonly attribute: Attribute,
    questions: readonly Question[],
    private readonly zone: string,
  ) {
    const { whole, least, most } = spanOf(attribute);
    this.isDate = attribute.type === 'date';
    this.fixed = new Cuts(rangesIn(questions), whole, least, most);
    this.relative = relativeCuts(questions);
    this.spans = spansIn(questions);
    this.isYearly = this.spans.length > 0;
    this.fixedVariable = {
      width: this.fixed.count + 1,
      say: (cells) => sayBounds(attribute, cells, (cell) => this.fixed.bounds(cell - 1), zone),
    };
    this.relativeVariable = {
      width: this.relative.count + 1,
      say: (cells) => sayBounds(attribute, cells, (cell) => this.relative.bounds(cell - 1), zone, true),
    };
    this.anniversaryVariable = anniversaryVariable(attribute, this.spans);
    this.variables = [this.fixedVariable, this.relativeVariable, this.anniversaryVariable];
    const bounds = this.boundDays();
    this.nearBounds = mergeRanges(bounds.map((day) => [day - longestGap, day + longestGap]));
    this.yearsAround = 1 + Math.ceil(Math.max(0, ...this.offsets().map(Math.abs)) / 365);
  }

  answer(question: Question, levels: Levels): Diagram {
    const { diagrams } = levels;
    const range = (variable: Variable, from: number, until: number) =>
      diagrams.range(levels.levelOf(variable), variable.width, from + 1, until + 1);
    switch (question.kind) {
      case 'known':
        return known(levels, this.fixedVariable);
      case 'within':
        return diagrams.any(
          question.ranges.map((one) => range(this.fixedVariable, ...this.fixed.within(one))),
        );
      case 'days-from-today':
        return range(this.relativeVariable, ...this.relative.within(question));
      case 'anniversary':
        return range(this.anniversaryVariable, 0, this.spans.indexOf(Math.min(question.days, 365)) + 1);
      default:
        throw notAsked(question, this.attribute);
    }
  }

  /** What there can be on some day or other: a value is missing in all ways or in none. */
  constraints(levels: Levels): Diagram[] {
    const { diagrams } = levels;
    const has = this.variables.map((variable) => known(levels, variable));
    return [diagrams.or(diagrams.all(has), diagrams.not(diagrams.any(has)))];
  }

  /** What the values are split by, as a text. */
  get splitBy(): string {
    const bounds = Array.from({ length: this.fixed.count }, (_, at) => this.fixed.ends(at)[0]);
    return JSON.stringify([bounds, this.offsets(), this.spans]);
  }

  /** Stands for what a value can be on a day; days with the same are alike. */
  stateOn(day: number): string {
    const codes = () => String.fromCodePoint(...this.combinationsOn(day));
    if (!this.isYearly) return codes();
    const next = this.nearBounds.findIndex(([, to]) => day <= to);
    if (next >= 0 && day >= (this.nearBounds[next]?.[0] ?? day)) return codes();
    // Far from all bounds the day of the year says it all, with where leap days are.
    const key = `${next} ${placeInYear(day)} ${leapYearsAround(calendarDate(day).year, this.yearsAround)}`;
    let state = this.farStates.get(key);
    if (state === undefined) {
      state = codes();
      this.farStates.set(key, state);
    }
    return state;
  }

  /** True for the values that there can be on a day. */
  possibleOn(day: number, levels: Levels): Diagram {
    const { diagrams } = levels;
    const [relatives, anniversaries] = [this.relativeVariable.width, this.anniversaryVariable.width];
    // A missing value is in the first cell of each.
    const together = [0, ...this.combinationsOn(day)].map((code) => ({
      fixed: Math.floor(code / anniversaries / relatives),
      relative: Math.floor(code / anniversaries) % relatives,
      anniversary: code % anniversaries,
    }));
    const build = (variable: Variable, branches: ReadonlyMap<number, Diagram>) =>
      diagrams.node(
        levels.levelOf(variable),
        Array.from({ length: variable.width }, (_, cell) => ({
          end: cell + 1,
          next: branches.get(cell) ?? never,
        })),
      );
    const ofFixed = new Map<number, Diagram>();
    for (const [fixed, own] of grouped(together, (one) => one.fixed)) {
      const ofRelative = new Map<number, Diagram>();
      for (const [relative, inner] of grouped(own, (one) => one.relative)) {
        const cells = new Set(inner.map((one) => one.anniversary));
        ofRelative.set(
          relative,
          diagrams.cells(levels.levelOf(this.anniversaryVariable), this.anniversaryVariable.width, (cell) =>
            cells.has(cell),
          ),
        );
      }
      ofFixed.set(fixed, build(this.relativeVariable, ofRelative));
    }
    return build(this.fixedVariable, ofFixed);
  }

  /**
   * The days on which what there can be may change, but for changes round the year: each fixed bound less each span, and a
   * few days around. Throws TooManyValues where there are too many.
   */
  criticalDays(): number[] {
    const near = [-2, -1, 0, 1, 2];
    // A stretch that is about to close holds fewer and fewer days of the year.
    if (this.isYearly) near.push(-longestGap);
    const days = new Set<number>();
    for (const day of this.boundDays()) for (const by of near) days.add(day + by);
    return [...days].sort((left, right) => left - right);
  }

  /** Each fixed bound less each span of days. */
  private boundDays(): number[] {
    const fixed: number[] = [];
    for (let at = 1; at < this.fixed.count; at++) {
      const [least] = this.fixed.ends(at);
      fixed.push(this.isDate ? least : localDay(least, this.zone));
    }
    const spans = [0, -1, ...this.spans, ...this.offsets()];
    if (fixed.length * spans.length > mostCriticalDays)
      throw new TooManyValues(`${this.attribute.label} is compared with too many days`);
    return fixed.flatMap((day) => spans.map((span) => day - span));
  }

  /** Where the intervals of days from today begin. */
  private offsets(): number[] {
    return Array.from({ length: this.relative.count - 1 }, (_, at) => this.relative.ends(at + 1)[0]);
  }

  invent([fixed = 0, relative = 0, anniversary = 0]: readonly number[], { day }: Today): Fact {
    if (fixed === 0) return undefined;
    const stretch = this.stretch(fixed - 1, relative - 1, day);
    if (!this.isDate) return stretch[0] <= stretch[1] ? this.instantIn(...stretch) : undefined;
    const arc = arcsFrom(day, this.spans)[anniversary - 1];
    if (!arc) return undefined;
    const [least, greatest] = stretch;
    // Near today where there is such a day, for a date that somebody may have.
    return (
      firstInArc(Math.min(Math.max(day, least), greatest), greatest, arc) ?? firstInArc(least, greatest, arc)
    );
  }

  place(fact: Fact, { day }: Today): number[] {
    if (typeof fact !== 'number') return [0, 0, 0];
    const own = this.isDate ? fact : localDay(fact, this.zone);
    const arc = this.isDate
      ? arcsFrom(day, this.spans).findIndex((one) => isInArc(own, one))
      : this.spans.length;
    return [this.fixed.placeOf(fact) + 1, this.relative.placeOf(own - day) + 1, arc + 1];
  }

  /** The cells of the three variables that there can be together on a day, each combination as one number. */
  private combinationsOn(day: number): number[] {
    const found: number[] = [];
    const [relatives, anniversaries] = [this.relativeVariable.width, this.anniversaryVariable.width];
    const arcs = this.isDate ? arcsFrom(day, this.spans) : [{ from: 0, length: 366 }];
    let [fixed, relative] = [0, 0];
    while (fixed < this.fixed.count && relative < this.relative.count) {
      const [least, greatest] = this.stretch(fixed, relative, day);
      if (least <= greatest)
        for (const [index, arc] of arcs.entries())
          if (this.touches(least, greatest, arc))
            found.push(((fixed + 1) * relatives + relative + 1) * anniversaries + index + 1);
      // Whichever ends first makes room for the next.
      const ends = this.fixed.ends(fixed)[1] - this.lastOf(relative, day);
      if (ends <= 0) fixed++;
      if (ends >= 0) relative++;
    }
    return found;
  }

  private touches(least: number, greatest: number, arc: Arc): boolean {
    if (arc.length <= 0) return false;
    return !this.isDate || hasWholeYear(least, greatest) || firstInArc(least, greatest, arc) !== undefined;
  }

  /** The values that lie in an interval of both kinds on a day: none where the first is greater than the last. */
  private stretch(fixed: number, relative: number, day: number): [least: number, greatest: number] {
    const [least, greatest] = this.fixed.ends(fixed);
    return [Math.max(least, this.firstOf(relative, day)), Math.min(greatest, this.lastOf(relative, day))];
  }

  private firstOf(relative: number, day: number): number {
    if (relative === 0) return spanOf(this.attribute).least;
    const first = day + this.relative.ends(relative)[0];
    return this.isDate ? first : instantOf({ day: first, minute: 0 }, this.zone);
  }

  private lastOf(relative: number, day: number): number {
    if (relative >= this.relative.count - 1) return spanOf(this.attribute).most;
    const last = day + this.relative.ends(relative)[1];
    return this.isDate ? last : instantOf({ day: last + 1, minute: 0 }, this.zone) - 1;
  }

  private instantIn(least: number, greatest: number): number {
    const noon = instantOf({ day: localDay(greatest, this.zone), minute: 720 }, this.zone);
    return noon >= least && noon <= greatest ? noon : greatest;
  }
}

/** Dates of which only the day of the year matters: a cell for each stretch that spans of days add. */
export class AnniversaryDomain implements Domain {
  readonly variables: readonly [Variable];
  private readonly spans: readonly number[];

  /** @param questions of kind `anniversary` and `known`, none {@link isTooLong} */
  constructor(
    readonly attribute: Attribute,
    questions: readonly Question[],
  ) {
    this.spans = spansIn(questions);
    this.variables = [anniversaryVariable(attribute, this.spans)];
  }

  /** Whether spans cover so much of a year that it depends on leap days whether any day is left. */
  static isTooLong(questions: readonly Question[]): boolean {
    return spansIn(questions).some((span) => span > 363);
  }

  answer(question: Question, levels: Levels): Diagram {
    const [variable] = this.variables;
    if (question.kind === 'known') return known(levels, variable);
    if (question.kind !== 'anniversary') throw notAsked(question, this.attribute);
    return levels.diagrams.range(
      levels.levelOf(variable),
      variable.width,
      1,
      this.spans.indexOf(question.days) + 2,
    );
  }

  constraints(): Diagram[] {
    return [];
  }

  invent([cell = 0]: readonly number[], { day }: Today): Fact {
    const arc = arcsFrom(day, this.spans)[cell - 1];
    // Somebody of about forty.
    return arc && firstInArc(day - 40 * 365, lastDay, arc);
  }

  place(fact: Fact, { day }: Today): number[] {
    if (typeof fact !== 'number') return [0];
    return [arcsFrom(day, this.spans).findIndex((arc) => isInArc(fact, arc)) + 1];
  }
}

function spansIn(questions: readonly Question[]): number[] {
  const spans = questions.flatMap((one) => (one.kind === 'anniversary' ? [Math.min(one.days, 365)] : []));
  return [...new Set(spans)].sort((left, right) => left - right);
}

function anniversaryVariable({ label }: Attribute, spans: readonly number[]): Variable {
  const last = spans.length + 1;
  const within = (span: number | undefined) => (span === 0 ? 'today' : `within the next ${span} days`);
  return {
    width: last + 1,
    say(cells) {
      const present = [...cells].filter((cell) => cell > 0).sort((left, right) => left - right);
      if (present.length === 0) return cells.has(0) ? `${label} has no value` : undefined;
      if (present.length === last) return cells.has(0) ? undefined : `${label} has a value`;
      const [first = 0] = present;
      if (cells.has(0) || !present.every((cell, index) => cell === first + index)) return undefined;
      if (first === 1) return `${label} comes round ${within(spans[present.length - 1])}`;
      const said = `${label} does not come round ${within(spans[first - 2])}`;
      return present.at(-1) === last ? said : `${said} but ${within(spans[first + present.length - 2])}`;
    },
  };
}

function grouped<Item>(items: readonly Item[], keyOf: (item: Item) => number): Map<number, Item[]> {
  const groups = new Map<number, Item[]>();
  for (const item of items) {
    const found = groups.get(keyOf(item));
    if (found) found.push(item);
    else groups.set(keyOf(item), [item]);
  }
  return groups;
}
