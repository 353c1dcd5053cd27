import type { Attribute, Value } from '../attributes/attribute.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import type { Fact, Facts, Viewer } from '../attributes/viewer.ts';
import type { Audience } from '../audiences/audience.ts';
import { plan } from '../conditions/check.ts';
import { type Condition, leavesOf, type Test } from '../conditions/condition.ts';
import type { Membership } from '../deciding/membership.ts';
import type { DocumentKind } from '../documents/document.ts';
import { type Cell, cellsOf, valueOfCell } from './cells.ts';
import { always, type Diagram, Diagrams, never } from './diagrams.ts';

/** The three states of knowing a viewer, as cells of the first variable. */
export const states = ['anonymous', 'recognised', 'signed-in'] as const;
export type State = (typeof states)[number];
const stateLevel = 0;

interface Variable {
  attribute: Attribute;
  tests: readonly Test[];
  cells: readonly Cell[];
}

/**
 * Every viewer that there can be, as far as some audiences tell them apart, at one moment: the state of knowing, and
 * a cell for each contact attribute that is tested. Whoever is anonymous has no contact attribute; whoever reads mail
 * is recognised.
 */
export class World {
  readonly diagrams = new Diagrams();
  /** True for the viewers that there can be. */
  readonly possible: Diagram;
  private readonly variables: readonly Variable[];
  private readonly levels: ReadonlyMap<string, number>;
  private readonly audiences: ReadonlyMap<string, Audience>;
  private readonly compiled = new Map<string, Diagram>();

  /** Throws TooManyValues where an attribute can't be split exactly. */
  constructor(
    private readonly catalogue: Catalogue,
    private readonly membership: Membership,
    audiences: readonly Audience[],
    used: Iterable<string>,
    readonly channel: DocumentKind,
    readonly today: number,
    /** Conditions besides the audiences that will be asked about. */
    more: readonly Condition[] = [],
  ) {
    this.audiences = new Map(audiences.map((audience) => [audience.id, audience]));
    const tests = new Map<string, Map<string, Test>>();
    const collect = (condition: Condition): void => {
      for (const leaf of leavesOf(condition)) {
        if (leaf.kind === 'audience') {
          const inner = this.audiences.get(leaf.audience);
          if (inner && !membership.problems.has(inner.id)) collect(inner.condition);
          continue;
        }
        const own = tests.get(leaf.attribute) ?? new Map<string, Test>();
        own.set(JSON.stringify([leaf.op, leaf.values]), leaf);
        tests.set(leaf.attribute, own);
      }
    };
    for (const id of used) {
      const audience = this.audiences.get(id);
      if (audience && !membership.problems.has(id)) collect(audience.condition);
    }
    for (const condition of more) collect(condition);
    this.variables = [...tests].flatMap(([id, own]): Variable[] => {
      const attribute = catalogue.get(id);
      if (attribute?.source !== 'contact') return [];
      const list = [...own.values()];
      return [{ attribute, tests: list, cells: cellsOf(attribute, list, catalogue, today) }];
    });
    this.levels = new Map(this.variables.map(({ attribute }, index) => [attribute.id, index + 1]));
    this.possible = this.possibleViewers();
  }

  /** The states in which somebody can see the document. */
  get openStates(): readonly number[] {
    return this.channel === 'email' ? [states.indexOf('recognised')] : states.map((_, index) => index);
  }

  /** The viewers in an audience, among all that there can be or not. An audience with an error contains nobody. */
  audience(id: string): Diagram {
    const found = this.compiled.get(id);
    if (found !== undefined) return found;
    const audience = this.audiences.get(id);
    const made = audience && !this.membership.problems.has(id) ? this.condition(audience.condition) : never;
    this.compiled.set(id, made);
    return made;
  }

  /** The viewers for whom a condition holds; its attributes must be among those the world was made for. */
  condition(condition: Condition): Diagram {
    const { diagrams } = this;
    switch (condition.kind) {
      case 'test':
        return this.test(condition);
      case 'audience':
        return this.audience(condition.audience);
      case 'not':
        return diagrams.not(this.condition(condition.of));
      case 'all':
        return condition.of.reduce<Diagram>((all, part) => diagrams.and(all, this.condition(part)), always);
      case 'any':
        return condition.of.reduce<Diagram>((any, part) => diagrams.or(any, this.condition(part)), never);
    }
  }

