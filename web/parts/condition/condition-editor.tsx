import { Plus, UserRoundPlus, X } from 'lucide-react';
import { type ReactNode, useEffect, useState } from 'react';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { all, any, type Condition, inAudience, not } from '../../../core/conditions/condition.ts';
import type { Problem } from '../../../core/conditions/validate.ts';
import { count } from '../../data/count.ts';
import { IconButton } from '../button.tsx';
import { PickList } from '../pick-list.tsx';
import { Popover } from '../popover.tsx';
import { Select } from '../select.tsx';
import { AddTest } from './add-test.tsx';
import { Gap, Handle, useMoveKeys } from './regrouping.tsx';
import { TestSentence } from './test-sentence.tsx';

export type Group = Extract<Condition, { kind: 'all' | 'any' }>;

interface Surroundings {
  catalogue: Catalogue;
  /** Where the attributes of new tests may come from; anywhere when not given. */
  sources?: readonly Attribute['source'][];
  /** Audiences that may be used as a part. */
  audiences: readonly { id: string; name: string }[];
  /** What is wrong, with paths from the part that is edited. */
  problems: readonly Problem[];
  /** How many contacts pass each part, by its path, of how many; empty while that is not known. */
  counts?: { parts: ReadonlyMap<string, number>; total: number };
}

/** A condition as a group, for editing: a single test becomes a group of one. */
export function asGroup(condition: Condition): Group {
  return condition.kind === 'all' || condition.kind === 'any' ? condition : (all(condition) as Group);
}

/** A group of parts as indented lines under a word that says how they combine. */
export function GroupEditor({
  group,
  onChange,
  surroundings,
  path = '',
  lead,
  about = 'people',
}: {
  group: Group;
  onChange: (group: Group) => void;
  surroundings: Surroundings;
  path?: string;
  lead?: string;
  /** What the condition is about, for its words. */
  about?: 'people' | 'items';
}) {
  const of = about === 'items' ? 'which' : 'whom';
  const [added, setAdded] = useState<Condition>();
  // A new part opens when it is added, but not again after it was moved.
  useEffect(() => {
    if (added) setAdded(undefined);
  }, [added]);
  const replace = (index: number, part: Condition | undefined) =>
    onChange({
      ...group,
      of: group.of.flatMap((old, at) => (at === index ? (part ? [part] : []) : [old])),
    });
  const add = (part: Condition) => {
    setAdded(part);
    onChange({ ...group, of: [...group.of, part] });
  };
  return (
    <div>
      <span>
        {lead && `${lead} `}
        <Select
          aria-label="How the parts combine"
          look="words"
          value={group.kind}
          onChange={(kind) => onChange({ ...group, kind })}
          className="font-semibold text-leaf"
          options={[
            { value: 'all', label: lead ? `for ${of} all of these hold` : 'all of these' },
            { value: 'any', label: lead ? `for ${of} any of these holds` : 'any of these' },
          ]}
        />
      </span>
      <ul className="ml-3.5 mt-1 flex flex-col gap-2 border-l-2 border-line pl-4">
        {group.of.map((part, index) => (
          <Part
            // biome-ignore lint/suspicious/noArrayIndexKey: parts have no identity of their own
            key={index}
            part={part}
            path={join(path, 'of', index)}
            gap={<Gap group={path} at={index} />}
            isNew={part === added}
            surroundings={surroundings}
            onChange={(next) => replace(index, next)}
            onRemove={() => replace(index, undefined)}
          />
        ))}
        <li className="relative flex flex-wrap items-center gap-x-4 text-[14px]">
          <Gap group={path} at={group.of.length} />
          <AddTest
            catalogue={surroundings.catalogue}
            sources={surroundings.sources}
            label="Add a test"
            onAdd={add}
            trigger={
              <button type="button" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
                <Plus size={15} aria-hidden /> {group.kind === 'all' ? 'and…' : 'or…'}
              </button>
            }
          />
          <button
            type="button"
            className="inline-flex items-center gap-1 text-quiet hover:text-ink"
            onClick={() => add(group.kind === 'all' ? any() : all())}
          >
            <Plus size={15} aria-hidden /> a group
          </button>
          {surroundings.audiences.length > 0 && (
            <AddAudience audiences={surroundings.audiences} onAdd={add} />
          )}
        </li>
      </ul>
    </div>
  );
}

interface PartProps {
  part: Condition;
  path: string;
  /** Where another part can be dropped before this one. */
  gap: ReactNode;
  isNew: boolean;
  surroundings: Surroundings;
  onChange: (part: Condition) => void;
  onRemove: () => void;
}

