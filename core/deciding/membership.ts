import type { Catalogue } from '../attributes/catalogue.ts';
import type { Facts } from '../attributes/viewer.ts';
import { type Audience, findCircle } from '../audiences/audience.ts';
import { audiencesIn } from '../conditions/condition.ts';
import { compile, type Predicate } from '../conditions/evaluate.ts';
import { type Problem, validate } from '../conditions/validate.ts';

const unknown = 0;
const outside = 1;
const inside = 2;

/**
 * Audiences planned together, each evaluated at most once for a viewer. An audience that can't be evaluated, or
 * that builds on one, contains nobody and is listed in `problems`.
 */
export class Membership {
  /** Why an audience can't be evaluated, by audience id. */
  readonly problems: ReadonlyMap<string, readonly Problem[]>;
  private readonly indexes: ReadonlyMap<string, number>;
  private readonly checks: readonly (Predicate | undefined)[];
  private readonly answers: Uint8Array;
  private facts: Facts | undefined;
  private readonly ask = (index: number): boolean => this.contains(index);

  constructor(catalogue: Catalogue, audiences: readonly Audience[]) {
    this.indexes = new Map(audiences.map((audience, index) => [audience.id, index]));
    this.problems = findProblems(catalogue, audiences);
    this.checks = audiences.map((audience) =>
      this.problems.has(audience.id)
        ? undefined
        : compile(audience.condition, catalogue, (id) => this.indexes.get(id)),
    );
    this.answers = new Uint8Array(audiences.length);
  }

  /** Turns to another viewer; answers about the one before are forgotten. */
  lookAs(facts: Facts): void {
    this.facts = facts;
    this.answers.fill(unknown);
  }

  /** The index to ask by, or -1 for an audience that does not exist or can't be evaluated. */
  indexOf(id: string): number {
    const index = this.indexes.get(id);
    return index === undefined || this.problems.has(id) ? -1 : index;
  }

  /** Whether the viewer of the last {@link lookAs} is in the audience; false for index -1. */
  contains(index: number): boolean {
    const known = this.answers[index];
    if (known !== unknown) return known === inside;
    const check = this.checks[index];
    if (!check || !this.facts) return false;
    const holds = check(this.facts, this.ask);
    this.answers[index] = holds ? inside : outside;
    return holds;
  }

  containsViewer(id: string): boolean {
    return this.contains(this.indexOf(id));
  }
}

function findProblems(
  catalogue: Catalogue,
  audiences: readonly Audience[],
): ReadonlyMap<string, readonly Problem[]> {
  const ids = new Set(audiences.map((audience) => audience.id));
  const problems = new Map<string, Problem[]>();
  for (const audience of audiences) {
    const found = validate(audience.condition, { catalogue, hasAudience: (id) => ids.has(id) });
    if (found.length > 0) problems.set(audience.id, found);
  }
  for (let circle = findCircle(audiences); circle; ) {
    for (const id of circle)
      problems.set(id, [{ path: '', message: 'builds on itself through other audiences' }]);
    circle = findCircle(audiences.filter((audience) => !problems.has(audience.id)));
  }
  for (let spread = true; spread; ) {
    spread = false;
    for (const audience of audiences) {
      if (problems.has(audience.id)) continue;
      const broken = [...audiencesIn(audience.condition)].find((id) => problems.has(id));
      if (broken === undefined) continue;
      problems.set(audience.id, [{ path: '', message: 'builds on an audience that has an error' }]);
      spread = true;
    }
  }
  return problems;
}
