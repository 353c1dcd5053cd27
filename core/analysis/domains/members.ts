import { type Attribute, choiceLabel, choicesOf } from '../../attributes/attribute.ts';
import type { Fact } from '../../attributes/viewer.ts';
import type { Question } from '../../conditions/meaning.ts';
import { always, type Diagram, never } from '../diagrams/diagrams.ts';
import { type Domain, known, type Levels, notAsked, type Variable } from './domain.ts';

type SetAttribute = Extract<Attribute, { type: 'set' }>;

/**
 * Sets: for each value that a question names, whether it is held, and whether any other is. Exclusive groups are
 * constraints between them. A set that holds nothing is missing.
 */
export class SetDomain implements Domain {
  readonly variables: readonly Variable[];
  /** The named values in the order of their variables, members of an exclusive group next to each other. */
  private readonly named: readonly string[];
  private readonly others: readonly string[];
  private readonly variableOf: ReadonlyMap<string, Variable>;
  private readonly other: Variable | undefined;

  /** @param questions of kind `has-any`, `has-all` and `known` */
  constructor(
    readonly attribute: SetAttribute,
    questions: readonly Question[],
  ) {
    const ids = choicesOf(attribute).map(({ id }) => id);
    const asked = new Set(
      questions.flatMap((one) => (one.kind === 'has-any' || one.kind === 'has-all' ? one.values : [])),
    );
    const firstGroup = (id: string) => {
      const at = attribute.exclusiveGroups.findIndex(({ members }) => members.includes(id));
      return at < 0 ? attribute.exclusiveGroups.length : at;
    };
    this.named = ids.filter((id) => asked.has(id)).sort((one, two) => firstGroup(one) - firstGroup(two));
    this.others = ids.filter((id) => !asked.has(id));
    const variables = this.named.map((id): [string, Variable] => [
      id,
      { width: 2, say: (cells) => this.sayHeld(choiceLabel(attribute, id), cells) },
    ]);
    this.variableOf = new Map(variables);
    this.other =
      this.others.length > 0 ? { width: 2, say: (cells) => this.sayHeld('anything else', cells) } : undefined;
    this.variables = [...this.variableOf.values(), ...(this.other ? [this.other] : [])];
  }

  answer(question: Question, levels: Levels): Diagram {
    const { diagrams } = levels;
    if (question.kind === 'known') return diagrams.any(this.variables.map((one) => known(levels, one)));
    if (question.kind !== 'has-any' && question.kind !== 'has-all') throw notAsked(question, this.attribute);
    const held = question.values.map((id) => {
      const variable = this.variableOf.get(id);
      return variable ? known(levels, variable) : never;
    });
    return question.kind === 'has-any' ? diagrams.any(held) : diagrams.all(held);
  }

  constraints(levels: Levels): Diagram[] {
    const groups = this.attribute.exclusiveGroups.map(({ members }) =>
      atMost(
        1,
        this.named.filter((id) => members.includes(id)).flatMap((id) => this.variableOf.get(id) ?? []),
        levels,
      ),
    );
    return groups;
  }

  invent(cells: readonly number[]): Fact {
    const held = this.named.filter((_, index) => cells[index] === 1);
    if (this.other && cells[this.named.length] === 1) {
      const further = this.others.find((id) => this.fits(id, held));
      if (further !== undefined) held.push(further);
    }
    // In the order of the choices, as sets are read.
    const inOrder = choicesOf(this.attribute).flatMap(({ id }) => (held.includes(id) ? [id] : []));
    return inOrder.length > 0 ? inOrder : undefined;
  }

  place(fact: Fact): number[] {
    const held: readonly string[] = typeof fact === 'object' ? fact : [];
    return [
      ...this.named.map((id) => (held.includes(id) ? 1 : 0)),
      ...(this.other ? [this.others.some((id) => held.includes(id)) ? 1 : 0] : []),
    ];
  }

  private fits(id: string, held: readonly string[]): boolean {
    return this.attribute.exclusiveGroups.every(
      ({ members }) => !members.includes(id) || !held.some((one) => members.includes(one)),
    );
  }

  private sayHeld(label: string, cells: ReadonlySet<number>): string {
    return `${this.attribute.label} ${cells.has(1) ? 'include' : 'do not include'} ${label}`;
  }
}

/** True where at most so many of some variables of two cells are in their second. They must be in order. */
export function atMost(most: number, variables: readonly Variable[], { diagrams, levelOf }: Levels): Diagram {
  const inOrder = [...variables].sort((one, two) => levelOf(one) - levelOf(two));
  // From the last variable up: for each number that may still follow, what holds below.
  let below: Diagram[] = Array.from({ length: most + 1 }, () => always);
  for (const variable of inOrder.reverse())
    below = below.map((_, left) =>
      diagrams.node(levelOf(variable), [
        { end: 1, next: below[left] ?? never },
        { end: 2, next: left === 0 ? never : (below[left - 1] ?? never) },
      ]),
    );
  return below[most] ?? always;
}
