import type { Catalogue } from '../attributes/catalogue.ts';
import type { Facts } from '../attributes/viewer.ts';
import { type CodeTest, codeTest } from './code-tests.ts';
import type { Condition, Test } from './condition.ts';
import { compileTest, textTest } from './evaluate.ts';
import { type Meaning, meaningOf } from './meaning.ts';

/** Past so many tests an audience that is named again is asked by a step of its own instead of being written out. */
const mostWrittenOut = 12;

/** A question that takes a while, with the answer for the viewer of the round that it was last asked in. */
class Remembered {
  round = 0;
  answer = false;

  constructor(readonly ask: (facts: Facts) => boolean) {}
}

/** What a step does. */
const [ends, isBetween, isAway, isAmong, hasAny, hasAll, asks] = [0, 1, 2, 3, 4, 5, 6];
const kindOf = { between: isBetween, away: isAway, among: isAmong, 'has-any': hasAny, 'has-all': hasAll };

const [noTable, nothing] = [new Uint8Array(0), new Remembered(() => false)];

/** One test, and where to go on where it holds and where it does not; or the end, with an outcome. */
export class Step {
  onYes: Step = this;
  onNo: Step = this;

  private constructor(
    readonly kind: number,
    readonly place: number,
    readonly from: number,
    readonly to: number,
    readonly mask: number,
    readonly table: Uint8Array,
    readonly remembered: Remembered,
    readonly outcome: number,
  ) {}

  /** The end of a program. */
  static end(outcome: number): Step {
    return new Step(ends, 0, 0, 0, 0, noTable, nothing, outcome);
  }

  static test(place: number, { kind, from, to, mask, table }: CodeTest): Step {
    return new Step(kindOf[kind], place, from, to, mask, table, nothing, 0);
  }

  static asking(remembered: Remembered): Step {
    return new Step(asks, 0, 0, 0, 0, noTable, remembered, 0);
  }

  goOn(onYes: Step, onNo: Step): Step {
    this.onYes = onYes;
    this.onNo = onNo;
    return this;
  }
}

const [yes, no] = [Step.end(1), Step.end(0)];

/**
 * Conditions as steps, each a test with where to go on where it holds and where not: what "all of" and "any of" leave out is
 * jumped over. Most tests compare one number, see code-tests.ts; each of the others is asked at most once for a viewer, whatever
 * asks for it, and so is each audience that stands for a longer condition.
 */
export class Program {
  /** Tests that are not of numbers, by what they ask. */
  private readonly tests = new Map<string, Remembered>();
  private readonly audiences: Remembered[] = [];
  private readonly sizes = new Map<string, number>();
  private round = 1;
  private facts: Facts | undefined;

  /**
   * @param audienceAt the place of an audience, for conditions that name it
   * @param conditionAt what the audience at a place asks; the conditions must be sound and have no circle
   */
  constructor(
    private readonly catalogue: Catalogue,
    private readonly audienceAt: (id: string) => number,
    private readonly conditionAt: (place: number) => Condition,
  ) {}

  /** Turns to a viewer; answers about another one are forgotten, about the same they stay. */
  lookAt(facts: Facts): void {
    if (this.facts === facts) return;
    this.facts = facts;
    this.round++;
  }

  /** Whether the viewer is in the audience at a place. */
  contains(place: number): boolean {
    return this.facts !== undefined && this.answer(this.audience(place), this.facts);
  }

  /** Writes a condition and says where it begins; `onYes` and `onNo` are where to go on. */
  write(condition: Condition, onYes: Step, onNo: Step): Step {
    switch (condition.kind) {
      case 'test':
        return this.writeTest(condition, onYes, onNo);
      case 'not':
        return this.write(condition.of, onNo, onYes);
      case 'all':
        return condition.of.reduceRight((next, part) => this.write(part, next, onNo), onYes);
      case 'any':
        return condition.of.reduceRight((next, part) => this.write(part, onYes, next), onNo);
      case 'audience':
        return this.writeAudience(condition.audience, onYes, onNo);
    }
  }

