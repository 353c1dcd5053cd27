import type { Editor } from '@tiptap/react';
import { ChevronLeft, Send } from 'lucide-react';
import { nanoid } from 'nanoid';
import { startTransition, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Link, useParams } from 'react-router';
import { toast } from 'sonner';
import { type StoredDocument, storedDocumentSchema } from '../../../contract/documents.ts';
import type { DocumentAnalysis } from '../../../core/analysis/analyse.ts';
import { faceKey, visibilityOf } from '../../../core/analysis/faces.ts';
import { itemValues } from '../../../core/collections/collection.ts';
import { type Decider, everyoneElse } from '../../../core/deciding/decide.ts';
import {
  ancestorsOf,
  type Block,
  findNode,
  type Node,
  type Slot,
  slotsOf,
  variantLetter,
} from '../../../core/documents/document.ts';
import * as edits from '../../../core/documents/edit.ts';
import { withShared } from '../../../core/documents/shared.ts';
import type { MergeLook } from '../../../core/documents/text.ts';
import { fieldsWithoutFallback, placesLinkedTo } from '../../../core/documents/validate.ts';
import { hasValue, mergeText } from '../../../core/rendering/markup.ts';
import { useDocumentAnalysis } from '../../app/analysis.ts';
import { messageOf, useApi } from '../../app/api.ts';
import { audienceNames, useAudiences, useDocuments, useLibrary, usePictures } from '../../app/data.ts';
import { useDecider, usePieces } from '../../app/decider.ts';
import { useLooking } from '../../app/looking.tsx';
import { Button } from '../../parts/button.tsx';
import { Empty, Notice } from '../../parts/notice.tsx';
import { count } from '../../parts/person.tsx';
import { DocumentView } from '../../parts/rendering/document-view.tsx';
import { UndoButtons } from '../../parts/undo-buttons.tsx';
import { BlockPanel } from './block-panel.tsx';
import { BlockText, isText } from './block-text.tsx';
import { ClosedNotice, ItemChoice } from './canvas-notes.tsx';
import { useBlockKeys } from './clipboard.ts';
import { ConflictDialog } from './conflict-dialog.tsx';
import type { Differing } from './differ-button.tsx';
import { DocumentFindings } from './document-findings.tsx';
import { EmailHead, PlainText, TitleHead } from './email-head.tsx';
import { GroupPanel } from './group-panel.tsx';
import { kindWords, Outline } from './outline.tsx';
import { PagePanel } from './page-panel.tsx';
import { isPlace } from './places.ts';
import { SaveLine } from './save-line.tsx';
import { SendDialog } from './send-dialog.tsx';
import { signedInAudience } from './signed-in-audience.ts';
import { SlotPanel } from './slot-panel.tsx';
import { SlotTabs } from './slot-tabs.tsx';
import { useCast } from './use-cast.ts';
import { useDocument } from './use-document.ts';
import { usePresence } from './use-presence.ts';
import { useSteps } from './use-steps.ts';
import { WhatDiffers } from './what-differs.tsx';
import { WhyLine } from './why-line.tsx';

const newId = () => nanoid(12);
const listOf = {
  page: { path: '/pages', label: 'All pages' },
  email: { path: '/emails', label: 'All emails' },
  shared: { path: '/shared', label: 'All shared content' },
} as const;

export function Component() {
  const { id = '' } = useParams();
  const { data, error } = useApi(`/documents/${encodeURIComponent(id)}`, storedDocumentSchema);
  if (error)
    return (
      <div className="p-8">
        <Empty title={error.message}>
          <Link to="/pages" className="underline">
            All pages
          </Link>
        </Empty>
      </div>
    );
  if (!data || data.id !== id) return null;
  return <DocumentEditor key={id} stored={data} />;
}

