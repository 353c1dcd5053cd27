import { useCallback, useEffect, useMemo, useState } from 'react';
import type { StoredDocument } from '../../../contract/documents.ts';
import type { Facts } from '../../../core/attributes/viewer.ts';
import { itemValues } from '../../../core/collections/collection.ts';
import { type Choices, type Decider, everyoneElse } from '../../../core/deciding/decide.ts';
import { faceKey, visibilityOf } from '../../../core/deciding/visibility.ts';
import { type Document, type Slot, slotsOf } from '../../../core/documents/document.ts';
import { withShared } from '../../../core/documents/shared.ts';
import type { MergeLook } from '../../../core/documents/text.ts';
import { hasValue, mergeText } from '../../../core/rendering/markup.ts';
import { useDocumentAnalysis } from '../../data/analysis.ts';
import { audienceNames, useAudiences, useLibrary } from '../../data/data.ts';
import { useDecider, usePieces } from '../../data/decider.ts';
import { type Look, lookOf, useLooking, viewerOf } from '../../data/looking.tsx';
import { useSkeleton } from '../../data/skeleton.ts';
import { useCast } from './use-cast.ts';
import { useSteps } from './use-steps.ts';

/** The decisions of a document for the current viewer. */
export interface Decided {
  readonly decider: Decider;
  readonly facts: Facts;
  readonly choices: Choices;
  readonly slots: readonly Slot[];
}

/** A viewer who gets a choice: the change of viewer it takes, and which item to show. */
interface Candidate {
  readonly look: Partial<Look>;
  readonly item: string | undefined;
}

/**
 * A document as it is on screen: with shared content in its place, for whom one looks as, with the item chosen where it
 * shows one, and what is proved and counted of it.
 */
