import { dequal } from 'dequal';
import { Plus, Trash2 } from 'lucide-react';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import type { ListedAudience } from '../../../contract/audiences.ts';
import type { ListedCollection } from '../../../contract/collections.ts';
import { type Attribute, attributeSchema, choicesOf } from '../../../core/attributes/attribute.ts';
import type { CollectionField } from '../../../core/collections/collection.ts';
import { slug } from '../../../core/exchange/slug.ts';
import { callWithoutAnswer, messageOf } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { Button, IconButton } from '../../parts/button.tsx';
import { Confirm } from '../../parts/confirm.tsx';
import { TextField } from '../../parts/field.tsx';
import { Notice } from '../../parts/notice.tsx';
import { Select } from '../../parts/select.tsx';
import { toast } from '../../parts/toast.tsx';
import { AccessField } from './access-field.tsx';

/** What a field can hold, as the person choosing it says it. */
const holds = {
  text: 'text',
  'long-text': 'longer text',
  picture: 'a picture',
  number: 'a number',
  'whole-number': 'a whole number',
  date: 'a date',
  'yes-no': 'yes or no',
  choice: 'single choice',
  set: 'multiple choice',
} as const;
type Holds = keyof typeof holds;
const isHeld = (name: string): name is Holds => name in holds;
const kindsHeld = Object.keys(holds)
  .filter(isHeld)
  .map((value) => ({ value, label: holds[value] }));

