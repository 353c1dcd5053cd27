import type { Attribute, Value } from '../attributes/attribute.ts';
import { localDay } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { fold } from '../attributes/text-folding.ts';
import { type Fact, type Facts, type Viewer, valueOfFact } from '../attributes/viewer.ts';
import type { Audience } from '../audiences/audience.ts';
import { bearingOn, keeping, type StatedFact } from '../audiences/fact.ts';
import { builtinFacts } from '../conditions/builtin-facts.ts';
import { type Condition, leavesOf, type Test } from '../conditions/condition.ts';
import { meaningOf } from '../conditions/meaning.ts';
import type { Membership } from '../deciding/membership.ts';
import type { Channel } from '../documents/document.ts';
import { always, type Diagram, Diagrams, never } from './diagrams/diagrams.ts';
import { Work } from './diagrams/work.ts';
import { TiedDateDomain } from './domains/dates.ts';
import type { Domain, Levels, Variable } from './domains/domain.ts';
import { TextDomain } from './domains/texts.ts';
import { type Moments, momentsFrom } from './moments.ts';
import { type State, sayStates, states } from './states.ts';
import { AskedTests, domainsOf, keyOf, type Pair, spelledOut } from './variables.ts';

/** The states of knowing a viewer are the cells of the first level, moments those of the second where they matter. */
const stateLevel = 0;
const momentLevel = 1;

/** Something about a viewer that could be otherwise, with what it would be; `value` undefined means: no value. */
export type Trait =
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
  /** What holds for everybody who gets here, such as a page's access. */
  readonly given?: readonly Condition[];
  /** What is stated to hold for every contact; only sound facts may be given. */
  readonly stated?: readonly StatedFact[] | undefined;
  /** Whether an item is shown, so that its fields may have values. */
  readonly hasItem?: boolean;
  /** What working things out may take; without a limit unless given. */
  readonly work?: Work;
  /** Whether to include what may be after the time that is looked at, see {@link World.horizon}. */
  readonly beyond?: boolean;
}

/** A variable of the world: what it says, and the cell of it that a viewer is in. */
interface Level extends Variable {
  /** The domain it belongs to; undefined for the moment and for texts that are compared with each other. */
  readonly domain: Domain | undefined;
  readonly pair: Pair | undefined;
}

/**
 * Every viewer that there can be from now on, as far as some audiences tell them apart: the state of knowing, the moment,
 * and the cells of each attribute that is tested. Whoever is anonymous has no contact attribute; whoever reads mail is
 * recognised and has no visit; without an item its fields are missing.
 */
export class World {
  readonly diagrams: Diagrams;
  /** True for the viewers that there can be here. */
  readonly possible: Diagram;
  /** True for the viewers that there can be, whether or not they meet what is given here. */
  readonly anywhere: Diagram;
  /** What ties variables to each other; every viewer there can be is in all of these. */
  readonly constraints: readonly Diagram[];
  readonly channel: Channel;
  readonly instant: number;
  readonly work: Work;
  private readonly catalogue: Catalogue;
  private readonly membership: Membership;
  private readonly hasItem: boolean;
  private readonly audiences: ReadonlyMap<string, Audience>;
  private readonly compiled = new Map<string, Diagram>();
  private readonly answered = new Map<string, Diagram>();
  private readonly domains: ReadonlyMap<string, Domain>;
  private readonly levels: readonly Level[];
  private readonly levelOfVariable = new Map<Variable, number>();
  private readonly firstLevel = new Map<Domain, number>();
  private readonly pairLevels = new Map<string, number>();
  private readonly moments: Moments | undefined;
  private readonly momentTests: ReadonlyMap<string, number>;
  private readonly asLevels: Levels;