export function useShown({ id, kind }: StoredDocument, draft: Omit<Document, 'id' | 'kind'>) {
  const { name, slug, access, collection, content } = draft;
  const pieces = usePieces();
  const library = useLibrary();
  const { data: audiences = [] } = useAudiences();
  const { look, viewer: looking, since, change: changeLook } = useLooking();
  const [itemId, setItemId] = useState<string>();
  /** A variant shown although the viewer does not get it, since nobody does yet. */
  const [forced, setForced] = useState<{ slot: string; choice: number }>();

  const shown = useMemo(() => (pieces ? withShared(content, pieces) : content), [content, pieces]);
  const document: Document = useMemo(
    () => ({ id, kind, slug, name, access, collection, content: shown }),
    [id, kind, slug, name, access, collection, shown],
  );
  const items = useMemo(
    () => library?.items.filter((item) => item.collection === collection) ?? [],
    [library, collection],
  );
  const item = items.find((one) => one.id === itemId) ?? items[0];
  const viewer = useMemo(
    () => (item && collection ? { ...looking, item: itemValues(item, library?.views[item.id]) } : looking),
    [looking, item, collection, library],
  );
  const decider = useDecider(document);
  const audiencesVersion = audiences.map((audience) => `${audience.id}:${audience.revision}`).join();
  const skeleton = useSkeleton(document);
  const cast = useCast(skeleton, look.instant, audiencesVersion);
  const nameOf = audienceNames(audiences);
  const analysis = useDocumentAnalysis(skeleton, since);

  const decided = useMemo((): Decided | undefined => {
    if (!decider) return undefined;
    // An email's reader is never signed in.
    const facts = decider.facts(kind === 'email' ? { ...viewer, signedIn: false } : viewer);
    const slots = slotsOf(shown);
    const choices = decider.decide(id, facts);
    const at = forced ? slots.findIndex((slot) => slot.id === forced.slot) : -1;
    if (forced && at >= 0 && forced.choice < (slots[at]?.variants.length ?? 0)) choices[at] = forced.choice;
    return { decider, facts, choices, slots };
  }, [decider, viewer, id, kind, forced, shown]);
  const current = useMemo(() => decided && faceKey(visibilityOf(shown)(decided.choices)), [decided, shown]);
  const steps = useSteps(analysis, cast, nameOf, current);

  // biome-ignore lint/correctness/useExhaustiveDependencies: another viewer ends what was shown for the last
  useEffect(() => setForced(undefined), [look]);

  const choiceOf = useCallback(
    (slotId: string) => {
      const at = decided?.slots.findIndex((slot) => slot.id === slotId) ?? -1;
      return decided?.choices[at] ?? everyoneElse;
    },
    [decided],
  );
  /** What a merge field prints. */
  const say = useCallback(
    (attribute: string, fallback: string, how?: MergeLook) => {
      if (!decided) return { words: fallback, missing: true };
      const { catalogue, snapshot } = decided.decider;
      const point = {
        kind: 'merge' as const,
        merge: catalogue.get(attribute),
        attribute,
        fallback,
        look: how,
      };
      return {
        words: mergeText({ ...point, locale: snapshot.settings.locale }, decided.facts, catalogue),
        missing: !hasValue(attribute, decided.facts, catalogue),
      };
    },
    [decided],
  );
  /** Who gets a choice of a slot, best somebody we know, with the visit, moment and item that it takes. */
  const whoGets = (slot: string, choice: number): Candidate | undefined => {
    if (!decided) return undefined;
    const { decider: own, slots } = decided;
    const at = slots.findIndex((other) => other.id === slot);
    const person = cast?.slots.find((entry) => entry.slot === slot)?.outcomes.at(choice)?.person;
    const plain = { visit: null, faceInstant: null };
    const known = person ? [{ person, signedIn: person.hasAccount }] : [];
    const looks: Partial<Look>[] = [
      {},
      ...(choice === everyoneElse && kind !== 'email' ? [{ person: null, signedIn: false }] : []),
      ...known,
      ...known.map((one) => ({ ...one, ...plain })),
      // Nobody today: somebody who provably gets it is made up.
      ...steps.filter(({ key }) => key.split(',')[at] === String(choice)).map(lookOf),
    ];
    const shownItems = collection && item ? [item, ...items.filter((one) => one !== item)] : [undefined];
    const visible = visibilityOf(shown);
    for (const candidateItem of shownItems)
      for (const part of looks) {
        const values = candidateItem ? itemValues(candidateItem, library?.views[candidateItem.id]) : null;
        const candidate = { ...viewerOf({ ...look, ...part }, since), item: values };
        const facts = own.facts(kind === 'email' ? { ...candidate, signedIn: false } : candidate);
        if (visible(own.decide(id, facts))[at] === choice) return { look: part, item: candidateItem?.id };
      }
    return undefined;
  };
  // Every email has a reader: somebody who gets its first face, until another is chosen.
  const reader = kind === 'email' && !look.person ? steps.find(({ person }) => person !== null) : undefined;
  const showAs = (found: Candidate): void => {
    if (found.item !== undefined) setItemId(found.item);
    changeLook(found.look);
  };
  /** Switches to a viewer who gets a choice of a slot; if nobody can, the choice is shown anyway. */
  const lookAsWhoGets = (of: Slot, choice: number): void => {
    if (!decided || (choiceOf(of.id) === choice && !forced)) return;
    const found = whoGets(of.id, choice);
    if (found) showAs(found);
    else setForced({ slot: of.id, choice });
  };
  // What is shown regardless, as a new variant is, is looked at as somebody who gets it as soon as one is known.
  const known = forced && whoGets(forced.slot, forced.choice);
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each that is found
  useEffect(() => {
    if (known) showAs(known);
  }, [known !== undefined, forced]);
  const outcomesOf = (slotId: string) => cast?.slots.find((entry) => entry.slot === slotId)?.outcomes;

  return {
    document,
    decided,
    analysis,
    outcomesOf,
    choiceOf,
    say,
    nameOf,
    audiences,
    library,
    viewer,
    look,
    since,
    items,
    item,
    /** Who reads an email that nobody was chosen to read. */
    reader: reader && lookOf(reader),
    chooseItem: setItemId,
    forced,
    force: setForced,
    lookAsWhoGets,
  };
}

export type Shown = ReturnType<typeof useShown>;
