import type { Editor } from '@tiptap/react';
import { ChevronLeft, Send } from 'lucide-react';
import { nanoid } from 'nanoid';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Link, useParams } from 'react-router';
import { type StoredDocument, storedDocumentSchema } from '../../../contract/documents.ts';
import { faceKey, visibilityOf } from '../../../core/analysis/faces.ts';
import { metValue } from '../../../core/conditions/explain.ts';
import { type Decider, everyoneElse } from '../../../core/deciding/decide.ts';
import {
  ancestorsOf,
  type Block,
  findNode,
  type Node,
  type Slot,
  variantLetter,
} from '../../../core/documents/document.ts';
import * as edits from '../../../core/documents/edit.ts';
import type { Inline } from '../../../core/documents/text.ts';
import { fieldsWithoutFallback } from '../../../core/documents/validate.ts';
import { useDocumentAnalysis } from '../../app/analysis.ts';
import { useApi } from '../../app/api.ts';
import { audienceNames, useAudiences, useDecider, usePictures } from '../../app/data.ts';
import { useLooking } from '../../app/looking.tsx';
import { saidInstant } from '../../app/moment.ts';
import { Button } from '../../parts/button.tsx';
import { Empty, Notice } from '../../parts/notice.tsx';
import { count } from '../../parts/person.tsx';
import { DocumentView } from '../../parts/rendering/document-view.tsx';
import { UndoButtons } from '../../parts/undo-buttons.tsx';
import { BlockPanel } from './block-panel.tsx';
import { ConflictDialog } from './conflict-dialog.tsx';
import { DocumentFindings } from './document-findings.tsx';
import { EmailHead, PlainText } from './email-head.tsx';
import { Outline } from './outline.tsx';
import { SendDialog } from './send-dialog.tsx';
import { SlotPanel } from './slot-panel.tsx';
import { SlotTabs } from './slot-tabs.tsx';
import { TextEditing } from './text-editing.tsx';
import { useCast } from './use-cast.ts';
import { type SaveState, useDocument } from './use-document.ts';
import { useSteps } from './use-steps.ts';
import { WhatDiffers } from './what-differs.tsx';
import { WhyLine } from './why-line.tsx';

