import { X } from 'lucide-react';
import type { ReactNode } from 'react';
import type { Facts } from '../../../core/attributes/viewer.ts';
import type { Choices, Decider } from '../../../core/deciding/decide.ts';
import type { Content, Document, Node } from '../../../core/documents/document.ts';
import { emailParts } from '../../../core/rendering/email.ts';
import { Flat } from '../../../core/rendering/flatten.ts';
import { emptyContext } from '../../../core/rendering/markup.ts';
import { IconButton } from '../../parts/button.tsx';
import { VariantMark } from '../../parts/variant-mark.tsx';
import type { MergeWords } from './text-schema.ts';

/** Subject and preview line above an email, as this reader's mail program lists them; edited in place. */
export function EmailHead({
  content,
  choiceOf,
  say,
  selected,
  editing,
  plain,
  onPlain,
  onSelect,
}: {
  content: Content;
  choiceOf: (slot: string) => number;
  say: MergeWords;
  selected: string | null;
  editing: { block: string; editor: ReactNode } | undefined;
  plain: boolean;
  onPlain: (plain: boolean) => void;
  onSelect: (id: string) => void;
}) {
  const lines = { choiceOf, say, selected, editing, onSelect };
  return (
    <div className="mx-auto mb-4 flex max-w-[680px] items-start gap-4 rounded-md border border-line bg-paper px-4 py-2.5">
      <div className="flex min-w-0 flex-1 flex-col gap-1">
        <HeadLine label="Subject" nodes={content.subject} {...lines} />
        <HeadLine label="Preview" nodes={content.preview} {...lines} />
      </div>
      <fieldset className="flex shrink-0 rounded-md border border-line">
        <legend className="sr-only">Part of the message</legend>
        {[false, true].map((value) => (
          <button
            key={String(value)}
            type="button"
            aria-pressed={plain === value}
            onClick={() => onPlain(value)}
            className={`h-8 px-2.5 first:rounded-l-[7px] last:rounded-r-[7px] ${plain === value ? 'bg-ink text-paper' : 'text-quiet'}`}
          >
            {value ? 'Plain text' : 'Designed'}
          </button>
        ))}
      </fieldset>
    </div>
  );
}

interface LineProps {
  choiceOf: (slot: string) => number;
  say: MergeWords;
  selected: string | null;
  editing: { block: string; editor: ReactNode } | undefined;
  onSelect: (id: string) => void;
}

/** The title of a page, shown above it; browsers show it in their tab. */
export function TitleHead({
  content,
  onRemove,
  ...lines
}: LineProps & { content: Content; onRemove: () => void }) {
  return (
    <div className="mb-3 flex items-center gap-3 rounded-md border border-line bg-paper px-4 py-2">
      <div className="min-w-0 flex-1">
        <HeadLine label="Title" nodes={content.subject} {...lines} />
      </div>
      <IconButton label="Remove the title; the page’s name is used instead" onClick={onRemove}>
        <X size={14} />
      </IconButton>
    </div>
  );
}

/** One line above the canvas, edited in place; its letter leads to the slot that it is. */
function HeadLine({
  label,
  nodes,
  choiceOf,
  say,
  selected,
  editing,
  onSelect,
}: LineProps & { label: string; nodes: readonly Node[] }) {
  const [node] = nodes;
  const choice = node?.kind === 'slot' ? choiceOf(node.id) : undefined;
  const [line] = node?.kind === 'slot' ? (node.variants[choice ?? -1]?.content ?? node.otherwise) : nodes;
  if (line?.kind !== 'line') return null;
  return (
    <div className="flex items-baseline gap-3">
      <span className="w-16 shrink-0 text-quiet">{label}</span>
      <span className="w-6 shrink-0">
        {choice !== undefined && node && (
          <button type="button" aria-label={`${label} differs by audience`} onClick={() => onSelect(node.id)}>
            <VariantMark choice={choice} />
          </button>
        )}
      </span>
      {editing?.block === line.id ? (
        <div className="line-editor min-w-0 flex-1 rounded-md px-1 ring-2 ring-leaf">{editing.editor}</div>
      ) : (
        <button
          type="button"
          aria-pressed={selected === line.id}
          onClick={() => onSelect(line.id)}
          className={`min-w-0 flex-1 truncate rounded-md px-1 text-left hover:bg-linen ${label === 'Preview' ? '' : 'font-semibold'}`}
        >
          {line.content.map((inline, index) => {
            if (inline.type === 'text') return inline.text;
            if (inline.type === 'hardBreak') return ' ';
            if (inline.type === 'alternatives') return inline.attrs.otherwise;
            const { words } = say(inline.attrs.attribute, inline.attrs.fallback);
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: inline text has no identity of its own
              <span key={index} className="rounded bg-leaf-wash px-1">
                {words}
              </span>
            );
          })}
          {line.content.length === 0 && <span className="text-quiet">nothing written</span>}
        </button>
      )}
    </div>
  );
}

/** The plain-text part that goes with the message. */
export function PlainText({
  document,
  decider,
  facts,
  choices,
}: {
  document: Document;
  decider: Decider;
  facts: Facts;
  choices: Choices;
}) {
  const { catalogue, snapshot } = decider;
  const parts = emailParts(document.content, catalogue, snapshot.settings, window.location.origin);
  const text = new Flat(parts.text, catalogue, 'text').join({
    ...emptyContext,
    facts,
    choices,
    instant: Date.now(),
    links: { unsubscribe: `${window.location.origin}/site/unsubscribe` },
  });
  return (
    <pre className="mx-auto max-w-[680px] whitespace-pre-wrap rounded-md border border-line bg-paper p-6 font-mono text-[13px] leading-5">
      {text}
    </pre>
  );
}