  /** The part of a diagram that lies among possible viewers. */
  possibly(diagram: Diagram): Diagram {
    return this.diagrams.and(this.possible, diagram);
  }

  /** An invented viewer of an assignment: cells by level, anything not assigned missing. */
  viewer(cells: ReadonlyMap<number, number>, instant: number): Viewer {
    const state = states[cells.get(stateLevel) ?? this.openStates[0] ?? 0];
    const contact: { [attribute: string]: Value } = {};
    for (const [index, { attribute, cells: own }] of this.variables.entries()) {
      const cell = own[cells.get(index + 1) ?? 0];
      const value = cell && valueOfCell(attribute, cell);
      if (value !== undefined) contact[attribute.id] = value;
    }
    return {
      contact: state === 'anonymous' ? null : contact,
      signedIn: state === 'signed-in',
      device: 'computer',
      instant,
    };
  }

  /** The cell that a viewer's value falls into, for each variable by level. */
  placeOf(facts: Facts): Map<number, number> {
    const signedIn = facts.values[this.catalogue.indexOf('signed-in') ?? -1] === true;
    const known = this.variables.some(({ attribute }) => this.factOf(facts, attribute) !== undefined);
    // Without any value it makes no difference to a test whether somebody is anonymous or recognised.
    const state: State = signedIn
      ? 'signed-in'
      : known || this.channel === 'email'
        ? 'recognised'
        : 'anonymous';
    const place = new Map([[stateLevel, states.indexOf(state)]]);
    for (const [index, { attribute, tests, cells }] of this.variables.entries()) {
      const fact = this.factOf(facts, attribute);
      const outcomes = tests.map((test) => plan(test, this.catalogue, () => undefined)(facts, () => false));
      const cell = cells.findIndex((own, at) =>
        fact === undefined
          ? at === 0
          : at > 0 && own.outcomes.every((holds, test) => holds === outcomes[test]),
      );
      place.set(index + 1, Math.max(0, cell));
    }
    return place;
  }

  /** What a level's cell stands for: a state of knowing, or an attribute with one value of the cell. */
  meaning(
    level: number,
    cell: number,
  ): { state: State } | { attribute: Attribute; value: Value | undefined } {
    const variable = this.variables[level - 1];
    const own = variable?.cells[cell];
    if (!variable || !own) return { state: states[cell] ?? 'anonymous' };
    return { attribute: variable.attribute, value: valueOfCell(variable.attribute, own) };
  }

  private factOf(facts: Facts, attribute: Attribute): Fact {
    return facts.values[this.catalogue.indexOf(attribute.id) ?? -1];
  }

  private test(test: Test): Diagram {
    const attribute = this.catalogue.get(test.attribute);
    if (attribute?.source === 'sign-in') {
      const signedIn = states.map((state) => state === 'signed-in');
      const holds =
        test.op === 'is-yes'
          ? signedIn
          : test.op === 'is-no'
            ? signedIn.map((is) => !is)
            : signedIn.map(() => test.op === 'has-value');
      return this.diagrams.node(
        stateLevel,
        holds.map((is) => (is ? always : never)),
      );
    }
    const level = this.levels.get(test.attribute);
    const variable = level === undefined ? undefined : this.variables[level - 1];
    const key = JSON.stringify([test.op, test.values]);
    const at = variable?.tests.findIndex((own) => JSON.stringify([own.op, own.values]) === key) ?? -1;
    if (level === undefined || !variable || at < 0)
      throw new Error(`the world was not made for ${test.attribute} ${test.op}`);
    return this.diagrams.node(
      level,
      variable.cells.map((cell) => (cell.outcomes[at] ? always : never)),
    );
  }

  private possibleViewers(): Diagram {
    const open = new Set(this.openStates);
    let nothingKnown: Diagram = always;
    for (let level = this.variables.length; level > 0; level--) {
      const width = this.variables[level - 1]?.cells.length ?? 1;
      nothingKnown = this.diagrams.node(
        level,
        Array.from({ length: width }, (_, cell) => (cell === 0 ? nothingKnown : never)),
      );
    }
    return this.diagrams.node(
      stateLevel,
      states.map((state, index) =>
        !open.has(index) ? never : state === 'anonymous' ? nothingKnown : always,
      ),
    );
  }
}
