import { dequal } from 'dequal';
import { Catalogue } from '../attributes/catalogue.ts';
import type { StatedFact } from '../audiences/fact.ts';
import { soundFacts } from '../audiences/fact-problems.ts';
import { type Condition, inAudience } from '../conditions/condition.ts';
import { Membership } from '../deciding/membership.ts';
import type { Snapshot } from '../deciding/release.ts';
import { channelOf, type Document, slotsOf } from '../documents/document.ts';
import { audiencesOf } from '../documents/uses.ts';
import { conditionFindings } from './condition-findings.ts';
import { describeFaces, type FaceDescription } from './describe.ts';
import { type Limit, notProvedWithin, OutOfWork, Work } from './diagrams/work.ts';
import { type Draft, documentContext } from './document-context.ts';
import { documentDrafts, worded } from './document-findings.ts';
import { TooManyValues } from './domains/domain.ts';
import { type Face, facesOf, slotDiagrams } from './faces.ts';
import { type ConditionFinding, type DocumentFinding, type Names, sayInstant } from './finding.ts';
import { type Overlap, overlapsOf } from './overlaps.ts';
import { World, type WorldOf } from './world.ts';

/** A finding, and whether it is only so because of what was stated about the contacts. */
export type Relying<Finding> = Finding & { readonly relies: boolean };

export interface DocumentAnalysis {
  /** The first hundred are described; more would take longer than anybody reads. */
  readonly faces: readonly (Face & { readonly description: FaceDescription | undefined })[];
  /** False where there are more faces than listed. */
  readonly complete: boolean;
  readonly findings: readonly Relying<DocumentFinding>[];
  /** Variants of a slot that some viewer matches both of; undefined where that was not proved in time. */
  readonly overlaps: readonly Overlap[] | undefined;
  /** Why nothing could be proved; undefined when it could. */
  readonly refused: string | undefined;
}

export interface ConditionAnalysis {
  readonly findings: readonly Relying<ConditionFinding>[];
  readonly refused: string | undefined;
}

const mostDescribed = 100;
const noFaces = { faces: [], complete: false };

/** What is drafted, as far as proofs need it. */
export type Drafts = Pick<Snapshot, 'settings' | 'attributes' | 'audiences' | 'facts'>;

/**
 * Everything that is proved about one document as it stands, for every possible viewer from an instant on. What takes
 * longer than the limit is left out and said to be: faces as not complete, findings as not proved. Without a limit it may
 * take very long.
 */
export function analyseDocument(
  drafts: Drafts,
  document: Document,
  instant: number,
  limit: Limit = {},
): DocumentAnalysis {
  const nothing = { faces: [], complete: false, findings: [], overlaps: undefined };
  return orRefused(nothing, limit, () => {
    const { catalogue, membership, facts, names } = surroundings(drafts);
    const { content, kind, access, collection } = document;
    const work = new Work(limit);
    const used = new Set([...audiencesOf(content), ...(content.audiences ?? [])]);
    const worldOf = ({ stated, beyond }: Belief) =>
      new World({
        catalogue,
        membership,
        audiences: drafts.audiences,
        used,
        channel: channelOf(kind),
        instant,
        stated,
        beyond,
        // Whoever gets here passed the page's access.
        given: access ? [inAudience(access.audience)] : [],
        hasItem: Boolean(collection),
        work,
      });
    const world = worldOf({ stated: facts, beyond: false });
    const contextOf = (own: World) => documentContext(own, names, access, drafts.audiences, membership);
    const context = contextOf(world);
    // What is wrong comes first, then what can be seen, then how it is said and mended: each with time of its own.
    const found = work.within(work.share(0.45), () => documentDrafts(content, context)) ?? [];
    const { faces, complete } = work.within(work.share(0.25), () => facesOf(content, world)) ?? noFaces;
    const [slots, diagrams] = [slotsOf(content), work.within({}, () => slotDiagrams(content, world)) ?? []];
    const described = faces.slice(0, mostDescribed).map(({ choices }) => choices);
    const descriptions = describeFaces(described, slots, diagrams, world);
    const overlaps = work.within(work.share(0.1), () => overlapsOf(content, context));
    const keyOf = ({ kind: of, slot, variant, block }: Draft | DocumentFinding) =>
      [of, slot, variant, block].join('\n');
    const keysIn = (belief: Belief) => documentDrafts(content, contextOf(worldOf(belief))).map(keyOf);
    return {
      faces: faces.map((face, index) => ({ ...face, description: descriptions[index] })),
      complete,
      findings: qualified(worded(found, context), { world, keysIn, keyOf, facts, names }),
      overlaps,
    };
  });
}