function Part({ part, path, gap, isNew, surroundings, onChange, onRemove }: PartProps) {
  const negated = part.kind === 'not';
  const inner = negated ? part.of : part;
  const innerPath = negated ? join(path, 'of') : path;
  const changeInner = (next: Condition) => onChange(negated ? not(next) : next);
  const problem = surroundings.problems.find(
    (found) => inner.kind !== 'all' && inner.kind !== 'any' && found.path.startsWith(innerPath),
  );
  const onKeyDown = useMoveKeys(path);
  return (
    <li className="group/part relative" onKeyDown={onKeyDown}>
      {gap}
      <div className="flex items-start gap-2">
        <Handle path={path} />
        {negated && (
          <button
            type="button"
            title="Remove “not”"
            onClick={() => onChange(inner)}
            className="font-semibold text-apple"
          >
            not
          </button>
        )}
        <div className="min-w-0">
          <PartBody
            part={inner}
            path={innerPath}
            isNew={isNew}
            surroundings={surroundings}
            onChange={changeInner}
          />
          {problem && <div className="text-[14px] text-apple">{problem.message}</div>}
        </div>
        {inner.kind !== 'all' && inner.kind !== 'any' && <Passing path={path} counts={surroundings.counts} />}
        {!negated && (
          <button
            type="button"
            title="Invert"
            onClick={() => onChange(not(inner))}
            className="px-1 text-[14px] text-quiet opacity-0 hover:text-apple focus-visible:opacity-100 group-hover/part:opacity-100"
          >
            not
          </button>
        )}
        <IconButton
          label="Remove this part"
          onClick={onRemove}
          className="opacity-0 focus-visible:opacity-100 group-hover/part:opacity-100"
        >
          <X size={15} />
        </IconButton>
      </div>
    </li>
  );
}

/** How many contacts pass a part, as a bar and a number. */
function Passing({ path, counts }: { path: string; counts: Surroundings['counts'] }) {
  const passing = counts?.parts.get(path);
  if (!counts || passing === undefined) return null;
  return (
    <span
      className="mt-2 inline-flex shrink-0 items-center gap-1.5 text-[12px] leading-4 text-quiet"
      title={`${count(passing)} of ${count(counts.total)} contacts pass this part`}
    >
      <span className="h-1.5 w-14 overflow-hidden rounded-full bg-line" aria-hidden>
        <span
          className="block h-full bg-leaf"
          style={{ width: `${(100 * passing) / Math.max(1, counts.total)}%` }}
        />
      </span>
      <span>{count(passing)}</span>
      <span className="sr-only">contacts pass this part</span>
    </span>
  );
}

function PartBody({ part, path, isNew, surroundings, onChange }: Omit<PartProps, 'onRemove' | 'gap'>) {
  switch (part.kind) {
    case 'test':
      return (
        <TestSentence
          test={part}
          catalogue={surroundings.catalogue}
          onChange={onChange}
          openAtFirst={isNew}
        />
      );
    case 'audience': {
      const audience = surroundings.audiences.find((other) => other.id === part.audience);
      return (
        <span>
          <span className="text-quiet">in</span>{' '}
          <span className="rounded-md border border-line bg-paper px-2 py-0.5 font-semibold">
            {audience?.name ?? 'an audience that is gone'}
          </span>
        </span>
      );
    }
    case 'not':
      return (
        <span className="flex gap-2">
          <button type="button" className="font-semibold text-apple" onClick={() => onChange(part.of)}>
            not
          </button>
          <PartBody
            part={part.of}
            path={join(path, 'of')}
            isNew={false}
            surroundings={surroundings}
            onChange={(next) => onChange(not(next))}
          />
        </span>
      );
    default:
      return <GroupEditor group={part} path={path} surroundings={surroundings} onChange={onChange} />;
  }
}

function AddAudience({
  audiences,
  onAdd,
}: {
  audiences: readonly { id: string; name: string }[];
  onAdd: (part: Condition) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      label="Use another audience"
      className="w-[300px] p-2"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <button type="button" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
          <UserRoundPlus size={15} aria-hidden /> another audience
        </button>
      }
    >
      <PickList
        label="Which audience?"
        groups={[{ heading: 'Audiences', options: audiences.map(({ id, name }) => ({ id, label: name })) }]}
        onChoose={(id) => {
          setOpen(false);
          onAdd(inAudience(id));
        }}
      />
    </Popover>
  );
}

function join(...parts: (string | number)[]): string {
  return parts.filter((part) => part !== '').join('.');
}