  /** Writes that an audience is asked. One that is short is written out there. */
  writeAudience(id: string, onYes: Step, onNo: Step): Step {
    if (onYes === onNo) return onYes;
    const place = this.audienceAt(id);
    if (this.sizeOf(id) <= mostWrittenOut) return this.write(this.conditionAt(place), onYes, onNo);
    return Step.asking(this.audience(place)).goOn(onYes, onNo);
  }

  /** The outcome that a program comes to for the viewer. */
  run(start: Step): number {
    const { facts } = this;
    if (!facts) throw new Error('there is no viewer to look at');
    let step = start;
    for (;;) {
      let holds: boolean;
      if (step.kind === ends) return step.outcome;
      if (step.kind === asks) holds = this.answer(step.remembered, facts);
      else {
        const code = facts.codeAt(step.place);
        switch (step.kind) {
          case isBetween:
            holds = code >= step.from && code <= step.to;
            break;
          case hasAny:
            holds = (code & step.mask) !== 0;
            break;
          case isAmong:
            holds = code >= 0 && step.table[code] === 1;
            break;
          case isAway: {
            const away = code - facts.today;
            holds = away >= step.from && away <= step.to;
            break;
          }
          default:
            holds = (code & step.mask) === step.mask;
        }
      }
      step = holds ? step.onYes : step.onNo;
    }
  }

  private answer(remembered: Remembered, facts: Facts): boolean {
    const { round } = this;
    if (remembered.round !== round) {
      remembered.answer = remembered.ask(facts);
      remembered.round = round;
    }
    return remembered.answer;
  }

  /** The audience at a place, written when it is first asked. */
  private audience(place: number): Remembered {
    let audience = this.audiences[place];
    if (!audience) {
      let start: Step | undefined;
      audience = new Remembered(() => {
        start ??= this.write(this.conditionAt(place), yes, no);
        return this.run(start) === 1;
      });
      this.audiences[place] = audience;
    }
    return audience;
  }

  /** How many tests an audience comes to written out, counted to a little past the bound. */
  private sizeOf(id: string): number {
    const known = this.sizes.get(id);
    if (known !== undefined) return known;
    const count = (condition: Condition): number => {
      switch (condition.kind) {
        case 'test':
          return 1;
        case 'audience':
          return this.sizeOf(condition.audience);
        case 'not':
          return count(condition.of);
        default: {
          let size = 0;
          for (const part of condition.of) if (size <= mostWrittenOut) size += count(part);
          return size;
        }
      }
    };
    const size = count(this.conditionAt(this.audienceAt(id)));
    this.sizes.set(id, size);
    return size;
  }

  private writeTest(test: Test, onYes: Step, onNo: Step): Step {
    if (onYes === onNo) return onYes;
    const attribute = this.catalogue.get(test.attribute);
    const place = this.catalogue.indexOf(test.attribute);
    if (!attribute || place === undefined) throw new Error(`no attribute “${test.attribute}”`);
    const meaning = meaningOf(test, attribute, this.catalogue);
    const { negated, question } = meaning;
    const coded = codeTest(question, attribute);
    const step = coded ? Step.test(place, coded) : Step.asking(this.otherTest(test, meaning));
    return coded && negated ? step.goOn(onNo, onYes) : step.goOn(onYes, onNo);
  }

  private otherTest(test: Test, { negated, question }: Meaning): Remembered {
    const key = JSON.stringify([test.attribute, test.op, test.values]);
    let known = this.tests.get(key);
    if (!known) {
      const { place, holds } = compileTest(test, this.catalogue);
      const fits = textTest(question);
      known = new Remembered(
        fits
          ? (facts) => {
              const text = facts.textAt(place);
              return (text !== undefined && fits(text)) !== negated;
            }
          : (facts) => holds(facts.at(place), facts),
      );
      this.tests.set(key, known);
    }
    return known;
  }
}
