import { useId, useState } from 'react';
import type { Attribute, Value } from '../../../core/attributes/attribute.ts';
import { parseValue } from '../../../core/attributes/parse.ts';
import { valueText } from '../../../core/exchange/value-text.ts';
import { Button } from '../button.tsx';
import { DateInput } from '../date-input.tsx';
import { Select } from '../select.tsx';
import { choiceOptions, valueOfOption } from './choice-options.ts';
import { SetChoices } from './set-choices.tsx';

const box = 'h-9 rounded-md border border-edge/60 bg-paper px-2 aria-invalid:border-apple';

/** Edits one value of an attribute; blank is no value. Enter stores it, Escape leaves it as it was. */
export function ValueEditor({
  attribute,
  value,
  onStore,
  onLeave,
}: {
  attribute: Attribute;
  value: Value | undefined;
  onStore: (value: Value | null) => void;
  onLeave: () => void;
}) {
  if (attribute.type === 'set')
    return <SetEditor attribute={attribute} value={value} onStore={onStore} onLeave={onLeave} />;
  if (attribute.type === 'choice' || attribute.type === 'yes-no') {
    return (
      <Select
        aria-label={attribute.label}
        startsOpen
        className="w-full"
        value={attribute.type === 'yes-no' ? valueText(attribute, value) : String(value ?? '')}
        onClose={onLeave}
        onChange={(option) => onStore(valueOfOption(attribute, option) ?? null)}
        options={choiceOptions(attribute)}
      />
    );
  }
  return <TextEditor attribute={attribute} value={value} onStore={onStore} onLeave={onLeave} />;
}

interface EditorProps {
  attribute: Attribute;
  value: Value | undefined;
  onStore: (value: Value | null) => void;
  onLeave: () => void;
}

function TextEditor({ attribute, value, onStore, onLeave }: EditorProps) {
  const [text, setText] = useState(valueText(attribute, value));
  const [problem, setProblem] = useState<string>();
  const id = useId();
  const store = () => {
    if (text === valueText(attribute, value)) return onLeave();
    const parsed = parseValue(attribute, text);
    if (parsed.ok) onStore(parsed.value ?? null);
    else setProblem(parsed.reason);
  };
  const given = {
    'aria-label': attribute.label,
    'aria-describedby': id,
    // It appears where the value stood that was chosen to be edited.
    autoFocus: true,
    value: text,
    onKeyDown: (event: React.KeyboardEvent) => {
      if (event.key === 'Enter') store();
      if (event.key === 'Escape') onLeave();
    },
  };
  return (
    <span className="flex min-w-0 flex-1 flex-col">
      {attribute.type === 'date' ? (
        <DateInput {...given} className="w-full" onChange={setText} onLeave={store} />
      ) : (
        <input
          {...given}
          aria-invalid={problem !== undefined}
          type={attribute.type === 'time' ? 'time' : 'text'}
          inputMode={attribute.type === 'number' ? 'decimal' : 'text'}
          className={`${box} w-full`}
          onChange={(event) => setText(event.target.value)}
          onBlur={store}
        />
      )}
      <span id={id} role={problem === undefined ? undefined : 'alert'} className="text-apple">
        {problem}
      </span>
    </span>
  );
}

/** Any of the choices, stored together. */
function SetEditor({ attribute, value, onStore, onLeave }: EditorProps) {
  const [held, setHeld] = useState(() => (Array.isArray(value) ? value : []));
  const leave = (event: React.KeyboardEvent) => event.key === 'Escape' && onLeave();
  return (
    <fieldset className="flex-1 rounded-md border border-edge/60 bg-paper px-3 py-2" onKeyDown={leave}>
      <legend className="sr-only">{attribute.label}</legend>
      <SetChoices attribute={attribute} held={held} autoFocus onChange={setHeld} />
      <div className="mt-1 flex gap-2">
        <Button look="primary" className="h-8" onClick={() => onStore(held.length > 0 ? held : null)}>
          Save
        </Button>
        <Button look="quiet" className="h-8" onClick={onLeave}>
          Cancel
        </Button>
      </div>
    </fieldset>
  );
}
