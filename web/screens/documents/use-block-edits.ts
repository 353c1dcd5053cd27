import { useState } from 'react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import { hasText, newBlock } from '../../../core/documents/blocks/blocks.ts';
import {
  ancestorsOf,
  type Block,
  type Content,
  findNode,
  firstWords,
  type Node,
  type Slot,
} from '../../../core/documents/document.ts';
import * as edits from '../../../core/documents/edit.ts';
import { wrapForAll } from '../../../core/documents/page-audiences.ts';
import { messageOf } from '../../data/api.ts';
import { noteStep } from '../../data/first-steps.ts';
import { newId } from '../../parts/new-id.ts';
import { toast } from '../../parts/toast.tsx';
import { kindName } from './blocks/blocks.ts';
import type { Beside } from './canvas-places.ts';
import { useBlockKeys } from './clipboard.ts';
import type { Differing } from './differ-button.tsx';
import { signedInAudience } from './signed-in-audience.ts';
import type { Caret } from './text-schema.ts';
import type { EditedDocument } from './use-document.ts';

/** What is chosen in a document, one part or several, and what can be done to it. */
export function useBlockEdits(
  content: Content,
  { edit, history: { now } }: Pick<EditedDocument, 'edit' | 'history'>,
  choiceOf: (slot: string) => number,
  audiences: readonly ListedAudience[],
  /** Shows a choice of a slot. */
  show: (slot: string, choice: number) => void,
) {
  const [selected, setSelected] = useState<string | null>(null);
  const [group, setGroup] = useState<readonly string[]>([]);
  const [editing, setEditing] = useState(false);
  const [caret, setCaret] = useState<Caret>('end');
  /** How often a part was chosen. */
  const [turn, setTurn] = useState(0);
  /** Whether the list is open of what can be put below the chosen part. */
  const [inserting, setInserting] = useState(false);

  const node = selected === null ? undefined : findNode(content, selected);
  const slot: Slot | undefined =
    node?.kind === 'slot'
      ? node
      : ancestorsOf(content, selected ?? '').findLast((above): above is Slot => above.kind === 'slot');
  const block = node && node.kind !== 'slot' ? node : undefined;
  const together = group.length > 1 ? group : selected === null ? [] : [selected];
  const chosen = () => together.flatMap((id) => findNode(now().content, id) ?? []);

  /** Chooses one part, or none, and nothing is written in it yet. */
  const choose = (id: string | null) => {
    setSelected(id);
    setGroup([]);
    setEditing(false);
  };
  const select = (picked: string, more = false, at: Caret = 'end') => {
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
    setTurn((before) => before + 1);
    const found = findNode(content, id);
    setCaret(at);
    setEditing(found !== undefined && hasText(found));
  };
  const update = (id: string, change: (block: Block) => Block, step?: string, isLate?: boolean) =>
    edit(
      (before) => edits.updateNode(before, id, (old) => (old.kind === 'slot' ? old : change(old))),
      step,
      isLate,
    );
  const add = (made: Block, target = targetFor(content, node, choiceOf)) => {
    edit((before) => edits.insertNode(before, target, made));
    choose(made.id);
    // The words that it begins with are there to be written over.
    setCaret('all');
    setEditing(hasText(made));
  };
  /** Adds a block below the chosen one, or in the place of a text that has no words. */
  const insert = (kind: Block['kind']) => {
    const made = newBlock(kind, newId);
    const target = targetFor(content, node, choiceOf);
    edit((before) => {
      const after = edits.insertNode(before, target, made);
      const above = node && findNode(before, node.id);
      return above?.kind === 'text' && firstWords([above], () => '…') === ''
        ? edits.removeNode(after, above.id)
        : after;
    });
    choose(made.id);
    setCaret('all');
    setEditing(hasText(made));
  };
  const remove = () => {
    edit((before) => together.reduce((left, id) => edits.removeNode(left, id), before));
    choose(null);
  };
  const paste = (nodes: readonly Node[]) => {
    // A line is a subject or a title, of which there is one.
    const copies = nodes
      .filter((one) => !edits.isOfLines(one))
      .map((one) => edits.copyNode<Node>(one, newId));
    if (copies.length === 0) return;
    edit((before) => {
      let target: edits.Target = node ? edits.beside(before, node.id) : { region: 'body' };
      let after = before;
      for (const copy of copies) {
        after = edits.insertNode(after, target, copy);
        target = { after: copy.id };
      }
      return after;
    });
    choose(copies[0]?.id ?? null);
  };
  const differ = async (ids: readonly string[], name: string, how: Differing) => {
    setEditing(false);
    setGroup([]);
    noteStep('variant');
    if (how.kind === 'all' || how.kind === 'variant') {
      let made: Slot | undefined;
      const [only] = ids;
      edit((before) => {
        const after =
          how.kind === 'all'
            ? wrapForAll(before, ids, name, newId)
            : ids.length === 1 && only !== undefined
              ? edits.wrapInSlot(before, only, name, how.audience, newId)
              : edits.wrapGroup(before, ids, name, how.audience, newId);
        made = ancestorsOf(after, only ?? '').findLast((above): above is Slot => above.kind === 'slot');
        return after;
      });
      // What is new is what is written next.
      if (made) {
        choose(made.id);
        show(made.id, 0);
      }
      return;
    }
    const { kind, audience } = how;
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
  useBlockKeys({ chosen, remove, paste, insert: () => block && setInserting(true) });

  return {
    selected,
    block,
    slot,
    /** Several, where more than one is chosen. */
    group,
    together,
    editing: editing && block !== undefined && hasText(block),
    setEditing,
    caret,
    setCaret,
    turn,
    choose,
    select,
    update,
    /** Words as they are typed: the field shows them at once, everything around it follows when there is time. */
    type: (id: string, change: (block: Block) => Block) => update(id, change, `text ${id}`, true),
    add: (kind: Block['kind']) => add(newBlock(kind, newId)),
    addAt: (kind: Block['kind'], to: Beside) => add(newBlock(kind, newId), to),
    /** Adds a picture of a file, below the chosen block if no place is given. */
    addPicture: (file: string, name: string, to?: Beside) => {
      const made = newBlock('picture', newId);
      if (made.kind !== 'picture') return;
      add({ ...made, file, alt: altOf(name) }, to);
    },
    insert,
    inserting,
    setInserting,
    move: (id: string, to: Beside | { step: edits.NodeStep }) =>
      edit((before) =>
        'step' in to ? edits.stepNode(before, id, to.step) : edits.moveBeside(before, id, to),
      ),
    addTitle: (words: string) => {
      const title = newBlock('line', newId);
      if (title.kind === 'line') title.content = [{ type: 'text', text: words }];
      add(title, { region: 'subject' });
    },
    remove,
    duplicate: () => paste(chosen()),
    differ: (how: Differing) => differ(together, block && group.length <= 1 ? slotName(block) : 'Group', how),
    differWhole: (how: Differing) =>
      differ(
        content.body.map(({ id }) => id),
        'The whole page',
        how,
      ),
  };
}

export type BlockEdits = ReturnType<typeof useBlockEdits>;

/** Where a new block goes: into the chosen section or shown variant, after the chosen block, or at the end. */
function targetFor(
  content: Content,
  node: Node | undefined,
  choiceOf: (slot: string) => number,
): edits.Target {
  if (!node) return { region: 'body' };
  if (edits.heldBy(content, node.id) !== 'blocks') return edits.beside(content, node.id);
  if (node.kind === 'section' || node.kind === 'links') return { section: node.id };
  if (node.kind === 'slot') return { slot: node.id, variant: node.variants[choiceOf(node.id)]?.id ?? null };
  return { after: node.id };
}

/** Words for a picture to begin with, from the name of its file: "dome-at-night.jpg" is "dome at night". */
function altOf(fileName: string): string {
  return fileName
    .replace(/\.\w+$/, '')
    .replace(/[-_]+/g, ' ')
    .trim()
    .slice(0, 300);
}

function slotName(block: Block): string {
  return 'name' in block && block.name ? block.name : kindName(block.kind);
}
