import type { Content } from '../documents/document.ts';
import { notProvedWithin, type Work } from './diagrams/work.ts';
import type { DocumentContext, Draft } from './document-context.ts';
import { type DocumentFinding, type DocumentRepair, severities } from './finding.ts';
import { neighbourFindings } from './neighbour-findings.ts';
import { deviationFindings, orderFindings } from './order-findings.ts';
import { type PlacedSlot, placedSlots } from './placed.ts';
import { slotFindings } from './slot-findings.ts';
import { fallbackFindings } from './text-findings.ts';

/** What is proved about a document: its slots, how they stand to each other, and its merge fields. */
export function documentFindings(content: Content, context: DocumentContext): DocumentFinding[] {
  return worded(documentDrafts(content, context), context);
}

/** The same before words and repairs are worked out, which may take longer than finding it. */
export function documentDrafts(content: Content, context: DocumentContext): Draft[] {
  const placed = placedSlots(content, context.world, context.access);
  return draftsOf(content, placed, context, (slot) => [notProved(slot, context.world.work)]);
}

/** Findings with their words, and with those of their repairs that are ones. */
export function worded(drafts: readonly Draft[], context: DocumentContext): DocumentFinding[] {
  const { work } = context.world;
  const known = drafts.filter(({ kind }) => kind !== 'not-proved');
  return drafts.map((draft) => {
    const { sentence, candidates, ...finding } = draft;
    const said = sentence();
    const repairs = work.within(work.share(0.15), () => tried(draft, candidates(), known, context)) ?? [];
    return { ...finding, sentence: said, repairs };
  });
}

function draftsOf(
  content: Content,
  placed: readonly PlacedSlot[],
  context: DocumentContext,
  otherwise: (slot: PlacedSlot | undefined) => Draft[],
): Draft[] {
  const { work } = context.world;
  return [
    ...placed.flatMap((one) => work.within({}, () => slotFindings(content, one, context)) ?? otherwise(one)),
    ...(work.within({}, () => [
      ...neighbourFindings(content, placed, context),
      ...deviationFindings(content, placed, context),
      ...orderFindings(content, placed, context),
      ...fallbackFindings(content, context),
    ]) ?? otherwise(undefined)),
  ];
}

/** What is said in the place of findings about a slot, or about all of them together, that took too long. */
function notProved(placed: PlacedSlot | undefined, work: Work): Draft {
  return {
    kind: 'not-proved',
    severity: 'careful',
    slot: placed?.slot.id,
    variant: null,
    block: undefined,
    people: undefined,
    sentence: () =>
      placed
        ? `${notProvedWithin(work)}: whether somebody gets every variant of ${placed.slot.name}.`
        : `${notProvedWithin(work)}: how the slots stand to each other.`,
    candidates: () => [],
  };
}

/** The repairs that are ones: their finding is gone, there are fewer as bad as it, and none worse. */
function tried(
  draft: Draft,
  candidates: readonly DocumentRepair[],
  before: readonly Draft[],
  context: DocumentContext,
): DocumentRepair[] {
  const rank = (one: Draft) => severities.indexOf(one.severity);
  const asBad = (drafts: readonly Draft[]) => drafts.filter((one) => rank(one) <= rank(draft)).length;
  const worse = (drafts: readonly Draft[]) => drafts.filter((one) => rank(one) < rank(draft)).length;
  return candidates.filter(({ content }) => {
    const after = draftsOf(content, placedSlots(content, context.world, context.access), context, () => [
      draft,
    ]);
    const isThere = after.some(
      (one) =>
        one.kind === draft.kind &&
        one.slot === draft.slot &&
        one.variant === draft.variant &&
        one.block === draft.block,
    );
    return !isThere && asBad(after) < asBad(before) && worse(after) <= worse(before);
  });
}
