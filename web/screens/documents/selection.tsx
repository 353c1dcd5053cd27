import type { Editor } from '@tiptap/react';
import { Send } from 'lucide-react';
import { channelOf, findNode } from '../../../core/documents/document.ts';
import * as edits from '../../../core/documents/edit.ts';
import { fieldsWithoutFallback, placesLinkedTo } from '../../../core/documents/validate.ts';
import type { DocumentAnalysis } from '../../data/analysis.ts';
import { useDocuments, usePictures } from '../../data/data.ts';
import { Button } from '../../parts/button.tsx';
import { Notice } from '../../parts/notice.tsx';
import { BlockPanel } from './block-panel.tsx';
import { DocumentAudiences } from './document-audiences.tsx';
import { DocumentFindings } from './document-findings.tsx';
import { GroupPanel } from './group-panel.tsx';
import { PagePanel } from './page-panel.tsx';
import { isPlace } from './places.ts';
import { NotSaved } from './save-line.tsx';
import { slotEdits } from './slot-edits.ts';
import { SlotPanel } from './slot-panel.tsx';
import type { BlockEdits } from './use-block-edits.ts';
import type { EditedDocument } from './use-document.ts';
import { useMend } from './use-mend.ts';
import type { Decided, Shown } from './use-shown.ts';
import { WhatDiffers } from './what-differs.tsx';
import { WhyLine } from './why-line.tsx';

/** What is selected, or the document as a whole, with what is found about it. */
export function Selection({
  edited,
  shown,
  decided,
  blocks,
  editor,
  onSend,
}: {
  edited: EditedDocument;
  shown: Shown;
  decided: Decided;
  blocks: BlockEdits;
  /** Of the block that is being written in. */
  editor: Editor | null;
  onSend: () => void;
}) {
  const { document, draft, edit, configure } = edited;
  const { content } = draft;
  const { audiences, choiceOf, nameOf, look, library, analysis } = shown;
  const { block, slot, group } = blocks;
  const { catalogue } = decided.decider;
  const { data: documents } = useDocuments();
  const pictures = usePictures();
  const several = group.length > 1;
  const gaps = fieldsWithoutFallback(content);
  const dead =
    library && documents && placesLinkedTo(content).find(({ place }) => !isPlace(place, documents, library));
  const found = analysis && shown.document.content !== content ? withoutRepairs(analysis) : analysis;
  const mend = useMend(shown, edit);
  const aboutFindings = {
    channel: channelOf(document.kind),
    slot: slot?.id,
    onSelect: blocks.select,
    onRepair: mend,
  };
  const others = found && <DocumentFindings analysis={found} about="others" {...aboutFindings} />;
  return (
    <aside
      id="selection"
      aria-label="What is selected"
      className="flex min-h-0 flex-col gap-5 overflow-y-auto border-l border-line px-4 py-3"
    >
      <NotSaved edited={edited} />
      {document.kind === 'email' && (
        <div className="grid shrink-0">
          <Button look="plain" icon={<Send size={15} aria-hidden />} onClick={onSend}>
            Send to…
          </Button>
        </div>
      )}
      {several && (
        <GroupPanel
          count={group.length}
          areNeighbours={edits.areNeighbours(content, group)}
          audiences={audiences}
          onDuplicate={blocks.duplicate}
          onRemove={blocks.remove}
          setForAll={content.audiences}
          onDiffer={(how) => void blocks.differ(how)}
        />
      )}
      {!several && block && (
        <BlockPanel
          key={block.id}
          block={block}
          kind={document.kind}
          editor={editor}
          audiences={audiences}
          pictures={pictures}
          catalogue={catalogue}
          canDiffer={audiences.length > 0}
          setForAll={content.audiences}
          actions={{
            update: (change) => blocks.update(block.id, change, `settings ${block.id}`),
            move: (by) => edit((before) => edits.moveNode(before, block.id, by)),
            duplicate: blocks.duplicate,
            remove: blocks.remove,
            differ: (how) => void blocks.differ(how),
          }}
        />
      )}
      {!several && slot && (
        <SlotPanel
          slot={slot}
          others={decided.slots.filter(({ id }) => id !== slot.id && findNode(content, id))}
          alike={decided.slots.filter(
            ({ id }) =>
              id !== slot.id &&
              findNode(content, id) &&
              edits.heldBy(content, id) === edits.heldBy(content, slot.id),
          )}
          isLine={edits.heldBy(content, slot.id) === 'line'}
          choice={choiceOf(slot.id)}
          outcomes={shown.outcomesOf(slot.id)}
          audiences={audiences}
          setForAll={content.audiences}
          overlaps={
            analysis && (analysis.overlaps?.filter((overlap) => overlap.slot === slot.id) ?? 'not proved')
          }
          channel={channelOf(document.kind)}
          label={(attribute) => catalogue.get(attribute)?.label ?? attribute}
          actions={slotEdits(slot, {
            edit,
            choice: choiceOf(slot.id),
            show: (choice) => {
              blocks.choose(slot.id);
              shown.lookAsWhoGets(slot, choice);
            },
            force: (choice) => shown.force({ slot: slot.id, choice }),
            select: blocks.choose,
          })}
        />
      )}
      {!slot && !block && others}
      {!slot && !block && document.kind === 'page' && (
        <PagePanel
          document={document}
          audiences={audiences}
          viewer={shown.viewer}
          onChange={configure}
          onTitle={() => blocks.addTitle(draft.name)}
          onDiffer={(how) => void blocks.differWhole(how)}
        />
      )}
      {!slot && !block && (
        <WhatDiffers slots={decided.slots} choiceOf={choiceOf} nameOf={nameOf} onSelect={blocks.choose} />
      )}
      {!slot && !block && audiences.length > 0 && (
        <DocumentAudiences content={content} audiences={audiences} edit={edit} />
      )}
      {slot && found && <DocumentFindings analysis={found} about="slot" {...aboutFindings} />}
      {slot && (
        <WhyLine
          slot={slot}
          kind={document.kind}
          decider={decided.decider}
          facts={decided.facts}
          nameOf={nameOf}
          name={look.person?.name ?? 'an anonymous visitor'}
          instant={shown.since}
        />
      )}
      {(slot || block) && others}
      {dead && (
        <Notice kind="careful" title="A link leads nowhere">
          There is no page or item at /site/{dead.place}.{' '}
          <button type="button" className="underline" onClick={() => blocks.select(dead.block)}>
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
          <button type="button" className="underline" onClick={() => gaps[0] && blocks.select(gaps[0].block)}>
            Show me
          </button>
        </Notice>
      )}
    </aside>
  );
}

/** Findings about shared content are fixed in the shared content itself, so they offer no repair here. */
function withoutRepairs(analysis: DocumentAnalysis): DocumentAnalysis {
  return { ...analysis, findings: analysis.findings.map((finding) => ({ ...finding, repairs: [] })) };
}
