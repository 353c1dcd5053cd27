import { dequal } from 'dequal';
import { Trash2 } from 'lucide-react';
import { useEffect, useState } from 'react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import {
  type ItemDraft,
  type ListedCollection,
  type StoredItem,
  storedItemSchema,
} from '../../../contract/collections.ts';
import { parseValue } from '../../../core/attributes/parse.ts';
import type { CollectionField } from '../../../core/collections/collection.ts';
import { slug } from '../../../core/exchange/slug.ts';
import { valueText } from '../../../core/exchange/value-text.ts';
import { call, callWithoutAnswer, messageOf } from '../../data/api.ts';
import { useCatalogue } from '../../data/data.ts';
import { instantOf, localInput } from '../../data/moment.ts';
import { Button } from '../../parts/button.tsx';
import { DateField } from '../../parts/date-input.tsx';
import { Field, TextField } from '../../parts/field.tsx';
import { FilePicker } from '../../parts/file-picker.tsx';
import { Form } from '../../parts/form.tsx';
import { Select } from '../../parts/select.tsx';
import { toast } from '../../parts/toast.tsx';
import { choiceOptions, valueOfOption } from '../../parts/value/choice-options.ts';
import { SetChoices } from '../../parts/value/set-choices.tsx';
import { AccessField } from './access-field.tsx';
import { ListedField } from './listed-field.tsx';

const blank: ItemDraft = {
  slug: '',
  title: '',
  teaser: '',
  values: {},
  access: null,
  listed: null,
  from: null,
  until: null,
};
const box = 'w-full rounded-md border border-edge/60 bg-paper px-3 py-1.5';