/** A collection as a whole: its name, address, access and fields. */
export function CollectionSettings({
  collection,
  audiences,
  onDirty,
  onDeleted,
}: {
  collection: ListedCollection;
  audiences: readonly ListedAudience[];
  /** Called with whether there are unsaved changes. */
  onDirty: (isDirty: boolean) => void;
  onDeleted: () => void;
}) {
  const navigate = useNavigate();
  const { name, slug: address, access, locked, fields } = collection;
  const stored = { name, slug: address, access, locked, fields };
  const [draft, setDraft] = useState(stored);
  const [problem, setProblem] = useState<string>();
  const isDirty = !dequal(draft, stored);
  useEffect(() => {
    onDirty(isDirty);
    return () => onDirty(false);
  }, [isDirty, onDirty]);
  const path = `/collections/${collection.id}`;
  const [asking, setAsking] = useState<'delete' | 'fields'>();
  const left = new Set(draft.fields.map(({ attribute }) => attribute.id));
  const goneFields = collection.fields
    .filter(({ attribute }) => !left.has(attribute.id))
    .map(({ attribute }) => `“${attribute.label}”`);
  const items =
    collection.items === 0
      ? 'It has no items.'
      : collection.items === 1
        ? 'Its one item goes with it.'
        : `Its ${count(collection.items)} items go with it.`;
  const store = async () => {
    setAsking(undefined);
    setProblem(undefined);
    try {
      await callWithoutAnswer('PUT', path, { ...draft, revision: collection.revision });
      toast.success(`“${draft.name}” is saved. It goes live with the next release.`);
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const remove = async () => {
    setAsking(undefined);
    try {
      await callWithoutAnswer('DELETE', path);
      onDeleted();
      toast(`“${collection.name}” is deleted with its items.`);
      void navigate('/collections');
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const changeField = (at: number, field: CollectionField) =>
    setDraft({ ...draft, fields: draft.fields.map((old, index) => (index === at ? field : old)) });
  return (
    <section aria-label="Fields and access" className="flex flex-col gap-3">
      <h2 className="text-[18px]">Fields and access</h2>
      {problem !== undefined && <Notice kind="wrong" title={problem} />}
      <TextField
        label="Name"
        value={draft.name}
        maxLength={120}
        onChange={(event) => setDraft({ ...draft, name: event.target.value })}
      />
      <TextField
        label="Path after /site/"
        value={draft.slug}
        maxLength={80}
        onChange={(event) => setDraft({ ...draft, slug: event.target.value })}
      />
      <AccessField
        label="Who can open its items"
        value={draft.access}
        audiences={audiences}
        onChange={(next) => setDraft({ ...draft, access: next })}
      />
      <label className="flex items-baseline gap-2">
        <input
          type="checkbox"
          className="accent-leaf"
          checked={draft.locked}
          onChange={(event) => setDraft({ ...draft, locked: event.target.checked })}
        />
        <span>
          List items that are closed to somebody as locked, with their title and teaser. Otherwise they are
          not there at all.
        </span>
      </label>
      <h3 className="mt-2 font-display text-[16px] font-semibold">Fields</h3>
      <p className="-mt-2 text-quiet">Every item also has a title, a teaser and publishing times.</p>
      <ul className="flex flex-col gap-2">
        {draft.fields.map((field, at) => (
          <li
            // biome-ignore lint/suspicious/noArrayIndexKey: a new field has no id of its own yet
            key={at}
            className="rounded-md border border-line bg-paper p-2"
          >
            <FieldEditor
              field={field}
              onChange={(next) => changeField(at, next)}
              onRemove={() => setDraft({ ...draft, fields: draft.fields.filter((_, index) => index !== at) })}
            />
          </li>
        ))}
      </ul>
      <Button
        icon={<Plus size={15} aria-hidden />}
        onClick={() => setDraft({ ...draft, fields: [...draft.fields, fieldOf('text', '', undefined)] })}
      >
        Add a field
      </Button>
      <div className="mt-2 flex justify-between">
        <Button look="danger" icon={<Trash2 size={15} aria-hidden />} onClick={() => setAsking('delete')}>
          Delete
        </Button>
        <Button
          look="primary"
          disabled={!isDirty}
          onClick={() => (goneFields.length > 0 && collection.items > 0 ? setAsking('fields') : store())}
        >
          {isDirty ? 'Save' : 'Saved'}
        </Button>
      </div>
      <Confirm
        open={asking === 'delete'}
        title={`Delete “${collection.name}”?`}
        description={`${items} This can’t be undone.`}
        action="Delete collection"
        onConfirm={remove}
        onClose={() => setAsking(undefined)}
      />
      <Confirm
        open={asking === 'fields'}
        title={`Save without ${goneFields.join(' and ')}?`}
        description={`What ${collection.items === 1 ? 'the item holds' : `the ${collection.items} items hold`} in ${goneFields.length === 1 ? 'this field' : 'these fields'} goes with it. This can’t be undone.`}
        action="Save"
        onConfirm={store}
        onClose={() => setAsking(undefined)}
      />
    </section>
  );
}

function FieldEditor({
  field,
  onChange,
  onRemove,
}: {
  field: CollectionField;
  onChange: (field: CollectionField) => void;
  onRemove: () => void;
}) {
  const { attribute } = field;
  const kind = holdsOf(field);
  const name = attribute.label || 'new field';
  return (
    <>
      <div className="flex items-center gap-2">
        <input
          aria-label={`Name of the field ${name}`}
          placeholder="Name"
          className="h-8 min-w-0 flex-1 rounded-md border border-line bg-paper px-2"
          value={attribute.label}
          maxLength={120}
          onChange={(event) => onChange({ ...field, attribute: { ...attribute, label: event.target.value } })}
        />
        <Select
          aria-label={`What ${name} holds`}
          className="h-8"
          value={kind}
          onChange={(next) => onChange(fieldOf(next, attribute.label, attribute))}
          options={kindsHeld}
        />
        <IconButton label={`Remove ${name}`} onClick={onRemove}>
          <Trash2 size={14} />
        </IconButton>
      </div>
      {(attribute.type === 'choice' || attribute.type === 'set') && (
        <ChoiceLines attribute={attribute} onChange={(next) => onChange({ ...field, attribute: next })} />
      )}
    </>
  );
}

/** The choices, one a line; a line that stays keeps what it stands for. */
function ChoiceLines({
  attribute,
  onChange,
}: {
  attribute: Extract<Attribute, { type: 'choice' | 'set' }>;
  onChange: (attribute: Attribute) => void;
}) {
  const [text, setText] = useState(
    choicesOf(attribute)
      .map(({ label }) => label)
      .join('\n'),
  );
  return (
    <textarea
      aria-label={`Choices of ${attribute.label}, one a line`}
      placeholder="One choice a line"
      rows={Math.min(8, Math.max(2, choicesOf(attribute).length))}
      className="mt-2 w-full rounded-md border border-line bg-paper px-2 py-1"
      value={text}
      onChange={(event) => {
        setText(event.target.value);
        const labels = [...new Set(event.target.value.split('\n').map((line) => line.trim()))].filter(
          Boolean,
        );
        const choices = labels.map((label) => {
          const known = attribute.choices.find((choice) => choice.label === label);
          return known ?? { id: slug(label) || label, label };
        });
        onChange({ ...attribute, choices });
      }}
    />
  );
}

function holdsOf({ attribute, use }: CollectionField): Holds {
  if (use !== 'value') return use;
  const { type } = attribute;
  if (type === 'number' && attribute.whole) return 'whole-number';
  return type in holds ? (type as Holds) : 'text';
}

function fieldOf(kind: Holds, label: string, before: Attribute | undefined): CollectionField {
  const use = kind === 'picture' || kind === 'long-text' ? kind : 'value';
  const type = use !== 'value' ? 'text' : kind === 'whole-number' ? 'number' : kind;
  const choices = before ? [...choicesOf(before)] : [];
  const base = {
    id: before?.id ?? 'new',
    source: 'item',
    label: label.trim() || 'new field',
    description: '',
    type,
  };
  const attribute = attributeSchema.parse(
    type === 'choice'
      ? { ...base, choices, ordered: false }
      : type === 'set'
        ? { ...base, choices, exclusiveGroups: [] }
        : kind === 'whole-number'
          ? { ...base, whole: true }
          : base,
  );
  return { attribute: { ...attribute, label }, use };
}
