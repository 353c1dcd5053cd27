import type { Catalogue } from '../attributes/catalogue.ts';
import { FactReader, type Facts, type Viewer } from '../attributes/viewer.ts';
import { keeping, type StatedFact } from '../audiences/fact.ts';
import { builtinFacts } from '../conditions/builtin-facts.ts';
import type { Condition } from '../conditions/condition.ts';
import { compile, type Predicate } from '../conditions/evaluate.ts';
import type { Membership } from '../deciding/membership.ts';
import type { Diagram } from './diagrams/diagrams.ts';
import type { World } from './world.ts';

/** A viewer who was made up, and the attributes that matter for what it was made up for. */
export interface Example {
  readonly viewer: Viewer;
  readonly about: ReadonlySet<string>;
}

/** How many examples of an audience are made, and how many are kept at most. */
const made = 4;
const most = 24;
/** How many different ones audiences are asked with at most; all with the newest then. */
const mostMemberships = 20;
/** How many viewers are put together from an example of one audience and one of those outside of another. */
const tries = 4;

interface Witness extends Example {
  readonly facts: Facts;
  /** Whether the viewer is in an audience, for the audiences that were asked about. */
  readonly isIn: Map<string, boolean>;
}

/** Any viewer among some; undefined where there is none. */
export function exampleOf(who: Diagram, world: World, random?: () => number): Example | undefined {
  const cells = world.diagrams.example(who, random);
  return cells && { viewer: world.viewer(cells), about: world.attributesOf(cells.keys()) };
}

/** Makes up some viewers who meet a condition. Its attributes must be in the world. */
export function examplesOf(condition: Condition, world: World): Example[] {
  const random = numbers();
  const who = world.possibly(world.condition(condition));
  return Array.from({ length: made }, (_, at) => exampleOf(who, world, at === 0 ? undefined : random)).filter(
    (one) => one !== undefined,
  );
}

/** Numbers from 0 to below 1, the same ones each time (minimal standard; Park and Miller 1988). */
function numbers(seed = 1): () => number {
  let state = seed;
  return () => {
    state = (state * 48_271) % 2_147_483_647;
    return state / 2_147_483_647;
  };
}

/**
 * Invented viewers who are in an audience, for each of some audiences. Whoever is in one and not in another shows that the
 * one is not part of the other, so that this needs no proof.
 */
export class Witnesses {
  private readonly byAudience = new Map<string, Witness[]>();
  private readonly outside = new Map<string, readonly Example[]>();
  /** By audience. One that means the same as before keeps the one it has, which is compiled already. */
  private readonly memberships = new Map<string, Membership>();
  private meanings: ReadonlyMap<string, unknown> = new Map();
  private readonly ofContacts: readonly Predicate[];
  private readonly ofAll: readonly Predicate[];

  private readonly reader: FactReader;

  constructor(catalogue: Catalogue, stated: readonly StatedFact[]) {
    this.reader = new FactReader(catalogue);
    this.ofContacts = stated.map((fact) => compile(keeping(fact), catalogue));
    this.ofAll = builtinFacts.map((fact) => compile(fact, catalogue));
  }

  /**
   * Turns to the audiences as they are now. What is known of those that mean something else than before is forgotten.
   *
   * @param membership made with the same catalogue
   * @param meanings what each audience means, by its id; those with an error are left out
   */
  follow(membership: Membership, meanings: ReadonlyMap<string, unknown>): void {
    const changed = [...this.meanings].flatMap(([id, meaning]) => (meanings.get(id) === meaning ? [] : [id]));
    this.meanings = meanings;
    for (const id of changed) this.memberships.delete(id);
    if (new Set(this.memberships.values()).size >= mostMemberships) this.memberships.clear();
    for (const id of meanings.keys()) if (!this.memberships.has(id)) this.memberships.set(id, membership);
    for (const id of changed) {
      this.byAudience.delete(id);
      this.outside.delete(id);
    }
    for (const witnesses of this.byAudience.values())
      for (const { isIn } of witnesses) for (const id of changed) isIn.delete(id);
  }

