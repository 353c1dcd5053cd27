import { ArrowDown, ArrowUp, Merge, Plus, X } from 'lucide-react';
import { useState } from 'react';
import type { Attribute, Choice } from '../../../core/attributes/attribute.ts';
import { fresh, slug } from '../../../core/exchange/slug.ts';
import { count } from '../../data/count.ts';
import { Button, IconButton } from '../../parts/button.tsx';
import { Popover } from '../../parts/popover.tsx';
import { Select } from '../../parts/select.tsx';

type WithChoices = Extract<Attribute, { type: 'choice' | 'set' }>;
const box = 'h-8 rounded-md border border-line bg-paper px-2';

/** The choices of an attribute in their order, and which of a set go together with which. */
export function ChoicesEditor({
  attribute,
  stored,
  counts,
  onChange,
  onMerge,
}: {
  attribute: WithChoices;
  stored: Attribute;
  counts: ReadonlyMap<string, number>;
  onChange: (attribute: WithChoices) => void;
  onMerge: (from: string, into: string) => void;
}) {
  const [label, setLabel] = useState('');
  const { choices } = attribute;
  const change = (next: Choice[]) => onChange({ ...attribute, choices: next });
  const move = (at: number, by: -1 | 1) => {
    const next = [...choices];
    const [moved] = next.splice(at, 1);
    if (moved) next.splice(at + by, 0, moved);
    change(next);
  };
  const add = () => {
    const name = label.trim();
    if (name === '') return;
    change([...choices, { id: fresh(slug(name), new Set(choices.map(({ id }) => id))), label: name }]);
    setLabel('');
  };
  const isStored = (id: string) => 'choices' in stored && stored.choices.some((choice) => choice.id === id);
  return (
    <section aria-label="Choices" className="mt-6 max-w-3xl">
      <h2 className="text-[16px]">Choices</h2>
      {attribute.type === 'choice' && (
        <label className="mt-1 flex items-baseline gap-2">
          <input
            type="checkbox"
            className="accent-leaf"
            checked={attribute.ordered}
            onChange={(event) => onChange({ ...attribute, ordered: event.target.checked })}
          />
          They are in order, from lowest to highest
        </label>
      )}
      <ol className="mt-2">
        {choices.map((choice, at) => (
          <li key={choice.id} className="flex items-center gap-1 border-b border-line/60 py-1">
            <input
              aria-label={`Name of choice ${at + 1}`}
              className={`${box} w-60`}
              value={choice.label}
              maxLength={120}
              onChange={(event) =>
                change(
                  choices.map((other) =>
                    other === choice ? { ...other, label: event.target.value } : other,
                  ),
                )
              }
            />
            {attribute.type === 'set' && (
              <GroupSelect attribute={attribute} choice={choice} onChange={onChange} />
            )}
            <span className="w-24 px-2 text-right text-quiet">
              {isStored(choice.id) ? count(counts.get(choice.id) ?? 0) : 'new'}
            </span>
            <IconButton label={`Move ${choice.label} up`} disabled={at === 0} onClick={() => move(at, -1)}>
              <ArrowUp size={14} />
            </IconButton>
            <IconButton
              label={`Move ${choice.label} down`}
              disabled={at === choices.length - 1}
              onClick={() => move(at, 1)}
            >
              <ArrowDown size={14} />
            </IconButton>
            {isStored(choice.id) && choices.length > 1 && (
              <MergeMenu
                choice={choice}
                others={choices.filter((other) => other !== choice && isStored(other.id))}
                onMerge={(into) => onMerge(choice.id, into)}
              />
            )}
            <IconButton
              label={`Remove ${choice.label}`}
              disabled={(counts.get(choice.id) ?? 0) > 0}
              onClick={() => change(choices.filter((other) => other !== choice))}
            >
              <X size={14} />
            </IconButton>
          </li>
        ))}
      </ol>
      <form
        className="mt-2 flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          add();
        }}
      >
        <input
          aria-label="Name of a new choice"
          placeholder="New choice"
          className={`${box} w-60`}
          value={label}
          maxLength={120}
          onChange={(event) => setLabel(event.target.value)}
        />
        <Button type="submit" look="quiet" className="h-8" icon={<Plus size={15} aria-hidden />}>
          Add
        </Button>
      </form>
    </section>
  );
}

/** Of which group, if any, a person has at most one. */
function GroupSelect({
  attribute,
  choice,
  onChange,
}: {
  attribute: Extract<Attribute, { type: 'set' }>;
  choice: Choice;
  onChange: (attribute: WithChoices) => void;
}) {
  const { exclusiveGroups: groups } = attribute;
  const current = groups.findIndex(({ members }) => members.includes(choice.id));
  const choose = (value: string) => {
    const without = groups.map((group) => ({
      ...group,
      members: group.members.filter((member) => member !== choice.id),
    }));
    const next =
      value === 'new'
        ? [...without, { name: `Only one of these ${groups.length + 1}`, members: [choice.id] }]
        : without.map((group, at) =>
            String(at) === value ? { ...group, members: [...group.members, choice.id] } : group,
          );
    onChange({ ...attribute, exclusiveGroups: next.filter(({ members }) => members.length > 0) });
  };
  return (
    <Select
      aria-label={`Exclusive group of ${choice.label}`}
      className="w-56 text-quiet"
      value={String(current)}
      onChange={choose}
      options={[
        { value: '-1', label: 'no exclusive group' },
        ...groups.map(({ name }, at) => ({ value: String(at), label: `one of “${name}”` })),
        { value: 'new', label: 'a new exclusive group' },
      ]}
    />
  );
}

function MergeMenu({
  choice,
  others,
  onMerge,
}: {
  choice: Choice;
  others: readonly Choice[];
  onMerge: (into: string) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      label={`Merge ${choice.label} into another choice`}
      className="w-[280px] p-2"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <IconButton label={`Merge ${choice.label} into another choice`}>
          <Merge size={14} />
        </IconButton>
      }
    >
      <p className="px-2 py-1 text-quiet">
        Everybody who has “{choice.label}” has instead, in every audience too:
      </p>
      {others.map((other) => (
        <button
          key={other.id}
          type="button"
          className="block w-full rounded-md px-2 py-1.5 text-left hover:bg-linen"
          onClick={() => {
            setOpen(false);
            onMerge(other.id);
          }}
        >
          {other.label}
        </button>
      ))}
    </Popover>
  );
}
