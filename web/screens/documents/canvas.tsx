import { type ReactNode, useRef } from 'react';
import type { StoredDocument } from '../../../contract/documents.ts';
import { everyoneElse } from '../../../core/deciding/decide.ts';
import { variantLetter } from '../../../core/documents/document.ts';
import { useSayOutcome } from '../../data/counts.ts';
import { Notice } from '../../parts/notice.tsx';
import { DocumentView } from '../../parts/rendering/document-view.tsx';
import { ClosedNotice, ItemChoice } from './canvas-notes.tsx';
import { CanvasTools } from './canvas-tools.tsx';
import { EmailHead, PlainText, TitleHead } from './email-head.tsx';
import { KeptWords } from './kept-words.tsx';
import { SlotTabs } from './slot-tabs.tsx';
import type { BlockEdits } from './use-block-edits.ts';
import type { EditedDocument } from './use-document.ts';
import { useInView } from './use-in-view.ts';
import type { Decided, Shown } from './use-shown.ts';

const widths = { computer: '100%', tablet: '768px', phone: '390px' };

/** The document exactly as the viewer gets it, edited in place, with a tab at each slot. */
export function Canvas({
  stored,
  edited: { draft, document, edit, takeUp },
  shown,
  decided,
  blocks,
  writing,
  onInserted,
  plain,
  onPlain,
}: {
  stored: StoredDocument;
  edited: EditedDocument;
  shown: Shown;
  decided: Decided;
  blocks: BlockEdits;
  /** The block that is being written in, and its editor. */
  writing: { block: string; editor: ReactNode } | undefined;
  /** Puts the focus back into the words once the list of blocks is closed. */
  onInserted: () => void;
  /** Whether an email is shown as plain text. */
  plain: boolean;
  onPlain: (plain: boolean) => void;
}) {
  const sayOutcome = useSayOutcome();
  const frame = useRef<HTMLDivElement>(null);
  useInView(frame, blocks.selected);
  const { content, access } = draft;
  const { look, choiceOf, nameOf, forced, item } = shown;
  const { decider, facts, choices } = decided;
  const tabs = decided.slots
    .filter(({ id }) => id !== content.subject[0]?.id && id !== content.preview[0]?.id)
    .map((slot) => {
      const choice = choiceOf(slot.id);
      const audience = slot.variants[choice]?.audience;
      const people = shown.outcomesOf(slot.id)?.at(choice)?.count;
      const who = choice === everyoneElse || audience === undefined ? 'Everyone else' : nameOf(audience);
      const said = sayOutcome(slot, choice, people);
      const noun = /^\d/.test(said) ? (people === 1 ? ' person' : ' people') : '';
      return { slot, choice, label: said === '' ? who : `${who} · ${said}${noun}` };
    });
  const head = {
    content,
    choiceOf,
    say: shown.say,
    selected: blocks.selected,
    editing: writing,
    onSelect: blocks.select,
  };
  return (
    <section
      aria-label="Canvas"
      // Whether a variant is shown that the viewer does not get.
      data-forced={forced ? '' : undefined}
      data-instant={shown.viewer.instant}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
      tabIndex={0}
      className="min-h-0 overflow-y-auto p-4"
    >
      <KeptWords stored={stored} onTakeUp={takeUp} />
      {forced && shown.outcomesOf(forced.slot)?.at(forced.choice)?.count === 0 && (
        <div className="mb-3">
          <Notice kind="careful" title={`No contact gets variant ${variantLetter(forced.choice)} today`}>
            Shown here for writing only; the person you look as gets something else.{' '}
            <button type="button" className="underline" onClick={() => shown.force(undefined)}>
              Back to the real view
            </button>
          </Notice>
        </div>
      )}
      {item && draft.collection && <ItemChoice items={shown.items} item={item} onChoose={shown.chooseItem} />}
      {access && !decider.contains(access.audience, facts) && <ClosedNotice access={access} look={look} />}
      {document.kind === 'page' && content.subject.length > 0 && (
        <TitleHead
          {...head}
          onRemove={() => {
            edit((before) => ({ ...before, subject: [] }));
            blocks.choose(null);
          }}
        />
      )}
      {document.kind === 'email' && <EmailHead {...head} plain={plain} onPlain={onPlain} />}
      {document.kind === 'email' && look.person && look.signedIn && (
        <p className="mx-auto -mt-2 mb-3 max-w-[680px] px-1 text-quiet">
          Decided as recognised: nobody is signed in while reading an email.
        </p>
      )}
      {document.kind === 'email' && plain ? (
        <PlainText document={shown.document} decider={decider} facts={facts} choices={choices} />
      ) : (
        <div ref={frame} className="relative mx-auto" style={{ maxWidth: widths[look.device] }}>
          <DocumentView
            document={shown.document}
            decider={decider}
            viewer={shown.viewer}
            facts={facts}
            choices={choices}
            selected={blocks.selected}
            onSelect={(id, at) => blocks.select(id, false, at)}
            editing={writing}
            className="overflow-hidden rounded-md border border-line shadow-soft"
          />
          <SlotTabs
            frame={frame}
            slots={tabs}
            selected={blocks.slot?.id ?? null}
            onSelect={(id) => blocks.choose(id)}
          />
          <CanvasTools
            frame={frame}
            content={content}
            drawn={decided}
            block={blocks.group.length > 1 ? undefined : blocks.block}
            isInSlot={blocks.slot !== undefined}
            kind={document.kind}
            isItemPage={Boolean(document.collection)}
            audiences={shown.audiences}
            inserting={blocks.inserting}
            onInserting={blocks.setInserting}
            onInserted={onInserted}
            actions={blocks}
          />
        </div>
      )}
    </section>
  );
}
