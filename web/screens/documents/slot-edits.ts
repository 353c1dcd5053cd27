import { newBlock } from '../../../core/documents/blocks/blocks.ts';
import type { Content, Node, Slot } from '../../../core/documents/document.ts';
import * as edits from '../../../core/documents/edit.ts';
import { noteStep } from '../../data/first-steps.ts';
import { newId } from '../../parts/new-id.ts';
import type { SlotActions } from './slot-actions.ts';
import type { Edit } from './use-document.ts';

/** What the panel of a slot does to it. */
export function slotEdits(
  of: Slot,
  {
    edit,
    choice,
    show,
    force,
    select,
  }: {
    edit: Edit;
    /** What is on screen. */
    choice: number;
    show: (choice: number) => void;
    force: (choice: number) => void;
    select: (id: string | null) => void;
  },
): SlotActions {
  const onScreen = of.variants[choice];
  return {
    show,
    addVariant: (audience) => {
      const there = of.variants.findIndex((variant) => variant.audience === audience);
      if (there >= 0) return show(there);
      noteStep('variant');
      edit((before) => edits.addVariant(before, of.id, audience, onScreen?.id ?? null, newId));
      force(of.variants.length);
    },
    moveVariant: (variant, to) => edit((before) => edits.moveVariant(before, of.id, variant, to)),
    removeVariant: (variant) => edit((before) => edits.removeVariant(before, of.id, variant)),
    setAudience: (variant, audience) =>
      edit((before) => edits.setVariantAudience(before, of.id, variant, audience)),
    setNothing: () => edit((before) => edits.updateSlot(before, of.id, (old) => ({ ...old, otherwise: [] }))),
    writeOtherwise: () =>
      edit((before) =>
        edits.updateSlot(before, of.id, (old) => ({
          ...old,
          otherwise: firstOf(before, old).map((inner) => edits.copyNode(inner, newId)),
        })),
      ),
    rename: (name) =>
      edit((before) => edits.updateSlot(before, of.id, (old) => ({ ...old, name })), `slot name ${of.id}`),
    dissolve: () => {
      edit((before) => edits.dissolveSlot(before, of.id, onScreen?.id ?? null));
      select((onScreen?.content ?? of.otherwise)[0]?.id ?? null);
    },
    copyInto: (variant, into) =>
      edit((before) => edits.copyVariant(before, { slot: of.id, variant }, into, newId)),
    takeAudiences: (audiences) => edit((before) => edits.takeAudiences(before, of.id, audiences, newId)),
  };
}

/** What is written first where a slot shows nothing: a copy of its first variant, or something to write over. */
function firstOf(content: Content, { id, variants }: Slot): readonly Node[] {
  const [first] = variants;
  if (first && first.content.length > 0) return first.content;
  return edits.heldBy(content, id) === 'blocks'
    ? [newBlock('text', newId)]
    : [{ kind: 'line', id: newId(), content: [{ type: 'text', text: 'New words' }] }];
}
