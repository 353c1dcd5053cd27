import type { Catalogue } from '../attributes/catalogue.ts';
import type { Facts } from '../attributes/viewer.ts';
import { type Audience, findCircle } from '../audiences/audience.ts';
import { audiencesIn, type Condition } from '../conditions/condition.ts';
import { Program, Step } from '../conditions/program.ts';
import { type Problem, validate } from '../conditions/validate.ts';

const nobody: Condition = { kind: 'any', of: [] };

/**
 * Compiled audiences. Each test and each audience is evaluated at most once for a viewer. An audience that can't be
 * evaluated, or that refers to one that can't, contains nobody and is listed in `problems`.
 */
export class Membership {
  /** Why an audience can't be evaluated, by audience id. */
  readonly problems: ReadonlyMap<string, readonly Problem[]>;
  private readonly indexes: ReadonlyMap<string, number>;
  private readonly program: Program;

  constructor(catalogue: Catalogue, audiences: readonly Audience[]) {
    this.indexes = new Map(audiences.map((audience, index) => [audience.id, index]));
    this.problems = findProblems(catalogue, audiences);
    this.program = new Program(
      catalogue,
      (id) => this.indexOf(id),
      (index) => audiences[index]?.condition ?? nobody,
    );
  }

  /** Sets the viewer; answers about the same values are kept. */
  lookAs(facts: Facts): void {
    this.program.lookAt(facts);
  }

  /** The index of an audience, or -1 if it does not exist or can't be evaluated. */
  indexOf(id: string): number {
    const index = this.indexes.get(id);
    return index === undefined || this.problems.has(id) ? -1 : index;
  }

  /** Whether the viewer of the last {@link lookAs} is in the audience; false for index -1. */
  contains(index: number): boolean {
    return index >= 0 && this.program.contains(index);
  }

  containsViewer(id: string): boolean {
    return this.contains(this.indexOf(id));
  }

  /**
   * Compiles a list of audiences, for {@link firstOf} to find the first that contains the viewer. An audience that can't be
   * evaluated contains nobody.
   */
  writeFirst(audiences: readonly string[], otherwise: number): Step {
    let next = Step.end(otherwise);
    for (let at = audiences.length - 1; at >= 0; at--) {
      const id = audiences[at] ?? '';
      if (this.indexOf(id) >= 0) next = this.program.writeAudience(id, Step.end(at), next);
    }
    return next;
  }

  /** Compiles a valid condition, which may refer to audiences, for {@link meets}. */
  write(condition: Condition): Step {
    return this.program.write(condition, Step.end(1), Step.end(0));
  }

  /** Whether the viewer of the last {@link lookAs} meets a condition; see {@link write}. */
  meets(start: Step): boolean {
    return this.program.run(start) === 1;
  }

  /** The position of the first audience in a compiled list that contains the viewer; see {@link writeFirst}. */
  firstOf(start: Step): number {
    return this.program.run(start);
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
