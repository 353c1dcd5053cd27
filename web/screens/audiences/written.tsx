import { Braces } from 'lucide-react';
import { useId, useRef, useState } from 'react';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { toCel } from '../../../core/conditions/cel.ts';
import type { Condition } from '../../../core/conditions/condition.ts';
import { TextButton } from '../../parts/button.tsx';
import { asGroup } from '../../parts/condition/condition-editor.tsx';

interface Refused {
  at: number;
  message: string;
}

/**
 * The condition as an expression of CEL, to read, copy, paste and type. What can't be read yet stays as it was typed,
 * with its place marked, and the sentence above stays as it was.
 */
export function Written({
  condition,
  catalogue,
  audiences,
  onChange,
}: {
  condition: Condition;
  catalogue: Catalogue;
  audiences: readonly { id: string; name: string }[];
  onChange: (condition: Condition) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <section aria-label="As an expression" className="mt-4 max-w-2xl">
      <TextButton onClick={() => setOpen(!open)} aria-expanded={open}>
        <Braces size={14} className="mr-1 inline" aria-hidden />
        {open ? 'Hide the expression' : 'Read or type it as an expression'}
      </TextButton>
      {open && (
        <Expression condition={condition} catalogue={catalogue} audiences={audiences} onChange={onChange} />
      )}
    </section>
  );
}

function Expression({ condition, catalogue, audiences, onChange }: Parameters<typeof Written>[0]) {
  const problemId = useId();
  const field = useRef<HTMLTextAreaElement>(null);
  const nameOf = (id: string) => audiences.find((audience) => audience.id === id)?.name ?? id;
  const own = written(condition, catalogue, nameOf);
  /** What is being typed, as long as it says something else than the condition does. */
  const [typed, setTyped] = useState<{ text: string; for: Condition; refused: Refused | undefined }>();
  /** What was read last. More may be typed before it has come back as the condition; that is kept too. */
  const answered = useRef<Condition>(undefined);
  const isTyping = typed !== undefined && (typed.for === condition || answered.current === condition);
  const text = isTyping ? typed.text : own;
  const refused = isTyping ? typed.refused : undefined;
  /** The reader is fetched when it's first needed, so an answer may come after more was typed. */
  const latest = useRef('');
  const read = async (next: string) => {
    latest.current = next;
    setTyped({ text: next, for: condition, refused: undefined });
    const { fromCel } = await import('../../../core/conditions/cel-read.ts');
    const audienceOf = (key: string) =>
      audiences.find((audience) => audience.name === key || audience.id === key)?.id;
    if (latest.current !== next) return;
    const found = fromCel(next, { catalogue, audienceOf });
    if (!found.ok) {
      setTyped({ text: next, for: condition, refused: found });
      return;
    }
    // The text stays as it was typed; it only changes its form when the sentence changes.
    const group = asGroup(found.condition);
    answered.current = group;
    setTyped({ text: next, for: group, refused: undefined });
    onChange(group);
  };
  return (
    <div className="mt-2">
      <textarea
        ref={field}
        aria-label="The condition as an expression"
        aria-invalid={refused !== undefined}
        aria-describedby={problemId}
        value={text}
        spellCheck={false}
        rows={Math.min(8, 2 + Math.ceil(text.length / 78))}
        onChange={(event) => void read(event.target.value)}
        className={`w-full rounded-md border bg-paper px-2.5 py-2 font-mono text-[13px] leading-5 [font-variant-ligatures:none] ${refused ? 'border-apple' : 'border-edge/60'}`}
      />
      <p id={problemId} role="status" className={refused ? 'text-apple' : 'text-quiet'}>
        {refused ? (
          <>
            {placeIn(text, refused.at)}: {refused.message}.{' '}
            <button
              type="button"
              className="underline underline-offset-2"
              onClick={() => {
                field.current?.focus();
                field.current?.setSelectionRange(refused.at, Math.min(text.length, refused.at + 1));
              }}
            >
              Show me
            </button>{' '}
            The audience stays as it was until this can be read.
          </>
        ) : (
          'In the Common Expression Language (CEL). A comparison with no value is false.'
        )}
      </p>
    </div>
  );
}

/** A condition with an error can't be written; then there is nothing to show but the error beside the sentence. */
function written(condition: Condition, catalogue: Catalogue, nameOf: (id: string) => string): string {
  try {
    return toCel(condition, catalogue, nameOf);
  } catch {
    return '';
  }
}

function placeIn(text: string, at: number): string {
  const before = text.slice(0, at).split('\n');
  const column = (before.at(-1)?.length ?? 0) + 1;
  const near = text.slice(at, at + 20).split('\n')[0];
  const where = before.length > 1 ? `Line ${before.length}, character ${column}` : `Character ${column}`;
  return near ? `${where}, at “${near}”` : `${where}, at the end`;
}