function DocumentEditor({ stored }: { stored: StoredDocument }) {
  const { document, draft, history, edit, rename, configure, save, settle } = useDocument(stored);
  const { content } = draft;
  const others = usePresence(stored.id);
  const pieces = usePieces();
  const library = useLibrary();
  const { data: documents } = useDocuments();
  const [itemId, setItemId] = useState<string>();
  const [group, setGroup] = useState<readonly string[]>([]);
  const { data: audiences = [] } = useAudiences();
  const pictures = usePictures();
  const { look, viewer: looking, since, change: changeLook, lookAs } = useLooking();
  const [selected, setSelected] = useState<string | null>(null);
  const [editing, setEditing] = useState(false);
  const [editor, setEditor] = useState<Editor | null>(null);
  /** A variant shown although the viewer does not get it, since nobody does yet. */
  const [forced, setForced] = useState<{ slot: string; choice: number }>();
  const [plain, setPlain] = useState(false);
  const [sending, setSending] = useState(false);
  const frame = useRef<HTMLDivElement>(null);

  const { name: draftName, slug, access, collection } = draft;
  /** As it is shown, shared content in its place. */
  const shown = useMemo(() => (pieces ? withShared(content, pieces) : content), [content, pieces]);
  const stableDocument = useMemo(
    () => ({ id: stored.id, kind: stored.kind, slug, name: draftName, access, collection, content: shown }),
    [stored.id, stored.kind, slug, draftName, access, collection, shown],
  );
  const items = useMemo(
    () => library?.items.filter((item) => item.collection === collection) ?? [],
    [library, collection],
  );
  const item = items.find(({ id }) => id === itemId) ?? items[0];
  const viewer = useMemo(
    () => (item && collection ? { ...looking, item: itemValues(item) } : looking),
    [looking, item, collection],
  );
  const decider = useDecider(stableDocument);
  const audiencesVersion = audiences.map((audience) => `${audience.id}:${audience.revision}`).join();
  const cast = useCast(shown, stored.kind, look.instant, audiencesVersion);
  const nameOf = audienceNames(audiences);
  const analysis = useDocumentAnalysis(stableDocument, since);

  const decided = useMemo(() => {
    if (!decider) return undefined;
    // An email's reader is never signed in.
    const facts = decider.facts(document.kind === 'email' ? { ...viewer, signedIn: false } : viewer);
    const slots = slotsOf(shown);
    const choices = decider.decide(document.id, facts);
    const at = forced ? slots.findIndex((slot) => slot.id === forced.slot) : -1;
    if (forced && at >= 0 && forced.choice < (slots[at]?.variants.length ?? 0)) choices[at] = forced.choice;
    return { facts, choices, slots };
  }, [decider, viewer, document.id, document.kind, forced, shown]);
  const current = useMemo(() => decided && faceKey(visibilityOf(shown)(decided.choices)), [decided, shown]);
  const steps = useSteps(analysis, cast, nameOf, current);
  const choiceOf = useCallback(
    (slotId: string) => {
      const at = decided?.slots.findIndex((slot) => slot.id === slotId) ?? -1;
      return decided?.choices[at] ?? everyoneElse;
    },
    [decided],
  );

  // biome-ignore lint/correctness/useExhaustiveDependencies: another viewer ends what was shown or edited for the last
  useEffect(() => {
    setForced(undefined);
    setEditing(false);
  }, [look]);

  const node = selected === null ? undefined : findNode(content, selected);
  const slot: Slot | undefined =
    node?.kind === 'slot'
      ? node
      : ancestorsOf(content, selected ?? '').findLast((above): above is Slot => above.kind === 'slot');
  const block = node && node.kind !== 'slot' ? node : undefined;

  const say = useCallback(
    (attribute: string, fallback: string, look?: MergeLook) => {
      if (!decider || !decided) return { words: fallback, missing: true };
      const { catalogue, snapshot } = decider;
      const point = { merge: catalogue.get(attribute), attribute, fallback, look };
      return {
        words: mergeText({ ...point, locale: snapshot.settings.locale }, decided.facts, catalogue),
        missing: !hasValue(attribute, decided.facts, catalogue),
      };
    },
    [decider, decided],
  );

  const keys = useRef<Parameters<typeof useBlockKeys>[0]>({
    chosen: () => [],
    remove: () => {},
    paste: () => {},
  });
  useBlockKeys({
    chosen: () => keys.current.chosen(),
    remove: () => keys.current.remove(),
    paste: (blocks) => keys.current.paste(blocks),
  });

  if (!decider || !decided) return null;
  const { catalogue } = decider;

  const select = (picked: string, more = false) => {
    // Inside shared content the piece as a whole is chosen.
    const id = findNode(content, picked) ? picked : (picked.split('/')[0] ?? picked);
    if (more && selected !== null) {
      setGroup((before) => {
        const of = before.length > 0 ? before : [selected];
        return of.includes(id) ? of.filter((one) => one !== id) : [...of, id];
      });
      setEditing(false);
      return;
    }
    setGroup([]);
    setSelected(id);
    const chosen = findNode(content, id);
    setEditing(chosen !== undefined && isText(chosen));
  };
  const showChoice = (of: Slot, choice: number) => {
    setSelected(of.id);
    setEditing(false);
    if (choiceOf(of.id) === choice) return;
    const at = decided.slots.findIndex((other) => other.id === of.id);
    if (
      choice === everyoneElse &&
      decidesTo(decider, document.id, at, choice, { ...viewer, contact: null, signedIn: false })
    )
      return lookAs(null);
    const person = cast?.slots.find((entry) => entry.slot === of.id)?.outcomes.at(choice)?.person;
    if (person) return changeLook({ person, signedIn: person.hasAccount });
    // Nobody today: somebody who provably gets it is made up, and only where nobody can, it is shown regardless.
    const step = steps.find(({ key }) => key.split(',')[at] === String(choice));
    if (step) return changeLook({ person: step.person, signedIn: step.signedIn });
    setForced({ slot: of.id, choice });
  };
  /** Words as they are typed: the field shows them at once, everything around it follows when there is time. */
  const type = (id: string, update: (block: Block) => Block, step: string) =>
    startTransition(() => updateBlock(id, update, step));
  const updateBlock = (id: string, update: (block: Block) => Block, group?: string) =>
    edit((before) => edits.updateNode(before, id, (old) => (old.kind === 'slot' ? old : update(old))), group);

  const addBlock = (kind: Block['kind']) => {
    const made = edits.newBlock(kind, newId);
    edit((before) => edits.insertNode(before, targetFor(node, choiceOf), made));
    setSelected(made.id);
    setEditing(isText(made));
  };
  const together = group.length > 1 ? group : selected === null ? [] : [selected];
  const differ = async (ids: readonly string[], name: string, { kind, audience }: Differing) => {
    setEditing(false);
    setGroup([]);
    if (kind === 'variant') {
      const [only] = ids;
      edit((before) =>
        ids.length === 1 && only !== undefined
          ? edits.wrapInSlot(before, only, name, audience, newId)
          : edits.wrapGroup(before, ids, name, audience, newId),
      );
      return;
    }
    try {
      const gesture: edits.Gesture =
        kind === 'access'
          ? { kind, audience, signedIn: await signedInAudience(audiences) }
          : { kind, audience };
      edit((before) => edits.wrapBy(before, ids, name, gesture, newId));
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  const removeChosen = () => {
    edit((before) => together.reduce((left, id) => edits.removeNode(left, id), before));
    setSelected(null);
    setGroup([]);
    setEditing(false);
  };
  const insertCopies = (nodes: readonly Node[]) => {
    const copies = nodes.map((one) => edits.copyNode<Node>(one, newId));
    const last = node ?? undefined;
    edit(
      (before) =>
        copies.reduce<{ content: typeof before; target: edits.Target }>(
          (done, copy) => ({
            content: edits.insertNode(done.content, done.target, copy),
            target: { after: copy.id },
          }),
          { content: before, target: last && last.kind !== 'line' ? { after: last.id } : { region: 'body' } },
        ).content,
    );
    setGroup([]);
    setSelected(copies[0]?.id ?? null);
    setEditing(false);
  };
  keys.current = {
    chosen: () => together.flatMap((id) => findNode(content, id) ?? []),
    remove: removeChosen,
    paste: insertCopies,
  };
  const slotActions = (of: Slot) => ({
    copyInto: (variant: string | null, into: string) =>
      edit((before) => edits.copyVariant(before, { slot: of.id, variant }, into, newId)),
    takeAudiences: (from: Slot) =>
      edit((before) =>
        edits.takeAudiences(
          before,
          of.id,
          from.variants.map(({ audience }) => audience),
          newId,
        ),
      ),
    show: (choice: number) => showChoice(of, choice),
    addVariant: (audience: string) => {
      const shown = of.variants[choiceOf(of.id)]?.id ?? null;
      edit((before) => edits.addVariant(before, of.id, audience, shown, newId));
      setForced({ slot: of.id, choice: of.variants.length });
    },
    moveVariant: (variant: string, to: number) =>
      edit((before) => edits.moveVariant(before, of.id, variant, to)),
    removeVariant: (variant: string) => edit((before) => edits.removeVariant(before, of.id, variant)),
    setAudience: (variant: string, audience: string) =>
      edit((before) => edits.setVariantAudience(before, of.id, variant, audience)),
    setNothing: () => edit((before) => edits.updateSlot(before, of.id, (old) => ({ ...old, otherwise: [] }))),
    writeOtherwise: () =>
      edit((before) =>
        edits.updateSlot(before, of.id, (old) => ({
          ...old,
          otherwise: (old.variants[0]?.content ?? [edits.newBlock('text', newId)]).map((inner) =>
            edits.copyNode(inner, newId),
          ),
        })),
      ),
    rename: (name: string) =>
      edit((before) => edits.updateSlot(before, of.id, (old) => ({ ...old, name })), `slot name ${of.id}`),
    dissolve: () => {
      const shown = of.variants[choiceOf(of.id)];
      edit((before) => edits.dissolveSlot(before, of.id, shown?.id ?? null));
      setSelected((shown?.content ?? of.otherwise)[0]?.id ?? null);
    },
  });
  const editingView =
    editing && block && isText(block)
      ? {
          block: block.id,
          editor: (
            <BlockText
              key={`${block.id} ${look.person?.id ?? ''} ${look.instant ?? ''}`}
              block={block}
              say={say}
              choose={choiceOf}
              onEditor={setEditor}
              onDone={() => setEditing(false)}
              onType={(update) => type(block.id, update, `text ${block.id}`)}
            />
          ),
        }
      : undefined;

  const shownSlots = decided.slots
    .filter((other) => other.id !== content.subject[0]?.id && other.id !== content.preview[0]?.id)
    .map((other) => {
      const choice = choiceOf(other.id);
      const variant = other.variants[choice];
      const people = cast?.slots.find((entry) => entry.slot === other.id)?.outcomes.at(choice)?.count;
      const who = variant ? nameOf(variant.audience) : 'Everyone else';
      return { slot: other, choice, label: people === undefined ? who : `${who} · ${count(people)} people` };
    });
  const gaps = fieldsWithoutFallback(content);
  const dead =
    library && documents && placesLinkedTo(content).find(({ place }) => !isPlace(place, documents, library));
  const closed = access ? !decider.contains(access.audience, decided.facts) : false;

  return (
    <div className="grid h-full grid-cols-[216px_1fr_300px]">
      <div className="flex min-h-0 flex-col border-r border-line px-2 py-3">
        <Link
          to={listOf[document.kind].path}
          className="flex items-center gap-1 px-2 text-quiet hover:text-ink"
        >
          <ChevronLeft size={14} aria-hidden /> {listOf[document.kind].label}
        </Link>
        <div className="flex items-center px-1">
          <input
            aria-label={`Name of the ${document.kind}`}
            value={draft.name}
            maxLength={120}
            onChange={(event) => event.target.value.trim() !== '' && rename(event.target.value)}
            className="min-w-0 flex-1 rounded-md bg-transparent px-1 font-display text-[17px] font-semibold"
          />
        </div>
        <div className="flex items-center justify-between">
          <SaveLine save={save} others={others} />
          <UndoButtons
            history={{
              ...history,
              undo: () => {
                setEditing(false);
                history.undo();
              },
              redo: () => {
                setEditing(false);
                history.redo();
              },
            }}
          />
        </div>
        <div className="mt-1 min-h-0 flex-1 overflow-y-auto">
          <Outline
            content={content}
            kind={document.kind}
            isItemPage={Boolean(document.collection)}
            choiceOf={choiceOf}
            selected={together}
            onSelect={select}
            onAdd={addBlock}
            onMove={(id, to) =>
              edit((before) =>
                'before' in to
                  ? edits.moveBefore(before, id, to.before)
                  : edits.stepNode(before, id, to.step),
              )
            }
          />
        </div>
      </div>

      <section
        aria-label="Canvas"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
        tabIndex={0}
        className="min-h-0 overflow-y-auto p-4"
      >
        {forced && (
          <div className="mb-3">
            <Notice
              kind="careful"
              title={`Nobody we know gets variant ${variantLetter(forced.choice)} today`}
            >
              It is shown here for writing only; whom you look as gets something else.{' '}
              <button type="button" className="underline" onClick={() => setForced(undefined)}>
                Back to what is true
              </button>
            </Notice>
          </div>
        )}
        {item && collection && <ItemChoice items={items} item={item} onChoose={setItemId} />}
        {closed && access && <ClosedNotice access={access} look={look} />}
        {document.kind === 'page' && content.subject.length > 0 && (
          <TitleHead
            content={content}
            choiceOf={choiceOf}
            say={say}
            selected={selected}
            editing={editingView}
            onSelect={select}
            onRemove={() => {
              edit((before) => ({ ...before, subject: [] }));
              setSelected(null);
              setEditing(false);
            }}
          />
        )}
        {document.kind === 'email' && (
          <EmailHead
            content={content}
            choiceOf={choiceOf}
            say={say}
            selected={selected}
            editing={editingView}
            plain={plain}
            onPlain={setPlain}
            onSelect={select}
          />
        )}
        {document.kind === 'email' && look.person && look.signedIn && (
          <p className="mx-auto -mt-2 mb-3 max-w-[680px] px-1 text-quiet">
            Decided as recognised: nobody is signed in while reading an email.
          </p>
        )}
        {document.kind === 'email' && plain ? (
          <PlainText
            document={stableDocument}
            decider={decider}
            facts={decided.facts}
            choices={decided.choices}
          />
        ) : (
          <div
            ref={frame}
            className="relative mx-auto"
            style={{ maxWidth: { computer: '100%', tablet: '768px', phone: '390px' }[look.device] }}
          >
            <DocumentView
              document={stableDocument}
              decider={decider}
              viewer={viewer}
              facts={decided.facts}
              choices={decided.choices}
              selected={selected}
              onSelect={select}
              editing={editingView}
              className="overflow-hidden rounded-md border border-line shadow-soft"
            />
            <SlotTabs
              frame={frame}
              slots={shownSlots}
              selected={slot?.id ?? null}
              onSelect={(id) => {
                setSelected(id);
                setEditing(false);
              }}
            />
          </div>
        )}
      </section>

      <aside
        id="selection"
        aria-label="What is selected"
        className="flex min-h-0 flex-col gap-5 overflow-y-auto border-l border-line px-4 py-3"
      >
        {document.kind === 'email' && (
          <div className="grid shrink-0">
            <Button look="plain" icon={<Send size={15} aria-hidden />} onClick={() => setSending(true)}>
              Send to…
            </Button>
          </div>
        )}
        {group.length > 1 && (
          <GroupPanel
            count={group.length}
            areNeighbours={edits.areNeighbours(content, group)}
            audiences={audiences}
            onDuplicate={() => insertCopies(keys.current.chosen())}
            onRemove={removeChosen}
            onDiffer={(how) => void differ(group, 'Group', how)}
          />
        )}
        {group.length <= 1 && block && (
          <BlockPanel
            key={block.id}
            block={block}
            editor={editingView ? editor : null}
            audiences={audiences}
            pictures={pictures}
            catalogue={catalogue}
            canDiffer={audiences.length > 0}
            actions={{
              update: (update) => updateBlock(block.id, update, `settings ${block.id}`),
              move: (by) => edit((before) => edits.moveNode(before, block.id, by)),
              duplicate: () => {
                const copy = edits.copyNode<Node>(block, newId);
                edit((before) => edits.insertNode(before, { after: block.id }, copy));
                setSelected(copy.id);
              },
              remove: () => {
                edit((before) => edits.removeNode(before, block.id));
                setSelected(null);
                setEditing(false);
              },
              differ: (how) => void differ([block.id], slotName(block), how),
            }}
          />
        )}
        {group.length <= 1 && slot && (
          <SlotPanel
            slot={slot}
            others={decided.slots.filter(({ id }) => id !== slot.id && findNode(content, id))}
            choice={choiceOf(slot.id)}
            outcomes={cast?.slots.find((entry) => entry.slot === slot.id)?.outcomes}
            audiences={audiences}
            label={(attribute) => catalogue.get(attribute)?.label ?? attribute}
            actions={slotActions(slot)}
          />
        )}
        {!slot && !block && document.kind === 'page' && (
          <PagePanel
            document={document}
            audiences={audiences}
            viewer={viewer}
            onChange={configure}
            onTitle={() => {
              const title = edits.newBlock('line', newId);
              if (title.kind === 'line') title.content = [{ type: 'text', text: draft.name }];
              edit((before) => ({ ...before, subject: [title] }));
              setSelected(title.id);
              setEditing(true);
            }}
            onDiffer={(how) =>
              void differ(
                content.body.map(({ id }) => id),
                'The whole page',
                how,
              )
            }
          />
        )}
        {!slot && !block && (
          <WhatDiffers
            slots={decided.slots}
            choiceOf={choiceOf}
            nameOf={nameOf}
            onSelect={(id) => {
              setSelected(id);
              setEditing(false);
            }}
          />
        )}
        {slot && (
          <WhyLine
            slot={slot}
            kind={document.kind}
            decider={decider}
            facts={decided.facts}
            nameOf={nameOf}
            name={look.person?.name ?? 'an anonymous visitor'}
            instant={since}
          />
        )}
        {analysis && (
          <DocumentFindings
            analysis={shown === content ? analysis : withoutRepairs(analysis)}
            slot={slot?.id}
            onSelect={setSelected}
            onRepair={(next) => edit(() => next)}
          />
        )}
        {dead && (
          <Notice kind="careful" title="A link leads nowhere">
            There is no page or item at /site/{dead.place}.{' '}
            <button type="button" className="underline" onClick={() => select(dead.block)}>
              Show me
            </button>
          </Notice>
        )}
        {gaps.length > 0 && (
          <Notice
            kind="careful"
            title={`${gaps.length} personal ${gaps.length === 1 ? 'value has' : 'values have'} no words to fall back on`}
          >
            Who lacks {catalogue.get(gaps[0]?.attribute ?? '')?.label ?? 'it'} reads a gap.{' '}
            <button type="button" className="underline" onClick={() => gaps[0] && select(gaps[0].block)}>
              Show me
            </button>
          </Notice>
        )}
      </aside>
      {save.kind === 'conflict' && (
        <ConflictDialog
          mine={stableDocument}
          theirs={save.theirs}
          message={save.message}
          onSettle={(keep) => settle(save.theirs, keep)}
        />
      )}
      <SendDialog open={sending} onClose={() => setSending(false)} email={stableDocument} />
    </div>
  );
}

/** Where a new block goes: into the chosen section or shown variant, after the chosen block, or at the end. */
function targetFor(node: Node | undefined, choiceOf: (slot: string) => number): edits.Target {
  if (!node || node.kind === 'line') return { region: 'body' };
  if (node.kind === 'section' || node.kind === 'links') return { section: node.id };
  if (node.kind === 'slot') return { slot: node.id, variant: node.variants[choiceOf(node.id)]?.id ?? null };
  return { after: node.id };
}

function slotName(block: Block): string {
  return 'name' in block && block.name ? block.name : kindWords[block.kind];
}

/** Findings about shared content in its place are mended in the piece itself, not here. */
function withoutRepairs(analysis: DocumentAnalysis): DocumentAnalysis {
  return { ...analysis, findings: analysis.findings.map((finding) => ({ ...finding, repairs: [] })) };
}

function decidesTo(
  decider: Decider,
  documentId: string,
  slotIndex: number,
  choice: number,
  viewer: Parameters<Decider['facts']>[0],
): boolean {
  return decider.decide(documentId, decider.facts(viewer))[slotIndex] === choice;
}
