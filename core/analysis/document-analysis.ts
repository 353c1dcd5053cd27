import { inAudience } from '../conditions/condition.ts';
import { type Content, channelOf, type Document, slotsOf } from '../documents/document.ts';
import { audiencesOf } from '../documents/uses.ts';
import { describeFaces, type FaceDescription } from './describe.ts';
import { type Limit, Work } from './diagrams/work.ts';
import { type Draft, documentContext } from './document-context.ts';
import { documentDrafts, worded } from './document-findings.ts';
import { type Face, facesOf, slotDiagrams } from './faces.ts';
import type { DocumentFinding, DocumentRepair, OfferedRepair } from './finding.ts';
import { type Overlap, overlapsOf } from './overlaps.ts';
import { type Belief, orRefused, qualified, type Relying } from './qualified.ts';
import { type Drafts, surroundings } from './surroundings.ts';
import { World } from './world.ts';

export interface DocumentAnalysis<Repair = DocumentRepair> {
  /** The first hundred are described; more would take longer than anybody reads. */
  readonly faces: readonly (Face & { readonly description: FaceDescription | undefined })[];
  /** False where there are more faces than listed. */
  readonly complete: boolean;
  readonly findings: readonly Relying<DocumentFinding<Repair>>[];
  /** Variants of a slot that some viewer matches both of; undefined where that was not proved in time. */
  readonly overlaps: readonly Overlap[] | undefined;
  /** Why nothing could be proved; undefined when it could. */
  readonly refused: string | undefined;
}

const mostDescribed = 100;
const noFaces = { faces: [], complete: false };

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
        // Only viewers who may open the page reach its slots.
        given: access ? [inAudience(access.audience)] : [],
        hasItem: Boolean(collection),
        work,
      });
    const world = worldOf({ stated: facts, beyond: false });
    const contextOf = (own: World) => documentContext(own, names, access, drafts.audiences, membership);
    const context = contextOf(world);
    // Findings come first, then faces, then words and repairs. Each has its own share of the time.
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

/** The analysis with each repair's label and changes only: its result is as large as the document. */
export function offering(analysis: DocumentAnalysis): DocumentAnalysis<OfferedRepair> {
  const findings = analysis.findings.map((finding) => ({
    ...finding,
    repairs: finding.repairs.map(({ label, changes }) => ({ label, changes })),
  }));
  return { ...analysis, findings };
}

/** A repair by its label, and the finding that it is one of. */
export interface ChosenRepair extends Pick<DocumentFinding, 'kind' | 'slot' | 'variant' | 'block'> {
  readonly label: string;
}

/** A document as it is after a repair; null where what is found of it now has no such repair. */
export function repaired(
  drafts: Drafts,
  document: Document,
  instant: number,
  { kind, slot, variant, block, label }: ChosenRepair,
  limit: Limit = {},
): Content | null {
  const found = analyseDocument(drafts, document, instant, limit).findings.find(
    (one) => one.kind === kind && one.slot === slot && one.variant === variant && one.block === block,
  );
  return found?.repairs.find((one) => one.label === label)?.content ?? null;
}
