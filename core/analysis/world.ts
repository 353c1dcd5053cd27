import type { Attribute, Value } from '../attributes/attribute.ts';
import { builtinFacts } from '../attributes/builtin.ts';
import { localDay } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { type Fact, type Facts, type Viewer, valueOfFact } from '../attributes/viewer.ts';
import type { Audience } from '../audiences/audience.ts';
import { bearingOn, keeping, type StatedFact } from '../audiences/fact.ts';
import { plan } from '../conditions/check.ts';
import { type Condition, leavesOf, type Test } from '../conditions/condition.ts';
import { meaningOf } from '../conditions/meaning.ts';
import type { Membership } from '../deciding/membership.ts';
import type { Channel } from '../documents/document.ts';
import { always, type Diagram, Diagrams, never } from './diagrams.ts';
import { Inventor } from './inventor.ts';
import { sayCells, sayStates } from './say-cells.ts';
import { type State, states } from './states.ts';
import {
  AskedTests,
  keyOf,
  momentName,
  nameOf,
  type SameVariable,
  spelledOut,
  type Variable,
  type Variables,
  variablesOf,
} from './variables.ts';

/** The states of knowing a viewer are the cells of the first level. */
const stateLevel = 0;

/** What a cell of a variable stands for. */
export type CellMeaning =
  | { state: State }
  | { attribute: Attribute; value: Value | undefined }
  | { moment: number }
  | { attribute: Attribute; sameAs: Attribute; is: boolean };

export interface WorldOf {
  readonly catalogue: Catalogue;
  readonly membership: Membership;
  readonly audiences: readonly Audience[];
  /** The audiences that will be asked about. */
  readonly used: Iterable<string>;
  readonly channel: Channel;
  /** Now, in milliseconds since 1970 UTC; later moments are possible, earlier ones are not. */
  readonly instant: number;
  /** Conditions besides the audiences that will be asked about. */
  readonly conditions?: readonly Condition[];
  /** What holds for everybody who gets here: facts about the data, the page's access. */
  readonly given?: readonly Condition[];
  /** What is stated to hold for every contact; only sound facts may be given. */
  readonly stated?: readonly StatedFact[] | undefined;
  /** Whether an item is shown, so that its fields may have values. */
  readonly hasItem?: boolean;
}

/**
 * Every viewer that there can be from now on, as far as some audiences tell them apart: the state of knowing, the
 * moment, and a cell for each attribute that is tested. Whoever is anonymous has no contact attribute; whoever reads
 * mail is recognised and has no visit; without an item its fields are missing.
 */
export class World {
  readonly diagrams = new Diagrams();
  /** True for the viewers that there can be. */
  readonly possible: Diagram;
  /** What ties variables to each other; every viewer there can be is in all of these. */
  readonly constraints: readonly Diagram[];
  readonly channel: Channel;
  readonly instant: number;
  readonly today: number;
  private readonly catalogue: Catalogue;
  private readonly membership: Membership;
  private readonly hasItem: boolean;
  private readonly variables: readonly Variable[];
  private readonly levels: ReadonlyMap<string, number>;
  private readonly audiences: ReadonlyMap<string, Audience>;
  private readonly compiled = new Map<string, Diagram>();
  private readonly inventor: Inventor;

