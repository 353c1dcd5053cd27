import { useCallback, useEffect, useMemo, useState } from 'react';
import type { StoredDocument } from '../../../contract/documents.ts';
import { faceKey, visibilityOf } from '../../../core/analysis/faces.ts';
import type { Facts, Viewer } from '../../../core/attributes/viewer.ts';
import { itemValues } from '../../../core/collections/collection.ts';
import { type Choices, type Decider, everyoneElse } from '../../../core/deciding/decide.ts';
import { type Document, type Slot, slotsOf } from '../../../core/documents/document.ts';
import { withShared } from '../../../core/documents/shared.ts';
import type { MergeLook } from '../../../core/documents/text.ts';
import { hasValue, mergeText } from '../../../core/rendering/markup.ts';
import { useDocumentAnalysis } from '../../app/analysis.ts';
import { audienceNames, useAudiences, useLibrary } from '../../app/data.ts';
import { useDecider, usePieces } from '../../app/decider.ts';
import { useLooking } from '../../app/looking.tsx';
import { useCast } from './use-cast.ts';
import { useSteps } from './use-steps.ts';

/** What is decided of a document for whom one looks as. */
export interface Decided {
  readonly decider: Decider;
  readonly facts: Facts;
  readonly choices: Choices;
  readonly slots: readonly Slot[];
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
  const { look, viewer: looking, since, change: changeLook, lookAs } = useLooking();
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
  const cast = useCast(shown, kind, look.instant, audiencesVersion);
  const nameOf = audienceNames(audiences);
  const analysis = useDocumentAnalysis(document, since);

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
      const point = { merge: catalogue.get(attribute), attribute, fallback, look: how };
      return {
        words: mergeText({ ...point, locale: snapshot.settings.locale }, decided.facts, catalogue),
        missing: !hasValue(attribute, decided.facts, catalogue),
      };
    },
    [decided],
  );
  /** Looks as somebody who gets a choice of a slot, best somebody we know. */
  const lookAsWhoGets = (of: Slot, choice: number): void => {
    if (!decided || choiceOf(of.id) === choice) return;
    const at = decided.slots.findIndex((other) => other.id === of.id);
    const anonymous = { ...viewer, contact: null, signedIn: false };
    if (choice === everyoneElse && decidesTo(decided.decider, id, at, choice, anonymous)) {
      lookAs(null);
      return;
    }
    const person = cast?.slots.find((entry) => entry.slot === of.id)?.outcomes.at(choice)?.person;
    // Nobody today: somebody who provably gets it is made up, and only where nobody can, it is shown regardless.
    const step = steps.find(({ key }) => key.split(',')[at] === String(choice));
    if (person) changeLook({ person, signedIn: person.hasAccount });
    else if (step) changeLook({ person: step.person, signedIn: step.signedIn });
    else setForced({ slot: of.id, choice });
  };
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
    chooseItem: setItemId,
    forced,
    force: setForced,
    lookAsWhoGets,
  };
}

export type Shown = ReturnType<typeof useShown>;

function decidesTo(
  decider: Decider,
  documentId: string,
  slotIndex: number,
  choice: number,
  viewer: Viewer,
): boolean {
  return decider.decide(documentId, decider.facts(viewer))[slotIndex] === choice;
}