/** One item as a form. */
export function ItemPanel({
  collection,
  item,
  audiences,
  onDirty,
  onDone,
}: {
  collection: ListedCollection;
  item: StoredItem | undefined;
  audiences: readonly ListedAudience[];
  /** Called with whether there are unsaved changes. */
  onDirty: (isDirty: boolean) => void;
  onDone: (id: string | undefined) => void;
}) {
  const stored: ItemDraft = item ? draftOf(item) : blank;
  const [draft, setDraft] = useState(stored);
  const isDirty = !dequal(draft, stored);
  useEffect(() => {
    onDirty(isDirty);
    return () => onDirty(false);
  }, [isDirty, onDirty]);
  const zone = useCatalogue()?.zone ?? 'UTC';
  const set = (change: Partial<ItemDraft>) => setDraft({ ...draft, ...change });
  const address = draft.slug || slug(draft.title);
  const store = async () => {
    const body = { ...draft, slug: address };
    const kept = item
      ? await call('PUT', `/items/${item.id}`, storedItemSchema, { ...body, revision: item.revision })
      : await call('POST', `/collections/${collection.id}/items`, storedItemSchema, body);
    onDone(kept.id);
    toast.success(`“${kept.title}” is saved. It goes live with the next release.`);
  };
  const remove = async () => {
    if (!item) return;
    try {
      await callWithoutAnswer('DELETE', `/items/${item.id}`);
      onDone(undefined);
      toast(`“${item.title}” is deleted.`, {
        action: {
          label: 'Undo',
          onClick: async () => {
            await call('POST', `/collections/${collection.id}/items`, storedItemSchema, stored);
          },
        },
      });
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  return (
    <Form onSend={store}>
      <h2 className="text-[18px]">{item ? 'The item' : 'A new item'}</h2>
      <TextField
        label="Title"
        value={draft.title}
        maxLength={200}
        onChange={(event) => set({ title: event.target.value })}
      />
      <TextField
        label={`Path after /site/${collection.slug}/`}
        value={address}
        maxLength={80}
        onChange={(event) => set({ slug: event.target.value })}
      />
      <Field
        label="Teaser"
        hint="Shown in lists, also to those who may not open it where closed items are listed."
      >
        {(attributes) => (
          <textarea
            {...attributes}
            rows={2}
            className={box}
            value={draft.teaser}
            maxLength={500}
            onChange={(event) => set({ teaser: event.target.value })}
          />
        )}
      </Field>
      {collection.fields.map((field) => (
        <ValueField
          key={field.attribute.id}
          field={field}
          value={draft.values[field.attribute.id]}
          onChange={(value) => {
            const { [field.attribute.id]: _, ...rest } = draft.values;
            set({ values: value === undefined ? rest : { ...rest, [field.attribute.id]: value } });
          }}
        />
      ))}
      <AccessField
        label="Who can open it"
        value={draft.access}
        audiences={audiences}
        onChange={(access) => set({ access })}
      />
      <ListedField listed={draft.listed} audiences={audiences} onChange={(listed) => set({ listed })} />
      <MomentField label="Published from" zone={zone} value={draft.from} onChange={(from) => set({ from })} />
      <MomentField label="Until" zone={zone} value={draft.until} onChange={(until) => set({ until })} />
      <p className="text-quiet">In the site’s time zone, {zone.replaceAll('_', ' ')}.</p>
      <div className="mt-2 flex justify-between">
        {item ? (
          <Button look="danger" icon={<Trash2 size={15} aria-hidden />} onClick={remove}>
            Delete
          </Button>
        ) : (
          <span />
        )}
        <Button look="primary" type="submit" disabled={draft.title.trim() === '' || !isDirty}>
          {item ? (isDirty ? 'Save' : 'Saved') : 'Add item'}
        </Button>
      </div>
    </Form>
  );
}

function ValueField({
  field: { attribute, use },
  value,
  onChange,
}: {
  field: CollectionField;
  value: unknown;
  onChange: (value: unknown) => void;
}) {
  if (use === 'picture')
    return (
      <FilePicker
        label={attribute.label}
        kind="picture"
        file={typeof value === 'string' ? value : null}
        onChange={(file) => onChange(file ?? undefined)}
      />
    );
  if (use === 'long-text')
    return (
      <Field label={attribute.label}>
        {(attributes) => (
          <textarea
            {...attributes}
            rows={5}
            className={box}
            value={typeof value === 'string' ? value : ''}
            onChange={(event) => onChange(event.target.value === '' ? undefined : event.target.value)}
          />
        )}
      </Field>
    );
  if (attribute.type === 'set') {
    const held = Array.isArray(value) ? value.map(String) : [];
    return (
      <fieldset>
        <legend className="font-medium first-letter:uppercase">{attribute.label}</legend>
        <div className="flex flex-wrap gap-x-4">
          <SetChoices
            attribute={attribute}
            held={held}
            onChange={(next) => onChange(next.length === 0 ? undefined : next)}
          />
        </div>
      </fieldset>
    );
  }
  if (attribute.type === 'choice' || attribute.type === 'yes-no') {
    const shown = typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value ?? '');
    return (
      <Field label={attribute.label}>
        {(attributes) => (
          <Select
            {...attributes}
            className="w-full"
            value={String(shown)}
            onChange={(option) => onChange(valueOfOption(attribute, option))}
            options={choiceOptions(attribute)}
          />
        )}
      </Field>
    );
  }
  return <PlainField attribute={attribute} value={value} onChange={onChange} />;
}

/** A value written as text; what can't be read stays on screen with the reason and is not taken over. */
function PlainField({
  attribute,
  value,
  onChange,
}: {
  attribute: CollectionField['attribute'];
  value: unknown;
  onChange: (value: unknown) => void;
}) {
  const [text, setText] = useState(valueText(attribute, value));
  const [problem, setProblem] = useState<string>();
  const given = { label: attribute.label, value: text, problem };
  const take = (typed: string) => {
    setText(typed);
    const parsed = parseValue(attribute, typed);
    setProblem(parsed.ok ? undefined : parsed.reason);
    if (parsed.ok) onChange(parsed.value);
  };
  return attribute.type === 'date' ? (
    <DateField {...given} onChange={take} />
  ) : (
    <TextField {...given} onChange={({ target }) => take(target.value)} />
  );
}

/** An instant, typed as the clocks show it where the site is. */
function MomentField({
  label,
  zone,
  value,
  onChange,
}: {
  label: string;
  zone: string;
  value: string | null;
  onChange: (value: string | null) => void;
}) {
  return (
    <DateField
      label={label}
      withTime
      value={value === null ? '' : localInput(Date.parse(value), zone)}
      onChange={(local) => {
        const instant = instantOf(local, zone);
        onChange(instant === undefined ? null : new Date(instant).toISOString());
      }}
    />
  );
}

function draftOf({
  slug: address,
  title,
  teaser,
  values,
  access,
  listed = null,
  from,
  until,
}: StoredItem): ItemDraft {
  return { slug: address, title, teaser, values, access, listed, from, until };
}