  /** Throws TooManyValues where an attribute can't be split exactly. */
  constructor(of: WorldOf) {
    const { catalogue, membership, audiences, used, conditions = [], given = [], stated = [] } = of;
    this.catalogue = catalogue;
    this.membership = membership;
    this.channel = of.channel;
    this.instant = of.instant;
    this.today = localDay(of.instant, catalogue.zone);
    this.hasItem = of.hasItem ?? false;
    this.audiences = new Map(audiences.map((audience) => [audience.id, audience]));
    const asked: Condition[] = [...conditions, ...given];
    for (const id of used) {
      const audience = this.audiences.get(id);
      if (audience && !membership.problems.has(id)) asked.push(audience.condition);
    }
    const tests = new AskedTests(catalogue, (id) =>
      membership.problems.has(id) ? undefined : this.audiences.get(id)?.condition,
    );
    for (const condition of asked) tests.collect(condition);
    const facts = builtinFacts.filter((fact) =>
      [...leavesOf(fact)].every((leaf) => leaf.kind === 'test' && tests.byAttribute.has(leaf.attribute)),
    );
    const kept = bearingOn(stated, new Set(tests.byAttribute.keys())).map(keeping);
    for (const fact of [...facts, ...kept]) tests.collect(fact);
    const { variables, possibleThen } = variablesOf(tests.byAttribute, catalogue, of.instant);
    this.variables = variables;
    this.levels = new Map(this.variables.map((variable, index) => [nameOf(variable), index + 1]));
    this.inventor = new Inventor(this.variables, catalogue, of.instant, this.hasItem);
    this.constraints = [...facts, ...given]
      .map((fact) => this.condition(fact))
      .concat(
        kept.map((fact) =>
          this.diagrams.or(this.only(stateLevel, states.indexOf('anonymous')), this.condition(fact)),
        ),
      )
      .concat(
        this.variables.flatMap((variable) => (variable.kind === 'same' ? [this.sameness(variable)] : [])),
      )
      .concat(this.momentsAndDates(possibleThen));
    this.possible = this.constraints.reduce<Diagram>(
      (possible, constraint) => this.diagrams.and(possible, constraint),
      this.freeViewers(),
    );
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

  /** A diagram as it is in one state of knowing: no longer about the state, nor about what is missing in it. */
  inState(diagram: Diagram, state: number): Diagram {
    return this.diagrams.restrict(this.diagrams.at(diagram, stateLevel, state), `state ${state}`, (level) =>
      this.isMissing(level, state) ? 0 : undefined,
    );
  }

  /** An invented viewer of an assignment: cells by level, anything not assigned missing. */
  viewer(cells: ReadonlyMap<number, number>): Viewer {
    return this.inventor.viewer(
      cells,
      states[cells.get(stateLevel) ?? this.openStates[0] ?? 0] ?? 'anonymous',
    );
  }

  /** The cell that a viewer's value falls into, for each variable by level. */
  placeOf(facts: Facts): Map<number, number> {
    const place = new Map([[stateLevel, states.indexOf(this.stateOf(facts))]]);
    for (const [index, variable] of this.variables.entries()) {
      if (variable.kind === 'same') {
        const [own, other] = [this.factOf(facts, variable.attribute), this.factOf(facts, variable.other)];
        place.set(index + 1, own !== undefined && own === other ? 1 : 0);
        continue;
      }
      const fact = variable.kind === 'moment' ? 0 : this.factOf(facts, variable.attribute);
      const outcomes = variable.tests.map((test) =>
        plan(test, this.catalogue, () => undefined)(facts, () => false),
      );
      const missing = variable.kind === 'attribute' && fact === undefined;
      const cell = variable.cells.findIndex((own, at) =>
        missing
          ? at === 0
          : (at > 0 || variable.kind === 'moment') &&
            own.outcomes.every((holds, test) => holds === outcomes[test]),
      );
      place.set(index + 1, Math.max(0, cell));
    }
    return place;
  }

  /** What a level's cell stands for. */
  meaning(level: number, cell: number): CellMeaning {
    const variable = this.variables[level - 1];
    if (!variable) return { state: states[cell] ?? 'anonymous' };
    if (variable.kind === 'moment') return { moment: this.inventor.momentAt(cell) };
    if (variable.kind === 'same')
      return { attribute: variable.attribute, sameAs: variable.other, is: cell === 1 };
    const own = variable.cells[cell];
    const fact = own && this.inventor.factAt(variable, own, this.instant);
    const value = fact === undefined ? undefined : valueOfFact(variable.attribute, fact);
    return { attribute: variable.attribute, value };
  }

  /** The viewers, possible or not, with one cell of a level. */
  only(level: number, cell: number): Diagram {
    const branches: Diagram[] = [];
    for (let at = 0; at < this.widthOf(level); at++) branches.push(at === cell ? always : never);
    return this.diagrams.node(level, branches);
  }

  /** How many cells a level's variable has. */
  widthOf(level: number): number {
    const variable = this.variables[level - 1];
    if (!variable) return states.length;
    return variable.kind === 'same' ? 2 : variable.cells.length;
  }

  /** Some cells of a level in words, such as "membership tier is Midnight" or "no city"; undefined where words fail. */
  sayCells(level: number, cells: ReadonlySet<number>): string | undefined {
    if (level === stateLevel) return sayStates(cells);
    const variable = this.variables[level - 1];
    return variable && sayCells(variable, cells, this.catalogue);
  }

  private stateOf(facts: Facts): State {
    if (facts.values[this.catalogue.indexOf('signed-in') ?? -1] === true) return 'signed-in';
    const known = this.variables.some(
      (variable) =>
        variable.kind === 'attribute' &&
        variable.attribute.source === 'contact' &&
        this.factOf(facts, variable.attribute) !== undefined,
    );
    // Without any value it makes no difference to a test whether somebody is anonymous or recognised.
    return known || this.channel === 'email' ? 'recognised' : 'anonymous';
  }

  private factOf(facts: Facts, attribute: Attribute): Fact {
    return facts.values[this.catalogue.indexOf(attribute.id) ?? -1];
  }

  private test(test: Test): Diagram {
    const attribute = this.catalogue.get(test.attribute);
    if (attribute?.source === 'sign-in') {
      if (test.op === 'has-value' || test.op === 'has-no-value')
        return test.op === 'has-value' ? always : never;
      return this.cellsNode(
        stateLevel,
        states.map((state) => (state === 'signed-in') === (test.op === 'is-yes')),
      );
    }
    if (test.op === 'includes-own') return this.condition(spelledOut(test, this.catalogue));
    if (test.op === 'same-as')
      return this.cellsNode(this.levelOf(`${test.attribute} = ${test.values[0]}`, test), [false, true]);
    const level = this.levelOf(attribute?.source === 'moment' ? momentName : test.attribute, test);
    const variable = this.variables[level - 1];
    if (!variable || variable.kind === 'same') throw notMadeFor(test);
    const key = keyOf(test);
    const at = variable.tests.findIndex((own) => own.attribute === test.attribute && keyOf(own) === key);
    if (at < 0) throw notMadeFor(test);
    const holds: boolean[] = [];
    for (const cell of variable.cells) holds.push(cell.outcomes[at] ?? false);
    return this.cellsNode(level, holds);
  }

  private cellsNode(level: number, holds: readonly boolean[]): Diagram {
    const branches: Diagram[] = [];
    for (const is of holds) branches.push(is ? always : never);
    return this.diagrams.node(level, branches);
  }

  private levelOf(name: string, test: Test): number {
    const level = this.levels.get(name);
    if (level === undefined) throw notMadeFor(test);
    return level;
  }

  /** Whether an attribute is missing in a state, whatever else is so. */
  private isMissing(level: number, state: number): boolean {
    const variable = this.variables[level - 1];
    if (!variable || variable.kind === 'moment') return false;
    if (variable.kind === 'same' && this.isMissingSource(variable.other.source, state)) return true;
    return this.isMissingSource(variable.attribute.source, state);
  }

  private isMissingSource(source: Attribute['source'], state: number): boolean {
    if (source === 'contact') return states[state] === 'anonymous';
    if (source === 'visit') return this.channel === 'email';
    return source === 'item' && !this.hasItem;
  }

  /** Viewers as far as their state says what is missing. */
  private freeViewers(): Diagram {
    const open = new Set(this.openStates);
    return this.diagrams.node(
      stateLevel,
      states.map((_, state) => (open.has(state) ? this.freeInState(state) : never)),
    );
  }

  private freeInState(state: number): Diagram {
    let below: Diagram = always;
    for (let level = this.variables.length; level > 0; level--) {
      const variable = this.variables[level - 1];
      if (!variable || !this.isMissing(level, state)) continue;
      const branches: Diagram[] = [below];
      const width = variable.kind === 'same' ? 2 : variable.cells.length;
      while (branches.length < width) branches.push(never);
      below = this.diagrams.node(level, branches);
    }
    return below;
  }

  /** Which cells dates can be in at each moment, where they are compared both with fixed days and with today. */
  private momentsAndDates(possibleThen: Variables['possibleThen']): Diagram[] {
    const { diagrams, variables } = this;
    const [first] = variables;
    if (
      first?.kind !== 'moment' ||
      !variables.some((variable) => variable.kind === 'attribute' && variable.tied)
    )
      return [];
    const then = (moment: number): Diagram => {
      let below: Diagram = always;
      for (let level = variables.length; level > 1; level--) {
        const variable = variables[level - 1];
        const allowed = variable && possibleThen(moment, variable);
        const next = below;
        if (allowed)
          below = diagrams.node(
            level,
            allowed.map((is) => (is ? next : never)),
          );
      }
      return below;
    };
    return [
      diagrams.node(
        1,
        first.cells.map((_, moment) => then(moment)),
      ),
    ];
  }

  /** The same text lies in the same cell and is there; a cell that holds one text only holds the same one. */
  private sameness(variable: SameVariable): Diagram {
    const { diagrams } = this;
    const [own, other] = [
      this.levels.get(variable.attribute.id) ?? 0,
      this.levels.get(variable.other.id) ?? 0,
    ];
    const level = this.levels.get(nameOf(variable)) ?? 0;
    const cells = this.variables[own - 1];
    if (cells?.kind !== 'attribute') return always;
    const width = cells.cells.length;
    const only = (at: number, cell: number) =>
      diagrams.node(
        at,
        Array.from({ length: width }, (_, index) => (index === cell ? always : never)),
      );
    let together: Diagram = never;
    let oneText: Diagram = never;
    for (let cell = 1; cell < width; cell++) {
      const both = diagrams.and(only(own, cell), only(other, cell));
      together = diagrams.or(together, both);
      const fact = cells.cells[cell]?.fact;
      const alone = cells.tests.some((test) => {
        const { question } = meaningOf(test, cells.attribute, this.catalogue);
        return question.kind === 'among' && question.values.size === 1 && question.values.has(String(fact));
      });
      if (alone) oneText = diagrams.or(oneText, both);
    }
    const is = diagrams.node(level, [never, always]);
    return diagrams.and(diagrams.or(diagrams.not(is), together), diagrams.or(is, diagrams.not(oneText)));
  }
}

function notMadeFor({ attribute, op }: Test): Error {
  return new Error(`the world was not made for ${attribute} ${op}`);
}