  /** Keeps some who are in an audience, where nobody is known to be. */
  begin(audience: string, examples: readonly Example[]): void {
    if (!this.byAudience.has(audience)) for (const example of examples) this.add(audience, example);
  }

  /** Keeps an example of those who are in an audience. */
  add(audience: string, example: Example): void {
    const own = this.of(audience);
    const facts = own.length < most ? this.possible(example.viewer) : undefined;
    if (!facts) return;
    if (!this.isIn(audience, facts)) return;
    own.push({ ...example, facts, isIn: new Map() });
    this.byAudience.set(audience, own);
  }

  /**
   * The audiences of some that all who are known to be in one audience are in.
   *
   * @param outsideOf makes up some who are not in an audience
   */
  around(
    audience: string,
    others: readonly string[],
    outsideOf: (audience: string) => readonly Example[],
  ): string[] {
    let left = [...others];
    for (const witness of this.of(audience)) {
      if (left.length === 0) break;
      left = this.containing(witness, left);
    }
    return left.filter((other) => {
      const outside = this.outside.get(other) ?? outsideOf(other);
      this.outside.set(other, outside);
      return !this.isApart(audience, other, outside);
    });
  }

  private of(audience: string): Witness[] {
    return this.byAudience.get(audience) ?? [];
  }

  private containing({ facts, isIn }: Witness, audiences: readonly string[]): string[] {
    const looking = new Set<Membership>();
    return audiences.filter((id) => {
      let found = isIn.get(id);
      if (found === undefined) {
        const membership = this.memberships.get(id);
        if (membership && !looking.has(membership)) membership.lookAs(facts);
        if (membership) looking.add(membership);
        found = membership?.containsViewer(id) ?? false;
        isIn.set(id, found);
      }
      return found;
    });
  }

  /** Whether somebody in one audience and not in another can be put together from examples. */
  private isApart(audience: string, other: string, outside: readonly Example[]): boolean {
    const own = this.of(audience);
    if (own.length === 0 || outside.length === 0) return false;
    for (let at = 0; at < tries; at++) {
      const [inner, outer] = [own[at % own.length], outside[at % outside.length]];
      if (!inner || !outer) continue;
      const both = at % 2 === 0 ? joined(inner, outer) : joined(outer, inner);
      const facts = this.possible(both.viewer);
      if (!facts) continue;
      if (this.isIn(audience, facts) && !this.isIn(other, facts)) return true;
    }
    return false;
  }

  private isIn(audience: string, facts: Facts): boolean {
    const membership = this.memberships.get(audience);
    membership?.lookAs(facts);
    return membership?.containsViewer(audience) ?? false;
  }

  /** The facts of a viewer, or undefined if no such viewer is possible: data rules may demand values that were not invented. */
  private possible(viewer: Viewer): Facts | undefined {
    const facts = this.reader.read(viewer);
    for (const holds of this.ofAll) if (!holds(facts)) return undefined;
    if (viewer.contact !== null) for (const holds of this.ofContacts) if (!holds(facts)) return undefined;
    return facts;
  }
}

/** Combines two examples: values that the first is about stay, and values that only the second is about are added. */
function joined(first: Example, second: Example): Example {
  const [own, theirs] = [first.viewer, second.viewer];
  const among = [...second.about].filter((id) => !first.about.has(id));
  const about = new Set(first.about);
  for (const id of among) about.add(id);
  const viewer = {
    ...own,
    contact: own.contact && withValues(own.contact, theirs.contact, among),
    visit: withValues(own.visit, theirs.visit, among),
    item: own.item && withValues(own.item, theirs.item, among),
  };
  return { viewer, about };
}

/** Values with those of some attributes that somebody else has of them. */
function withValues(
  own: Viewer['visit'],
  theirs: Viewer['visit'] | null,
  attributes: readonly string[],
): Viewer['visit'] {
  const values = { ...own };
  for (const id of attributes) if (theirs?.[id] !== undefined) values[id] = theirs[id];
  return values;
}