  /**
   * Throws TooManyValues where an attribute can't be split exactly, and OutOfWork where that takes more than it may.
   */
  constructor(of: WorldOf) {
    const { catalogue, membership, audiences, used, conditions = [], given = [], stated = [] } = of;
    this.catalogue = catalogue;
    this.membership = membership;
    this.channel = of.channel;
    this.instant = of.instant;
    this.hasItem = of.hasItem ?? false;
    this.work = of.work ?? new Work();
    this.diagrams = new Diagrams(this.work);
    this.audiences = new Map(audiences.map((audience) => [audience.id, audience]));
    const tests = new AskedTests(catalogue, (id) =>
      membership.problems.has(id) ? undefined : this.audiences.get(id)?.condition,
    );
    for (const condition of [...conditions, ...given]) tests.collect(condition);
    for (const audience of used) tests.collect({ kind: 'audience', audience });
    const facts = builtinFacts.filter((fact) =>
      [...leavesOf(fact)].every((leaf) => leaf.kind === 'test' && tests.byAttribute.has(leaf.attribute)),
    );
    const kept = bearingOn(stated, new Set(tests.byAttribute.keys())).map(keeping);
    for (const fact of [...facts, ...kept]) tests.collect(fact);
    const { domains, momentTests, pairs } = domainsOf(tests.byAttribute, catalogue, this.work);
    this.domains = new Map(domains.map((domain) => [domain.attribute.id, domain]));
    const tied = domains.filter((domain) => domain instanceof TiedDateDomain);
    this.moments =
      momentTests.length > 0 || tied.length > 0
        ? momentsFrom(momentTests, catalogue, of.instant, tied, this.work, of.beyond)
        : undefined;
    this.momentTests = new Map(momentTests.map((test, at) => [`${test.attribute} ${keyOf(test)}`, at]));
    this.levels = this.layOut(domains, pairs);
    this.asLevels = {
      diagrams: this.diagrams,
      levelOf: (variable) => this.levelOfVariable.get(variable) ?? 0,
    };
    const lasting = [
      ...facts.map((fact) => this.condition(fact)),
      ...kept.map((fact) =>
        this.diagrams.or(this.only(stateLevel, states.indexOf('anonymous')), this.condition(fact)),
      ),
      ...domains.flatMap((domain) => domain.constraints(this.asLevels)),
      ...pairs.map((pair) => this.sameness(pair)),
      ...tied.map((domain) => this.tieToMoment(domain)),
    ];
    const here = given.map((condition) => this.condition(condition));
    this.constraints = [...lasting, ...here];
    this.anywhere = this.diagrams.all([this.freeViewers(), ...lasting]);
    this.possible = this.diagrams.all([this.anywhere, ...here]);
  }

  /**
   * The end of the time that was looked at, where windows recur in ways that may bring something new after it; undefined
   * where what is proved holds for good.
   */
  get horizon(): number | undefined {
    return this.moments?.horizon;
  }

  /** The states in which somebody can see the document. */
  get openStates(): readonly number[] {
    return this.channel === 'email' ? [states.indexOf('recognised')] : states.map((_, index) => index);
  }

  /** The viewers in an audience, among all that there can be or not. An audience with an error contains nobody. */
  audience(id: string): Diagram {
    const found = this.compiled.get(id);
    if (found !== undefined) return found;
    const made = this.condition(this.conditionOf(id));
    this.compiled.set(id, made);
    return made;
  }

