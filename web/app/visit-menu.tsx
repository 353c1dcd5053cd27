import { Compass, X } from 'lucide-react';
import { useState } from 'react';
import { type Attribute, choicesOf } from '../../core/attributes/attribute.ts';
import { formatValue } from '../../core/attributes/format.ts';
import { parseValue, readValue } from '../../core/attributes/parse.ts';
import { useCatalogue } from '../data/data.ts';
import { useLooking } from '../data/looking.tsx';
import { Button, IconButton } from '../parts/button.tsx';
import { Popover } from '../parts/popover.tsx';
import { Select } from '../parts/select.tsx';

const field = 'h-9 min-w-0 rounded-md border border-edge/60 bg-paper px-2';

/** Where the visit comes from and what else it tells: any value that a page can be decided by. */
export function VisitMenu() {
  const { look, change } = useLooking();
  const [isOpen, setOpen] = useState(false);
  const catalogue = useCatalogue();
  const visit = look.visit ?? {};
  const details = Object.entries(visit).flatMap(([id, value]) => {
    const attribute = catalogue?.get(id);
    const known = attribute && readValue(attribute, value);
    return attribute && known !== undefined ? [{ attribute, said: formatValue(attribute, known) }] : [];
  });
  const set = (id: string, value: unknown) => {
    const { [id]: _before, ...rest } = visit;
    const next = value === undefined ? rest : { ...rest, [id]: value };
    change({ visit: Object.keys(next).length > 0 ? next : null });
  };
  const open = (catalogue?.attributes ?? []).filter(
    ({ source, id }) => source === 'visit' && id !== 'visit-device' && !(id in visit),
  );
  return (
    <Popover
      label="Visit details"
      side="top"
      className="w-[340px] p-3"
      open={isOpen}
      onOpenChange={setOpen}
      trigger={
        <Button className="h-8 max-w-[220px]" icon={<Compass size={15} aria-hidden />}>
          <span className="truncate" title={details.map(({ said }) => said).join(', ')}>
            {details.length === 0 ? 'Direct visit' : details.map(({ said }) => said).join(', ')}
          </span>
        </Button>
      }
    >
      <h2 className="text-[14px]">Visit details</h2>
      {details.length === 0 && <p className="text-quiet">Only the device so far.</p>}
      <ul className="my-2 flex flex-col gap-1">
        {details.map(({ attribute, said }) => (
          <li key={attribute.id} className="flex items-center gap-2">
            <span className="text-quiet first-letter:uppercase">{attribute.label}</span>
            <strong className="min-w-0 flex-1 truncate">{said}</strong>
            <IconButton label={`Forget ${attribute.label}`} onClick={() => set(attribute.id, undefined)}>
              <X size={14} />
            </IconButton>
          </li>
        ))}
      </ul>
      {open.length > 0 && <AddFact attributes={open} onAdd={set} />}
    </Popover>
  );
}

function AddFact({
  attributes,
  onAdd,
}: {
  attributes: readonly Attribute[];
  onAdd: (id: string, value: unknown) => void;
}) {
  const [id, setId] = useState(attributes[0]?.id ?? '');
  const [text, setText] = useState('');
  const [problem, setProblem] = useState<string>();
  const attribute = attributes.find((one) => one.id === id) ?? attributes[0];
  if (!attribute) return null;
  const choices =
    attribute.type === 'yes-no'
      ? [
          { id: 'yes', label: 'yes' },
          { id: 'no', label: 'no' },
        ]
      : choicesOf(attribute);
  const add = (raw: string) => {
    const parsed = parseValue(attribute, raw);
    setProblem(parsed.ok ? undefined : parsed.reason);
    if (!parsed.ok || parsed.value === undefined) return;
    onAdd(attribute.id, parsed.value);
    setText('');
  };
  return (
    <form
      className="flex flex-col gap-2 border-t border-line pt-2"
      onSubmit={(event) => {
        event.preventDefault();
        add(text || (choices[0]?.id ?? ''));
      }}
    >
      <Select
        aria-label="Detail to add"
        value={attribute.id}
        onChange={(chosen) => {
          setId(chosen);
          setText('');
          setProblem(undefined);
        }}
        options={attributes.map((one) => ({ value: one.id, label: one.label }))}
      />
      <span className="flex gap-2">
        {choices.length > 0 ? (
          <Select
            aria-label={attribute.label}
            value={text || (choices[0]?.id ?? '')}
            onChange={setText}
            className="flex-1"
            options={choices.map((choice) => ({ value: choice.id, label: choice.label }))}
          />
        ) : (
          <input
            aria-label={attribute.label}
            value={text}
            onChange={(event) => setText(event.target.value)}
            placeholder={attribute.description}
            className={`${field} flex-1`}
          />
        )}
        <Button type="submit">Add</Button>
      </span>
      {problem && (
        <p role="alert" className="text-apple">
          {problem}
        </p>
      )}
    </form>
  );
}
