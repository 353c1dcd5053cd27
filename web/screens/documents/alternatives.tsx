import { type Editor, Node as EditorNode } from '@tiptap/core';
import { Plus, Trash2 } from 'lucide-react';
import { nanoid } from 'nanoid';
import { variantLetter } from '../../../core/documents/document.ts';
import { type Alternatives, alternativesSchema } from '../../../core/documents/text.ts';
import { IconButton } from '../../parts/button.tsx';
import { Select } from '../../parts/select.tsx';
import { VariantMark } from '../../parts/variant-mark.tsx';
import { saidAnew } from './said-anew.ts';
import { selectedPiece } from './selected-piece.ts';

/** Which of the words that differ a viewer gets: the place of the variant, -1 for everyone else. */
export type ChooseWords = (slot: string) => number;

/** A few words that differ, as one piece in the text: the words of who is looked at, under a quiet tab. */
export function alternativesNode(choose: ChooseWords) {
  return EditorNode.create({
    name: 'alternatives',
    group: 'inline',
    inline: true,
    atom: true,
    addAttributes: () => ({
      id: { default: '' },
      name: { default: 'Words' },
      variants: { default: [] },
      otherwise: { default: '' },
    }),
    parseHTML: () => [
      {
        tag: 'span[data-alternatives]',
        getAttrs: (element) => {
          try {
            const attrs: unknown = JSON.parse(element.getAttribute('data-alternatives') ?? '');
            const read = alternativesSchema.shape.attrs.safeParse(attrs);
            // A copy is a place of its own.
            return read.success ? withNewIds(read.data) : false;
          } catch {
            return false;
          }
        },
      },
    ],
    renderHTML: ({ node }) => [
      'span',
      { 'data-alternatives': JSON.stringify(node.attrs) },
      String(node.attrs.otherwise),
    ],
    addNodeView: () => (view) => {
      const dom = document.createElement('span');
      dom.className = 'merge alternatives';
      let attributes: { [name: string]: unknown } = view.node.attrs;
      const show = () => {
        const read = alternativesSchema.shape.attrs.safeParse(attributes).data;
        const choice = read ? choose(read.id) : -1;
        const words = read?.variants[choice]?.words ?? read?.otherwise ?? '';
        dom.textContent = words;
        // Signs to choose it by, which are none of its words.
        if (choice < 0) delete dom.dataset.letter;
        else dom.dataset.letter = variantLetter(choice);
        if (words === '') dom.dataset.blank = '(nothing)';
        else delete dom.dataset.blank;
      };
      show();
      dom.addEventListener(saidAnew, show);
      return {
        dom,
        update: (node) => {
          if (node.type.name !== 'alternatives') return false;
          attributes = node.attrs;
          show();
          return true;
        },
      };
    },
  });
}

export function selectedAlternatives(editor: Editor): Alternatives['attrs'] | undefined {
  return alternativesSchema.shape.attrs.safeParse(selectedPiece(editor, 'alternatives')?.attrs).data;
}

/** Makes the words that are selected differ for an audience, or begins with some where none are. */
export function insertAlternatives(editor: Editor, audience: string): void {
  const { from, to } = editor.state.selection;
  const words = editor.state.doc.textBetween(from, to, ' ') || 'words';
  const attrs: Alternatives['attrs'] = {
    id: nanoid(12),
    name: [...words].slice(0, 40).join(''),
    variants: [{ id: nanoid(12), audience, words }],
    otherwise: words,
  };
  editor.chain().insertContentAt({ from, to }, { type: 'alternatives', attrs }).setNodeSelection(from).run();
}

/** The words for each audience, and for everyone else. */
export function AlternativesForm({
  attrs,
  audiences,
  isNew,
  onChange,
}: {
  attrs: Alternatives['attrs'];
  audiences: readonly { id: string; name: string }[];
  /** Whether they were made to differ just now, and the first of them are to be written. */
  isNew: boolean;
  onChange: (attrs: Partial<Alternatives['attrs']>) => void;
}) {
  const { variants } = attrs;
  const change = (at: number, part: Partial<(typeof variants)[number]>) =>
    onChange({ variants: variants.map((old, index) => (index === at ? { ...old, ...part } : old)) });
  const field = 'h-8 min-w-0 flex-1 rounded-md border border-line bg-paper px-2';
  return (
    <fieldset className="flex flex-col gap-1.5 rounded-md border border-line p-2">
      <legend className="px-1 font-medium">Varying words</legend>
      {variants.map((variant, at) => (
        <div key={variant.id} className="flex flex-col gap-1">
          <div className="flex items-center gap-1.5">
            <VariantMark choice={at} />
            <Select
              aria-label={`Audience of the words ${variantLetter(at)}`}
              className="h-7 min-w-0 flex-1 text-[13px]"
              value={variant.audience}
              onChange={(audience) => change(at, { audience })}
              placeholder="a deleted audience"
              options={audiences.map(({ id, name }) => ({ value: id, label: name }))}
            />
            <IconButton
              label={`Remove the words ${variantLetter(at)}`}
              onClick={() => onChange({ variants: variants.filter((_, index) => index !== at) })}
            >
              <Trash2 size={13} />
            </IconButton>
          </div>
          <input
            aria-label={`Words ${variantLetter(at)}`}
            className={field}
            // biome-ignore lint/a11y/noAutofocus: they are what whoever made them differ writes next
            autoFocus={isNew && at === 0}
            onFocus={(event) => isNew && at === 0 && event.target.select()}
            value={variant.words}
            maxLength={2000}
            onChange={(event) => change(at, { words: event.target.value })}
          />
        </div>
      ))}
      <div className="flex items-center gap-1.5">
        <VariantMark choice={-1} />
        <input
          aria-label="Words for everyone else"
          placeholder="nothing"
          className={field}
          value={attrs.otherwise}
          maxLength={2000}
          onChange={(event) => onChange({ otherwise: event.target.value })}
        />
      </div>
      {variants.length < 26 && (
        <button
          type="button"
          className="inline-flex items-center gap-1 self-start text-[13px] text-quiet hover:text-ink"
          onClick={() =>
            onChange({
              variants: [
                ...variants,
                { id: nanoid(12), audience: audiences[0]?.id ?? '', words: attrs.otherwise },
              ],
            })
          }
        >
          <Plus size={14} aria-hidden /> words for…
        </button>
      )}
    </fieldset>
  );
}

function withNewIds(attrs: Alternatives['attrs']): Alternatives['attrs'] {
  return {
    ...attrs,
    id: nanoid(12),
    variants: attrs.variants.map((variant) => ({ ...variant, id: nanoid(12) })),
  };
}
