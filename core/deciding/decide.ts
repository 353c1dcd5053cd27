import { Catalogue } from '../attributes/catalogue.ts';
import { FactReader, type Facts, type Viewer } from '../attributes/viewer.ts';
import type { Audience } from '../audiences/audience.ts';
import { attributesIn } from '../conditions/condition.ts';
import { type Explanation, explain } from '../conditions/explain.ts';
import type { Step } from '../conditions/program.ts';
import { type Content, type Document, type Slot, slotsOf } from '../documents/document.ts';
import { listConditions, mergedAttributes } from '../documents/uses.ts';
import { Membership } from './membership.ts';
import type { Snapshot } from './release.ts';

/** For each slot in reading order, the index of the variant shown, or {@link everyoneElse}. */
export type Choices = Int8Array;
export const everyoneElse = -1;

/** The compiled slots of one document. */
export class PreparedSlots {
  readonly slots: readonly Slot[];
  /** For each slot, where the list of its variants starts. */
  private readonly starts: readonly Step[];

  constructor(content: Content, membership: Membership) {
    this.slots = slotsOf(content);
    this.starts = this.slots.map((slot) =>
      membership.writeFirst(
        slot.variants.map(({ audience }) => audience),
        everyoneElse,
      ),
    );
  }

  /** First match wins. The viewer must already be set on the membership. */
  decide(membership: Membership): Choices {
    const { starts } = this;
    const choices = new Int8Array(starts.length);
    for (const [slot, start] of starts.entries()) choices[slot] = membership.firstOf(start);
    return choices;
  }
}

/** Why a slot shows its content: its variants in order, up to and including the first match. */
export interface TraceStep {
  variant: string;
  audience: string;
  holds: boolean;
  /** Undefined if the audience can't be evaluated; see `problem`. */
  explanation: Explanation | undefined;
  problem: string | undefined;
}

/**
 * A snapshot compiled for deciding. An instance holds one viewer at a time and decides every slot of every document for the
 * viewer that was set last.
 */
export class Decider {
  readonly catalogue: Catalogue;
  readonly membership: Membership;
  /** The attributes that audiences and merge fields refer to. */
  readonly asked: ReadonlySet<string>;
  private readonly audiences: ReadonlyMap<string, Audience>;
  private readonly documents: ReadonlyMap<string, Document>;
  private readonly prepared: WeakMap<Content, PreparedSlots>;
  private readonly reader: FactReader;

  /**
   * @param before an earlier decider, whose compiled parts are reused where attributes, audiences and content are the same
   */
  constructor(
    readonly snapshot: Snapshot,
    before?: Decider,
  ) {
    const { attributes, audiences, documents, settings } = snapshot;
    const isSameCatalogue =
      before?.snapshot.attributes === attributes && before.snapshot.settings.zone === settings.zone;
    const known = isSameCatalogue && before.snapshot.audiences === audiences ? before : undefined;
    this.catalogue = isSameCatalogue ? before.catalogue : new Catalogue(attributes, settings.zone);
    this.membership = known?.membership ?? new Membership(this.catalogue, audiences);
    this.audiences = known?.audiences ?? new Map(audiences.map((audience) => [audience.id, audience]));
    this.prepared = known?.prepared ?? new WeakMap();
    this.documents = new Map(documents.map((document) => [document.id, document]));
    const used = new Set(audiences.flatMap(({ condition }) => [...attributesIn(condition)]));
    // The name of who is signed in stands in a site's header.
    used.add('first-name');
    for (const { content } of documents) for (const attribute of askedBy(content)) used.add(attribute);
    const isSameReader = known !== undefined && isSubset(used, known.asked) && isSubset(known.asked, used);
    this.asked = isSameReader ? known.asked : used;
    this.reader = isSameReader ? known.reader : new FactReader(this.catalogue, used);
  }

  /**
   * The values that the snapshot's audiences and merge fields need of a viewer, in the snapshot's time zone. Read them once
   * for any number of decisions.
   */
  facts(viewer: Viewer): Facts {
    return this.reader.read(viewer);
  }

  preparedSlots(documentId: string): PreparedSlots {
    const content = this.documents.get(documentId)?.content;
    if (!content) throw new Error(`no document “${documentId}” in this snapshot`);
    let slots = this.prepared.get(content);
    if (!slots) {
      slots = new PreparedSlots(content, this.membership);
      this.prepared.set(content, slots);
    }
    return slots;
  }

  /** The choice for each slot of a document. Throws an Error for a document that is not in the snapshot. */
  decide(documentId: string, facts: Facts): Choices {
    this.membership.lookAs(facts);
    return this.preparedSlots(documentId).decide(this.membership);
  }

  /** Whether a viewer is in an audience; false for an audience that can't be evaluated. */
  contains(audienceId: string, facts: Facts): boolean {
    this.membership.lookAs(facts);
    return this.membership.containsViewer(audienceId);
  }

  /** The trace of one slot: every variant that was checked, with each test and the viewer's value. */
  trace(slot: Slot, facts: Facts): TraceStep[] {
    this.membership.lookAs(facts);
    const steps: TraceStep[] = [];
    for (const { id, audience } of slot.variants) {
      const holds = this.membership.containsViewer(audience);
      steps.push({ variant: id, audience, holds, ...this.because(audience, facts) });
      if (holds) break;
    }
    return steps;
  }

  /** Why a viewer is in an audience or not, or why it can't be evaluated. */
  because(audienceId: string, facts: Facts): Pick<TraceStep, 'explanation' | 'problem'> {
    const audience = this.audiences.get(audienceId);
    const problem = audience
      ? this.membership.problems.get(audienceId)?.[0]?.message
      : 'this audience no longer exists';
    if (!audience || problem) return { explanation: undefined, problem };
    const conditionOf = (id: string) => this.audiences.get(id)?.condition;
    return {
      explanation: explain(audience.condition, facts, this.catalogue, conditionOf),
      problem: undefined,
    };
  }
}

const asked = new WeakMap<Content, ReadonlySet<string>>();

/** The attributes that the merge fields and lists of a content refer to. */
function askedBy(content: Content): ReadonlySet<string> {
  let known = asked.get(content);
  if (!known) {
    const conditions = listConditions(content);
    known = new Set([...mergedAttributes(content), ...conditions.flatMap((one) => [...attributesIn(one)])]);
    asked.set(content, known);
  }
  return known;
}

function isSubset(some: ReadonlySet<string>, of: ReadonlySet<string>): boolean {
  return [...some].every((one) => of.has(one));
}
