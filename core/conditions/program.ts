import type { Attribute } from '../attributes/attribute.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import type { Facts } from '../attributes/viewer.ts';
import { type CodeTest, codeTest } from './code-tests.ts';
import type { Condition, Test } from './condition.ts';
import { compileTest, textTest } from './evaluate.ts';
import { type Meaning, meaningOf } from './meaning.ts';
import { type Group, SingleQuestion, TestGroup } from './test-group.ts';

/** Past so many tests an audience that is named again is asked by a step of its own instead of being written out. */
const mostWrittenOut = 12;

/** A question of a group, by their places; or the end, with an outcome. */
type Does =
  | { readonly kind: 'ask'; readonly group: number; readonly question: number }
  | { readonly kind: 'end'; readonly outcome: number };

/** One question, and where to go on where the answer is yes and where it is no. */
export class Step {
  onYes: Step = this;
  onNo: Step = this;
  /** What it was made into; undefined before it was first run. */
  fork: Fork | undefined;

  constructor(readonly does: Does) {}

  /** The end of a program. */
  static end(outcome: number): Step {
    return new Step({ kind: 'end', outcome });
  }

  goOn(onYes: Step, onNo: Step): Step {
    this.onYes = onYes;
    this.onNo = onNo;
    return this;
  }
}

/** Where a viewer goes on by the class in a group: all its questions that would follow one another are answered at once. */
class Fork {
  readonly next: Fork[] = [];

  constructor(
    /** The place of the group; -1 at the end. */
    readonly group: number,
    readonly outcome: number,
  ) {}
}

const [yes, no] = [Step.end(1), Step.end(0)];

/**
 * Conditions as steps, each a question with where to go on where it holds and where not: what "all of" and "any of" leave out
 * is jumped over. Tests of the same numbers, see code-tests.ts, are answered together; so that following steps is to look up
 * one place after another. Each of the others is asked at most once for a viewer, whatever asks for it, and so is each
 * audience that stands for a longer condition.
 */
export class Program {
  /** Tests that are not of numbers, by what they ask. */
  private readonly tests = new Map<string, number>();
  /** By place of an audience, the place of the group that it is. */
  private readonly audiences: number[] = [];
  private readonly sizes = new Map<string, number>();
  private readonly groups: Group[] = [];
  /** By place of the codes, the group that takes the next test. */
  private readonly open = new Map<number, { readonly at: number; readonly group: TestGroup }>();
  /** What is known of a viewer's classes before any is asked for. */
  private readonly noClasses: number[] = [];
  private classes: number[] = [];
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

  /** Turns to a viewer. What was answered about the same facts is still known. */
  lookAt(facts: Facts): void {
    if (this.facts === facts) return;
    this.facts = facts;
    this.classes = facts.classesOf(this, this.noClasses);
  }

  /** Whether the viewer is in the audience at a place. */
  contains(place: number): boolean {
    return this.facts !== undefined && this.classIn(this.audience(place), this.facts) === 1;
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
    return new Step({ kind: 'ask', group: this.audience(place), question: 0 }).goOn(onYes, onNo);
  }

  /** The outcome that a program comes to for the viewer. */
  run(start: Step): number {
    const { facts, classes } = this;
    if (!facts) throw new Error('there is no viewer to look at');
    let fork = start.fork ?? this.prepare(start);
    while (fork.group >= 0) {
      const own = classes[fork.group] ?? -1;
      const next: Fork | undefined = fork.next[own >= 0 ? own : this.classIn(fork.group, facts)];
      if (!next) throw new Error('a class that was not foreseen');
      fork = next;
    }
    return fork.outcome;
  }

  /** Makes forks of a step and of everything that it leads to. Their groups take no more tests then. */
  private prepare(first: Step): Fork {
    const waiting: Step[] = [];
    const forkOf = (step: Step): Fork => {
      if (!step.fork) {
        const { does } = step;
        step.fork = does.kind === 'end' ? new Fork(-1, does.outcome) : new Fork(does.group, 0);
        waiting.push(step);
      }
      return step.fork;
    };
    const start = forkOf(first);
    for (let step = waiting.pop(); step; step = waiting.pop()) {
      const { does } = step;
      const group = does.kind === 'ask' ? this.groups[does.group] : undefined;
      if (does.kind === 'end' || !group) continue;
      const { next } = forkOf(step);
      for (let ofClass = 0; ofClass < group.size(); ofClass++) {
        let to = step;
        while (to.does.kind === 'ask' && to.does.group === does.group)
          to = group.holds(to.does.question, ofClass) ? to.onYes : to.onNo;
        next.push(forkOf(to));
      }
    }
    return start;
  }

  /** The class of the viewer in a group, found out at most once. */
  private classIn(place: number, facts: Facts): number {
    const { classes } = this;
    const known = classes[place] ?? -1;
    if (known >= 0) return known;
    const own = this.groups[place]?.classOf(facts) ?? 0;
    // Groups may have been added since this viewer was first looked at.
    while (classes.length <= place) classes.push(-1);
    classes[place] = own;
    return own;
  }

  /** The audience at a place, written when something first asks for it. */
  private audience(place: number): number {
    let at = this.audiences[place];
    if (at === undefined) {
      const start = this.write(this.conditionAt(place), yes, no);
      at = this.addGroup(new SingleQuestion(() => this.run(start) === 1));
      this.audiences[place] = at;
    }
    return at;
  }

  private addGroup(group: Group): number {
    this.noClasses.push(-1);
    return this.groups.push(group) - 1;
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
    const step = new Step(coded ? this.grouped(coded, place, attribute) : this.otherTest(test, meaning));
    return coded && negated ? step.goOn(onNo, onYes) : step.goOn(onYes, onNo);
  }

  /** Puts a test into a group of those of the same codes. */
  private grouped(test: CodeTest, place: number, attribute: Attribute): Does {
    const of = test.kind === 'away' ? this.catalogue.placeFromToday(place) : place;
    let open = this.open.get(of);
    if (!open?.group.isOpen) {
      const group = new TestGroup(of, attribute);
      open = { at: this.addGroup(group), group };
      this.open.set(of, open);
    }
    return { kind: 'ask', group: open.at, question: open.group.add(test) };
  }

  private otherTest(test: Test, { negated, question }: Meaning): Does {
    const key = JSON.stringify([test.attribute, test.op, test.values]);
    let known = this.tests.get(key);
    if (known === undefined) {
      const { place, holds } = compileTest(test, this.catalogue);
      const fits = textTest(question);
      known = this.addGroup(
        new SingleQuestion(
          fits
            ? (facts) => {
                const text = facts.textAt(place);
                return (text !== undefined && fits(text)) !== negated;
              }
            : (facts) => holds(facts.at(place), facts),
        ),
      );
      this.tests.set(key, known);
    }
    return { kind: 'ask', group: known, question: 0 };
  }
}