/** Everything that is proved about a condition being written; `editing` is the audience it belongs to, if stored. */
export function analyseCondition(
  drafts: Drafts,
  condition: Condition,
  editing: string | null,
  instant: number,
  limit: Limit = {},
): ConditionAnalysis {
  return orRefused({ findings: [] }, limit, () => {
    const around = surroundings(drafts);
    const { catalogue, facts, names } = around;
    const isStored = drafts.audiences.some((one) => one.id === editing && dequal(one.condition, condition));
    const stored = drafts.audiences.filter((audience) => audience.id !== editing);
    const own = { id: editing ?? '\0new', name: '', description: '', condition };
    const audiences = isStored ? drafts.audiences : [...stored, own];
    const membership = isStored ? around.membership : new Membership(catalogue, audiences);
    if (membership.problems.has(own.id)) return { findings: [] };
    const others = stored.filter((audience) => !membership.problems.has(audience.id));
    const work = new Work(limit);
    const base = {
      catalogue,
      membership,
      audiences,
      channel: 'page',
      instant,
      hasItem: true,
    } as const;
    const worldFor = ({ stated, beyond }: Belief, conditions: readonly Condition[]) =>
      new World({
        ...base,
        used: [],
        conditions,
        stated,
        beyond,
        work,
      });
    const worldOf = (belief: Belief) => worldFor(belief, [condition]);
    const find = (belief: Belief) => (world: World) =>
      conditionFindings(condition, world, {
        others,
        membership,
        stated: belief.stated,
        names,
        worldOf: (conditions) => worldFor(belief, conditions),
      });
    const belief = { stated: facts, beyond: false };
    const found = work.within({}, () => {
      const world = worldOf(belief);
      return { world, findings: find(belief)(world) };
    });
    if (!found) return { findings: [notProved(limit)] };
    const keyOf = ({ kind, sentence }: ConditionFinding) => `${kind} ${sentence}`;
    return {
      findings: qualified(found.findings, {
        world: found.world,
        keysIn: (other) => find(other)(worldOf(other)).map(keyOf),
        keyOf,
        facts,
        names,
      }),
    };
  });
}

function notProved(limit: Limit): Relying<ConditionFinding> {
  return {
    kind: 'not-proved',
    severity: 'note',
    sentence: `${notProvedWithin(limit)}: whether anybody can be in it, and what of it matters.`,
    people: undefined,
    repairs: [],
    relies: false,
  };
}

/** What is taken for granted: what was stated about the contacts, and that nothing new comes after the horizon. */
type Belief = Required<Pick<WorldOf, 'stated' | 'beyond'>>;

interface Question<Finding> {
  readonly world: World;
  /** What is found with another belief, each as its key. */
  readonly keysIn: (belief: Belief) => string[];
  readonly keyOf: (finding: Finding) => string;
  readonly facts: readonly StatedFact[];
  readonly names: Names;
}

/**
 * Findings marked where they would not be found without what was stated about the contacts, and with the date up to which
 * they are proved where windows recur in ways that may bring something new later.
 */
function qualified<Finding extends { kind: string; sentence: string }>(
  found: readonly Finding[],
  { world, keysIn, keyOf, facts, names }: Question<Finding>,
): Relying<Finding>[] {
  const { work, horizon } = world;
  const foundIn = (belief: Belief): ReadonlySet<string> | undefined =>
    found.length === 0 ? new Set() : work.within({}, () => new Set(keysIn(belief)));
  const anyway = facts.length > 0 ? foundIn({ stated: [], beyond: false }) : undefined;
  const forGood = horizon === undefined ? undefined : (foundIn({ stated: facts, beyond: true }) ?? new Set());
  return found.map((one) => {
    const isForGood = forGood === undefined || forGood.has(keyOf(one)) || one.kind === 'not-proved';
    const until = isForGood || horizon === undefined ? '' : ` Proved up to ${sayInstant(horizon, names)}.`;
    return {
      ...one,
      sentence: one.sentence + until,
      relies: anyway !== undefined && !anyway.has(keyOf(one)),
    };
  });
}

interface Surroundings {
  readonly catalogue: Catalogue;
  readonly membership: Membership;
  readonly facts: readonly StatedFact[];
  readonly names: Names;
}

const known = new WeakMap<Drafts, Surroundings>();

/** What every question about some drafts is answered with, made once for them. */
function surroundings(drafts: Drafts): Surroundings {
  let found = known.get(drafts);
  if (!found) {
    const { attributes, audiences, settings, facts } = drafts;
    const catalogue = new Catalogue(attributes, settings.zone);
    const byId = new Map(audiences.map((audience) => [audience.id, audience.name]));
    found = {
      catalogue,
      membership: new Membership(catalogue, audiences),
      facts: soundFacts(facts, catalogue),
      names: { catalogue, audience: (id) => byId.get(id) },
    };
    known.set(drafts, found);
  }
  return found;
}

function orRefused<Found>(
  nothing: Found,
  limit: Limit,
  find: () => Found,
): Found & { refused: string | undefined } {
  try {
    return { ...find(), refused: undefined };
  } catch (error) {
    if (error instanceof TooManyValues) return { ...nothing, refused: error.message };
    if (error instanceof OutOfWork) return { ...nothing, refused: notProvedWithin(limit) };
    throw error;
  }
}
