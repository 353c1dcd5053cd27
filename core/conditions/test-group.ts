import { type Attribute, choicesOf } from '../attributes/attribute.ts';
import type { Facts } from '../attributes/viewer.ts';
import type { CodeTest } from './code-tests.ts';

/** Most tests in one group. More tests begin another group, which keeps the number of classes small. */
const mostTests = 16;
const mostMasks = 6;

/** Questions of which a viewer's class answers every one. */
export interface Group {
  /** How many classes there are. */
  size(): number;
  classOf(facts: Facts): number;
  /** Whether the answer to one of its questions is yes for a class. */
  holds(question: number, ofClass: number): boolean;
}

/** A question by itself: no is class 0, yes is class 1. */
export class SingleQuestion implements Group {
  constructor(private readonly ask: (facts: Facts) => boolean) {}

  size(): number {
    return 2;
  }

  classOf(facts: Facts): number {
    return this.ask(facts) ? 1 : 0;
  }

  holds(_question: number, ofClass: number): boolean {
    return ofClass === 1;
  }
}

/**
 * Tests of the codes of one attribute, see codes.ts. Codes that answer all of them alike are of one class. A group whose
 * classes were asked for takes no more tests.
 */
export class TestGroup implements Group {
  private readonly tests: CodeTest[] = [];
  /** By class, the answer of each test; empty before classes were asked for. */
  private readonly answers: (readonly boolean[])[] = [];
  private readonly isOfSets: boolean;
  /** The class of each code, where codes are places of choices. */
  private byPlace: Uint8Array | undefined;
  /** Where tests of other numbers begin and end, ascending; the classes of codes at each, and between it and the next. */
  private bounds = new Float64Array(0);
  private at = new Uint8Array(0);
  private after = new Uint8Array(0);
  private before = 0;
  private missing = 0;

  /** @param place of the codes among those of the facts */
  constructor(
    private readonly place: number,
    private readonly attribute: Attribute,
  ) {
    this.isOfSets = attribute.type === 'set';
  }

  get isOpen(): boolean {
    return this.answers.length === 0 && this.tests.length < (this.isOfSets ? mostMasks : mostTests);
  }

  /** @returns the place of the test in the group */
  add(test: CodeTest): number {
    return this.tests.push(test) - 1;
  }

  size(): number {
    if (this.answers.length === 0) this.findClasses();
    return this.answers.length;
  }

  /** The class of a viewer's code; a missing value has one as well. */
  classOf(facts: Facts): number {
    if (this.answers.length === 0) this.findClasses();
    const code = facts.codeAt(this.place);
    if (Number.isNaN(code) && !this.isOfSets) return this.missing;
    const { byPlace } = this;
    if (byPlace) return byPlace[code] ?? this.missing;
    return this.isOfSets ? this.bitsOf(code) : this.ofNumber(code);
  }

  holds(question: number, ofClass: number): boolean {
    return this.answers[ofClass]?.[question] === true;
  }

  private bitsOf(code: number): number {
    const { tests } = this;
    let bits = 0;
    for (let at = 0; at < tests.length; at++) if (holdsOf(tests[at], code)) bits |= 1 << at;
    return bits;
  }

  private ofNumber(code: number): number {
    const { bounds } = this;
    // There are few, so that to count is quicker than to search.
    let below = 0;
    for (let at = 0; at < bounds.length; at++) below += Number((bounds[at] ?? 0) <= code);
    if (below === 0) return this.before;
    return (bounds[below - 1] === code ? this.at[below - 1] : this.after[below - 1]) ?? this.missing;
  }

  private findClasses(): void {
    const { tests, attribute } = this;
    if (this.isOfSets) {
      // One class for each combination of answers; its number has a bit for each test.
      for (let bits = 0; bits < 1 << tests.length; bits++)
        this.answers.push(tests.map((_, at) => (bits & (1 << at)) !== 0));
      return;
    }
    this.missing = this.classLike(Number.NaN);
    if (attribute.type === 'choice' || attribute.type === 'yes-no') {
      const places = attribute.type === 'choice' ? choicesOf(attribute).length : 2;
      this.byPlace = Uint8Array.from({ length: places }, (_, place) => this.classLike(place));
      return;
    }
    const bounds = [...new Set(tests.flatMap(({ from, to }) => [from, to]))].sort((one, two) => one - two);
    this.bounds = Float64Array.from(bounds);
    this.before = this.classLike(Number.NEGATIVE_INFINITY);
    this.at = Uint8Array.from(bounds, (bound) => this.classLike(bound));
    this.after = Uint8Array.from(bounds, (bound, index) =>
      this.classLike(bound / 2 + (bounds[index + 1] ?? Number.POSITIVE_INFINITY) / 2),
    );
  }

  /** The class of codes that answer as this one does. */
  private classLike(code: number): number {
    const own = this.tests.map((test) => holdsOf(test, code));
    const known = this.answers.findIndex((answers) => answers.every((answer, at) => answer === own[at]));
    return known >= 0 ? known : this.answers.push(own) - 1;
  }
}

function holdsOf(test: CodeTest | undefined, code: number): boolean {
  switch (test?.kind) {
    case 'between':
    case 'away':
      return code >= test.from && code <= test.to;
    case 'among':
      return code >= 0 && test.table[code] === 1;
    case 'has-any':
      return (code & test.mask) !== 0;
    case 'has-all':
      return (code & test.mask) === test.mask;
    case undefined:
      return false;
  }
}