  /** What an audience asks; nobody for one with an error. */
  conditionOf(id: string): Condition {
    const audience = this.audiences.get(id);
    return audience && !this.membership.problems.has(id) ? audience.condition : { kind: 'any', of: [] };
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
        return diagrams.all(condition.of.map((part) => this.condition(part)));
      case 'any':
        return diagrams.any(condition.of.map((part) => this.condition(part)));
    }
  }

  /** A diagram restricted to possible viewers. */
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
    const state = states[cells.get(stateLevel) ?? this.openStates[0] ?? 0] ?? 'anonymous';
    const instant = this.moments ? this.momentAt(cells.get(momentLevel) ?? 0) : this.instant;
    const values: { [source: string]: { [id: string]: Value } } = { contact: {}, visit: {}, item: {} };
    for (const domain of this.domains.values()) {
      const own = values[domain.attribute.source];
      const fact = this.factAt(domain, cells, instant);
      if (own && fact !== undefined) own[domain.attribute.id] = valueOfFact(domain.attribute, fact);
    }
    const { contact = {}, visit = {}, item = {} } = values;
    return {
      contact: state === 'anonymous' ? null : contact,
      signedIn: state === 'signed-in',
      visit,
      item: this.hasItem ? item : null,
      instant,
    };
  }

  /** The cell that a viewer's value falls into, for each variable by level. */
  placeOf(facts: Facts): Map<number, number> {
    const place = new Map([[stateLevel, states.indexOf(this.stateOf(facts))]]);
    if (this.moments) place.set(momentLevel, 0);
    for (const [domain, first] of this.firstLevel)
      for (const [at, cell] of domain
        .place(this.factOf(facts, domain.attribute), { day: facts.today })
        .entries())
        place.set(first + at, cell);
    for (const [at, { pair }] of this.levels.entries())
      if (pair) {
        const { attribute, other } = pair;
        const [one, two] = [this.factOf(facts, attribute), this.factOf(facts, other)];
        const isSame = typeof one === 'string' && typeof two === 'string' && fold(one) === fold(two);
        place.set(at + 1, isSame ? 1 : 0);
      }
    return place;
  }

  /** What an assignment says about a viewer at some levels, each attribute once. */
  traits(levels: Iterable<number>, cells: ReadonlyMap<number, number>): Trait[] {
    const instant = this.moments ? this.momentAt(cells.get(momentLevel) ?? 0) : this.instant;
    const said = new Set<Domain>();
    const traits: Trait[] = [];
    for (const level of levels) {
      const cell = cells.get(level) ?? 0;
      const own = this.levels[level - 1];
      if (level === stateLevel) traits.push({ state: states[cell] ?? 'anonymous' });
      else if (own?.pair)
        traits.push({ attribute: own.pair.attribute, sameAs: own.pair.other, is: cell === 1 });
      else if (own?.domain) {
        const { domain } = own;
        if (said.has(domain)) continue;
        said.add(domain);
        const fact = this.factAt(domain, cells, instant);
        const value = fact === undefined ? undefined : valueOfFact(domain.attribute, fact);
        traits.push({ attribute: domain.attribute, value });
      } else traits.push({ moment: instant });
    }
    return traits;
  }

  /** The levels that belong to one attribute with a level, in order; a level of its own for anything else. */
  fellowsOf(level: number): readonly number[] {
    const domain = this.levels[level - 1]?.domain;
    const first = domain && this.firstLevel.get(domain);
    return domain && first !== undefined ? domain.variables.map((_, at) => first + at) : [level];
  }

  /** The viewers, possible or not, with one cell of a level. */
  only(level: number, cell: number): Diagram {
    return this.diagrams.range(level, this.widthOf(level), cell, cell + 1);
  }

  /** How many cells a level's variable has. */
  widthOf(level: number): number {
    return level === stateLevel ? states.length : (this.levels[level - 1]?.width ?? 0);
  }

  /** Some cells of a level in words, such as "membership tier is Midnight"; undefined where words fail. */
  sayCells(level: number, cells: ReadonlySet<number>): string | undefined {
    return level === stateLevel ? sayStates(cells) : this.levels[level - 1]?.say(cells);
  }

  /** The attributes that some levels are about. */
  attributesOf(levels: Iterable<number>): Set<string> {
    const found = new Set<string>();
    for (const level of levels) {
      const own = this.levels[level - 1];
      for (const one of [own?.domain?.attribute, own?.pair?.attribute, own?.pair?.other])
        if (one) found.add(one.id);
    }
    return found;
  }

  /** Whether it can be asked if an attribute has a value. */
  tells(attribute: string): boolean {
    return this.domains.has(attribute);
  }

  /** The source of the attribute that a level is about; undefined for the state and the moment. */
  sourceOf(level: number): Attribute['source'] | undefined {
    const own = this.levels[level - 1];
    return own?.domain?.attribute.source ?? own?.pair?.attribute.source;
  }

  /** The instant that a cell of the moment stands for. */
  momentAt(cell: number): number {
    const { cells = [], later = [] } = this.moments ?? {};
    return (cells[cell] ?? later[cell - cells.length])?.instant ?? this.instant;
  }

  /** The first instant from now on at which there is a viewer in a diagram; undefined where there never is. */
  firstMoment(who: Diagram): number | undefined {
    if (who === never) return undefined;
    if (!this.moments) return this.instant;
    const { diagrams } = this;
    let first: number | undefined;
    const below = diagrams.runsOf(who).map(({ next }) => next);
    for (const branch of diagrams.levelOf(who) === stateLevel ? below : [who]) {
      if (branch === never) continue;
      if (diagrams.levelOf(branch) !== momentLevel) return this.instant;
      for (const [cell, { instant }] of this.moments.cells.entries())
        if ((first === undefined || instant < first) && diagrams.at(branch, momentLevel, cell) !== never)
          first = instant;
    }
    return first;
  }

  private layOut(domains: readonly Domain[], pairs: readonly Pair[]): Level[] {
    const levels: Level[] = [];
    const put = (variable: Variable, domain: Domain | undefined, pair: Pair | undefined) => {
      levels.push({ width: variable.width, say: (cells) => variable.say(cells), domain, pair });
      this.levelOfVariable.set(variable, levels.length);
    };
    if (this.moments)
      put(
        { width: this.moments.cells.length + this.moments.later.length, say: () => undefined },
        undefined,
        undefined,
      );
    for (const domain of domains) {
      this.firstLevel.set(domain, levels.length + 1);
      for (const variable of domain.variables) put(variable, domain, undefined);
    }
    for (const pair of pairs) {
      const name = pairName(pair);
      if (this.pairLevels.has(name)) continue;
      put({ width: 2, say: () => undefined }, undefined, pair);
      this.pairLevels.set(name, levels.length);
    }
    return levels;
  }

  private factAt(domain: Domain, cells: ReadonlyMap<number, number>, instant: number): Fact {
    const first = this.firstLevel.get(domain) ?? 0;
    const own = domain.variables.map((_, at) => cells.get(first + at) ?? 0);
    const isOther = [...this.pairLevels.values()].some(
      (level) => this.levels[level - 1]?.pair?.attribute === domain.attribute && cells.get(level) !== 1,
    );
    return domain.invent(own, { day: localDay(instant, this.catalogue.zone) }, isOther);
  }

  private stateOf(facts: Facts): State {
    if (facts.at(this.catalogue.indexOf('signed-in') ?? -1) === true) return 'signed-in';
    const isKnown = [...this.domains.values()].some(
      ({ attribute }) => attribute.source === 'contact' && this.factOf(facts, attribute) !== undefined,
    );
    // Without any value it makes no difference to a test whether somebody is anonymous or recognised.
    return isKnown || this.channel === 'email' ? 'recognised' : 'anonymous';
  }

  private factOf(facts: Facts, attribute: Attribute): Fact {
    return facts.at(this.catalogue.indexOf(attribute.id) ?? -1);
  }

  private test(test: Test): Diagram {
    const attribute = this.catalogue.get(test.attribute);
    if (!attribute) throw notMadeFor(test);
    if (attribute.source === 'sign-in') return this.signIn(test);
    if (test.op === 'includes-own') return this.condition(spelledOut(test, this.catalogue));
    const key = `${test.attribute} ${keyOf(test)}`;
    const found = this.answered.get(key);
    if (found !== undefined) return found;
    const made = this.answer(test, attribute, key);
    this.answered.set(key, made);
    return made;
  }

  private answer(test: Test, attribute: Attribute, key: string): Diagram {
    const { diagrams } = this;
    if (test.op === 'same-as') {
      const level = this.pairLevels.get(`${test.attribute} ${test.values[0]}`);
      if (level === undefined) throw notMadeFor(test);
      return this.only(level, 1);
    }
    if (attribute.source === 'moment') {
      const at = this.momentTests.get(key);
      if (at === undefined || !this.moments) throw notMadeFor(test);
      const cells = [...this.moments.cells, ...this.moments.later];
      return diagrams.cells(momentLevel, cells.length, (cell) => cells[cell]?.outcomes[at] === true);
    }
    const domain = this.domains.get(attribute.id);
    if (!domain) throw notMadeFor(test);
    const { negated, question } = meaningOf(test, attribute, this.catalogue);
    const holds = domain.answer(question, this.asLevels);
    return negated ? diagrams.not(holds) : holds;
  }

  private signIn({ op }: Test): Diagram {
    if (op === 'has-value' || op === 'has-no-value') return op === 'has-value' ? always : never;
    return this.diagrams.cells(
      stateLevel,
      states.length,
      (state) => (states[state] === 'signed-in') === (op === 'is-yes'),
    );
  }

  /** Whether an attribute is missing in a state, whatever else is so. */
  private isMissing(level: number, state: number): boolean {
    const own = this.levels[level - 1];
    if (own?.pair)
      return (
        this.isMissingSource(own.pair.attribute.source, state) ||
        this.isMissingSource(own.pair.other.source, state)
      );
    return own?.domain ? this.isMissingSource(own.domain.attribute.source, state) : false;
  }

  private isMissingSource(source: Attribute['source'], state: number): boolean {
    if (source === 'contact') return states[state] === 'anonymous';
    if (source === 'visit') return this.channel === 'email';
    return source === 'item' && !this.hasItem;
  }

  /** Viewers in any open state of knowing, with the values that this state allows. */
  private freeViewers(): Diagram {
    const open = new Set(this.openStates);
    return this.diagrams.node(
      stateLevel,
      states.map((_, state) => ({ end: state + 1, next: open.has(state) ? this.freeInState(state) : never })),
    );
  }

  private freeInState(state: number): Diagram {
    let below: Diagram = always;
    for (let level = this.levels.length; level > 0; level--) {
      if (!this.isMissing(level, state)) continue;
      const width = this.widthOf(level);
      below = this.diagrams.node(level, [
        { end: 1, next: below },
        ...(width > 1 ? [{ end: width, next: never }] : []),
      ]);
    }
    return below;
  }

  /** What a date that is compared in several ways can be at each moment. */
  private tieToMoment(domain: TiedDateDomain): Diagram {
    const { cells = [], later = [] } = this.moments ?? {};
    const known = new Map<string, Diagram>();
    const runs = cells.map(({ instant }, cell) => {
      const day = localDay(instant, this.catalogue.zone);
      const state = domain.stateOn(day);
      let next = known.get(state);
      if (next === undefined) {
        next = domain.possibleOn(day, this.asLevels);
        known.set(state, next);
      }
      return { end: cell + 1, next };
    });
    if (later.length > 0) runs.push({ end: cells.length + later.length, next: always });
    return this.diagrams.node(momentLevel, runs);
  }

  /** Two texts are equal if they are present and in the same cells; a cell of a single text decides equality. */
  private sameness(pair: Pair): Diagram {
    const { diagrams } = this;
    const [own, other] = [this.domains.get(pair.attribute.id), this.domains.get(pair.other.id)];
    const level = this.pairLevels.get(pairName(pair));
    if (!(own instanceof TextDomain) || !(other instanceof TextDomain) || level === undefined) return always;
    const firsts = [own, other].map((domain) => this.firstLevel.get(domain) ?? 0);
    const both = (at: number, cell: number) =>
      diagrams.and(this.only((firsts[0] ?? 0) + at, cell), this.only((firsts[1] ?? 0) + at, cell));
    const alike = own.variables.map(({ width }, at) =>
      // A text that is there has a cell other than the first of the first variable.
      diagrams.any(
        Array.from({ length: width }, (_, cell) => (at === 0 && cell === 0 ? never : both(at, cell))),
      ),
    );
    const oneText = diagrams.any(Array.from({ length: own.otherCell - 1 }, (_, cell) => both(0, cell + 1)));
    const is = this.only(level, 1);
    return diagrams.and(
      diagrams.or(diagrams.not(is), diagrams.all(alike)),
      diagrams.or(is, diagrams.not(oneText)),
    );
  }
}

function pairName({ attribute, other }: Pair): string {
  return `${attribute.id} ${other.id}`;
}

function notMadeFor({ attribute, op }: Test): Error {
  return new Error(`the world was not made for ${attribute} ${op}`);
}