const newId = () => nanoid(12);

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
  const { document, draft, history, edit, rename, save, settle } = useDocument(stored);
  const { content } = draft;
  const { data: audiences = [] } = useAudiences();
  const pictures = usePictures();
  const { look, viewer, since, change: changeLook, lookAs } = useLooking();
  const [selected, setSelected] = useState<string | null>(null);
  const [editing, setEditing] = useState(false);
  const [editor, setEditor] = useState<Editor | null>(null);
  /** A variant shown although the viewer does not get it, since nobody does yet. */
  const [forced, setForced] = useState<{ slot: string; choice: number }>();
  const [plain, setPlain] = useState(false);
  const [sending, setSending] = useState(false);
  const frame = useRef<HTMLDivElement>(null);

  const stableDocument = useMemo(
    () => ({ id: stored.id, kind: stored.kind, slug: stored.slug, name: draft.name, content }),
    [stored.id, stored.kind, stored.slug, draft.name, content],
  );
  const decider = useDecider(stableDocument);
  const audiencesVersion = audiences.map((audience) => `${audience.id}:${audience.revision}`).join();
  const cast = useCast(content, stored.kind, look.instant, audiencesVersion);
  const nameOf = audienceNames(audiences);
  const analysis = useDocumentAnalysis(stableDocument, since);

  const decided = useMemo(() => {
    if (!decider) return undefined;
    // An email's reader is never signed in.
    const facts = decider.facts(document.kind === 'email' ? { ...viewer, signedIn: false } : viewer);
    const { slots } = decider.planOf(document.id);
    const choices = decider.decide(document.id, facts);
    const at = forced ? slots.findIndex((slot) => slot.id === forced.slot) : -1;
    if (forced && at >= 0 && forced.choice < (slots[at]?.variants.length ?? 0)) choices[at] = forced.choice;
    return { facts, choices, slots };
  }, [decider, viewer, document.id, document.kind, forced]);
  const current = useMemo(
    () => decided && faceKey(visibilityOf(content)(decided.choices)),
    [decided, content],
  );
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
    (attribute: string, fallback: string) => {
      const words = decider && decided ? metValue(attribute, decided.facts, decider.catalogue) : undefined;
      return { words: words ?? fallback, missing: words === undefined };
    },
    [decider, decided],
  );

  if (!decider || !decided) return null;
  const { catalogue } = decider;

  const select = (id: string) => {
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
  const updateBlock = (id: string, update: (block: Block) => Block, group?: string) =>
    edit((before) => edits.updateNode(before, id, (old) => (old.kind === 'slot' ? old : update(old))), group);

  const addBlock = (kind: Block['kind']) => {
    const made = edits.newBlock(kind, newId);
    edit((before) => edits.insertNode(before, targetFor(node, choiceOf), made));
    setSelected(made.id);
    setEditing(isText(made));
  };
  const slotActions = (of: Slot) => ({
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
  const textEditor = (of: Block) => {
    const common = { say, onEditor: setEditor, onDone: () => setEditing(false), label: 'Text of this block' };
    const group = `text ${of.id}`;
    switch (of.kind) {
      case 'text':
        return (
          <TextEditing
            {...common}
            kind="text"
            content={of.content}
            onChange={(words) =>
              updateBlock(of.id, (old) => (old.kind === 'text' ? { ...old, content: words } : old), group)
            }
          />
        );
      case 'heading':
      case 'line':
        return (
          <TextEditing
            {...common}
            kind={of.kind === 'line' ? 'line' : 'inline'}
            content={of.content}
            onChange={(words: Inline[]) =>
              updateBlock(
                of.id,
                (old) => (old.kind === 'heading' || old.kind === 'line' ? { ...old, content: words } : old),
                group,
              )
            }
          />
        );
      case 'button':
        return (
          <TextEditing
            {...common}
            kind="inline"
            content={of.label}
            onChange={(label) =>
              updateBlock(of.id, (old) => (old.kind === 'button' ? { ...old, label } : old), group)
            }
          />
        );
      default:
        return null;
    }
  };
  const editingView =
    editing && block && isText(block)
      ? {
          block: block.id,
          editor: (
            <div key={`${block.id} ${look.person?.id ?? ''} ${look.instant ?? ''}`}>{textEditor(block)}</div>
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

  return (
    <div className="grid h-full grid-cols-[216px_1fr_300px]">
      <div className="flex min-h-0 flex-col border-r border-line px-2 py-3">
        <Link
          to={document.kind === 'page' ? '/pages' : '/emails'}
          className="flex items-center gap-1 px-2 text-quiet hover:text-ink"
        >
          <ChevronLeft size={14} aria-hidden /> {document.kind === 'page' ? 'All pages' : 'All emails'}
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
          <SaveLine save={save} />
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
            selected={selected}
            onSelect={select}
            onAdd={addBlock}
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
        {block && (
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
              differ: (audience) => {
                setEditing(false);
                edit((before) => edits.wrapInSlot(before, block.id, slotName(block), audience, newId));
              },
            }}
          />
        )}
        {slot && (
          <SlotPanel
            slot={slot}
            choice={choiceOf(slot.id)}
            outcomes={cast?.slots.find((entry) => entry.slot === slot.id)?.outcomes}
            audiences={audiences}
            label={(attribute) => catalogue.get(attribute)?.label ?? attribute}
            actions={slotActions(slot)}
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
            analysis={analysis}
            slot={slot?.id}
            onSelect={setSelected}
            onRepair={(next) => edit(() => next)}
          />
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

function SaveLine({ save }: { save: SaveState }) {
  const words = {
    saved: save.kind === 'saved' ? `saved ${saidInstant(save.at)}` : '',
    waiting: 'saving…',
    saving: 'saving…',
    refused: 'not saved',
    conflict: 'not saved: changed by somebody else',
  }[save.kind];
  return (
    <div className="px-2">
      <span
        role="status"
        className={save.kind === 'refused' || save.kind === 'conflict' ? 'text-apple' : 'text-quiet'}
      >
        {words}
      </span>
      {save.kind === 'refused' && <p className="text-[13px] text-apple">{save.message}</p>}
    </div>
  );
}

function isText(node: Node): boolean {
  return node.kind === 'heading' || node.kind === 'text' || node.kind === 'button' || node.kind === 'line';
}

/** Where a new block goes: into the chosen section or shown variant, after the chosen block, or at the end. */
function targetFor(node: Node | undefined, choiceOf: (slot: string) => number): edits.Target {
  if (!node || node.kind === 'line') return { region: 'body' };
  if (node.kind === 'section') return { section: node.id };
  if (node.kind === 'slot') return { slot: node.id, variant: node.variants[choiceOf(node.id)]?.id ?? null };
  return { after: node.id };
}

function slotName(block: Block): string {
  if (block.kind === 'section' && block.name) return block.name;
  if (block.kind === 'line') return 'Line';
  return block.kind[0]?.toUpperCase() + block.kind.slice(1);
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
