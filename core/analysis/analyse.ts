import { Catalogue } from '../attributes/catalogue.ts';
import type { StatedFact } from '../audiences/fact.ts';
import { soundFacts } from '../audiences/fact-problems.ts';
import { type Condition, inAudience } from '../conditions/condition.ts';
import { Membership } from '../deciding/membership.ts';
import type { Snapshot } from '../deciding/release.ts';
import { channelOf, type Document } from '../documents/document.ts';
import { audiencesOf } from '../documents/uses.ts';
import { TooManyValues } from './cells.ts';
import { conditionFindings } from './condition-findings.ts';
import { describeFace, type FaceDescription } from './describe.ts';
import { never } from './diagrams.ts';
import { documentFindings } from './document-findings.ts';
import { type Face, facesOf, slotDiagrams } from './faces.ts';
import type { ConditionFinding, DocumentFinding } from './finding.ts';
import { World } from './world.ts';

/** A finding, and whether it is only so because of what was stated about the contacts. */
export type Relying<Finding> = Finding & { readonly relies: boolean };

export interface DocumentAnalysis {
  /** The first hundred are described; more would take longer than anybody reads. */
  readonly faces: readonly (Face & { readonly description: FaceDescription | undefined })[];
  /** False where there are more faces than listed. */
  readonly complete: boolean;
  readonly findings: readonly Relying<DocumentFinding>[];
  /** Why nothing could be proved; undefined when it could. */
  readonly refused: string | undefined;
}

export interface ConditionAnalysis {
  readonly findings: readonly Relying<ConditionFinding>[];
  readonly refused: string | undefined;
}

const mostDescribed = 100;

type Drafts = Pick<Snapshot, 'settings' | 'attributes' | 'audiences' | 'facts'>;

/** Everything that is proved about one document as it stands, for every possible viewer at an instant. */
export function analyseDocument(drafts: Drafts, document: Document, instant: number): DocumentAnalysis {
  return unlessTooMany({ faces: [], complete: false, findings: [] }, () => {
    const { catalogue, membership, facts } = surroundings(drafts);
    const { content, kind, access, collection } = document;
    const worldWith = (stated: readonly StatedFact[]) =>
      new World({
        catalogue,
        membership,
        audiences: drafts.audiences,
        used: audiencesOf(content),
        channel: channelOf(kind),
        instant,
        stated,
        // Whoever gets here passed the page's access.
        given: access ? [inAudience(access.audience)] : [],
        hasItem: Boolean(collection),
      });
    const world = worldWith(facts);
    const { faces, complete } = facesOf(content, world);
    const slots = slotDiagrams(content, world);
    const used = [...audiencesOf(content)].filter((id) => world.audience(id) !== never);
    return {
      faces: faces.map((face, index) => ({
        ...face,
        description: index < mostDescribed ? describeFace(face.choices, slots, used, world) : undefined,
      })),
      complete,
      findings: relyingOn(facts, worldWith, world, (own) =>
        documentFindings(content, own, { catalogue, audience: nameIn(drafts) }, drafts.audiences),
      ),
    };
  });
}

/** Everything that is proved about a condition being written; `editing` is the audience it belongs to, if stored. */
export function analyseCondition(
  drafts: Drafts,
  condition: Condition,
  editing: string | null,
  instant: number,
): ConditionAnalysis {
  return unlessTooMany({ findings: [] }, () => {
    const others = drafts.audiences.filter((audience) => audience.id !== editing);
    const { catalogue, facts } = surroundings(drafts);
    const own = { id: editing ?? '\0new', name: '', description: '', condition };
    const membership = new Membership(catalogue, [...others, own]);
    if (membership.problems.has(own.id)) return { findings: [] };
    const sound = others.filter((audience) => !membership.problems.has(audience.id));
    const ids = sound.map((audience) => audience.id);
    const worldWith = (stated: readonly StatedFact[]) =>
      new World({
        catalogue,
        membership,
        audiences: others,
        used: ids,
        channel: 'page',
        instant,
        conditions: [condition],
        stated,
        hasItem: true,
      });
    return {
      findings: relyingOn(facts, worldWith, worldWith(facts), (world) =>
        conditionFindings(condition, sound, world, { catalogue, audience: nameIn(drafts) }),
      ),
    };
  });
}

/** What is found in a world, marked where it would not be found without the facts that were stated. */
function relyingOn<Finding extends { kind: string; sentence: string }>(
  facts: readonly StatedFact[],
  worldWith: (stated: readonly StatedFact[]) => World,
  world: World,
  find: (world: World) => Finding[],
): Relying<Finding>[] {
  const found = find(world);
  if (facts.length === 0 || found.length === 0) return found.map((one) => ({ ...one, relies: false }));
  const anyway = new Set(find(worldWith([])).map(({ kind, sentence }) => `${kind} ${sentence}`));
  return found.map((one) => ({ ...one, relies: !anyway.has(`${one.kind} ${one.sentence}`) }));
}

function surroundings({ attributes, audiences, settings, facts }: Drafts) {
  const catalogue = new Catalogue(attributes, settings.zone);
  return {
    catalogue,
    membership: new Membership(catalogue, audiences),
    facts: soundFacts(facts, catalogue),
  };
}

function nameIn({ audiences }: Drafts): (id: string) => string | undefined {
  const names = new Map(audiences.map((audience) => [audience.id, audience.name]));
  return (id) => names.get(id);
}

function unlessTooMany<Found>(nothing: Found, find: () => Found): Found & { refused: string | undefined } {
  try {
    return { ...find(), refused: undefined };
  } catch (error) {
    if (error instanceof TooManyValues) return { ...nothing, refused: error.message };
    throw error;
  }
}
