import { ArrowUp, Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { choicesOf } from '../../../core/attributes/attribute.ts';
import type { FormBlock } from '../../../core/documents/blocks/people.ts';
import { IconButton } from '../../parts/button.tsx';
import { AttributePicker } from '../../parts/condition/attribute-picker.tsx';
import { TextField } from '../../parts/field.tsx';
import { Popover } from '../../parts/popover.tsx';
import type { SettingsProps } from './settings-props.ts';

/** The fields of a form: each answer fills an attribute of the contact. */
export function FormSettings({ block, catalogue, update }: SettingsProps<'form'>) {
  const [adding, setAdding] = useState(false);
  const set = (change: Partial<FormBlock>) =>
    update((old) => (old.kind === 'form' ? { ...old, ...change } : old));
  const change = (at: number, part: Partial<FormBlock['fields'][number]>) =>
    set({ fields: block.fields.map((old, index) => (index === at ? { ...old, ...part } : old)) });
  return (
    <>
      <ul className="flex flex-col gap-2">
        {block.fields.map((field, at) => {
          const attribute = catalogue.get(field.attribute);
          const label = attribute?.label ?? 'an attribute that is gone';
          const choices = attribute ? choicesOf(attribute) : [];
          return (
            <li key={field.attribute} className="rounded-md border border-line bg-paper p-2">
              <div className="flex items-center gap-1">
                <span className={`min-w-0 flex-1 truncate font-medium ${attribute ? '' : 'text-apple'}`}>
                  {label}
                </span>
                <IconButton
                  label={`Move ${label} up`}
                  disabled={at === 0}
                  onClick={() => {
                    const fields = [...block.fields];
                    fields.splice(at - 1, 0, ...fields.splice(at, 1));
                    set({ fields });
                  }}
                >
                  <ArrowUp size={14} />
                </IconButton>
                <IconButton
                  label={`Remove ${label} from the form`}
                  onClick={() => set({ fields: block.fields.filter((_, index) => index !== at) })}
                >
                  <Trash2 size={14} />
                </IconButton>
              </div>
              <input
                aria-label={`What is asked for ${label}`}
                placeholder={label}
                className="mt-1 h-8 w-full rounded-md border border-line bg-paper px-2"
                value={field.label}
                maxLength={200}
                onChange={(event) => change(at, { label: event.target.value })}
              />
              <label className="mt-1 flex items-baseline gap-1.5">
                <input
                  type="checkbox"
                  className="accent-leaf"
                  checked={field.required}
                  onChange={(event) => change(at, { required: event.target.checked })}
                />
                Required
              </label>
              {choices.length > 0 && (
                <details className="mt-1">
                  <summary className="cursor-pointer text-quiet">
                    {field.only ? `${field.only.length} of ${choices.length} choices` : 'all choices'}
                  </summary>
                  {choices.map(({ id, label: choice }) => (
                    <label key={id} className="flex items-baseline gap-1.5">
                      <input
                        type="checkbox"
                        className="accent-leaf"
                        checked={field.only?.includes(id) ?? true}
                        onChange={(event) => {
                          const before = field.only ?? choices.map((one) => one.id);
                          const only = event.target.checked
                            ? [...before, id]
                            : before.filter((one) => one !== id);
                          change(at, { only });
                        }}
                      />
                      {choice}
                    </label>
                  ))}
                </details>
              )}
            </li>
          );
        })}
      </ul>
      <Popover
        label="Add a field"
        className="w-[580px] p-2"
        open={adding}
        onOpenChange={setAdding}
        trigger={
          <button
            type="button"
            className="inline-flex items-center gap-1 self-start text-quiet hover:text-ink"
          >
            <Plus size={15} aria-hidden /> Add a field
          </button>
        }
      >
        <AttributePicker
          catalogue={catalogue}
          sources={['contact']}
          onChoose={({ id }) => {
            setAdding(false);
            if (!block.fields.some(({ attribute }) => attribute === id))
              set({ fields: [...block.fields, { attribute: id, label: '', required: false }] });
          }}
        />
      </Popover>
      <TextField
        label="Button text"
        value={block.submit}
        maxLength={80}
        onChange={(event) => event.target.value !== '' && set({ submit: event.target.value })}
      />
      <TextField
        label="Thank-you page (leave empty to stay on the page)"
        placeholder="/site/thank-you"
        value={block.next}
        maxLength={200}
        onChange={(event) => set({ next: event.target.value })}
      />
      <p className="text-quiet">
        Answers are stored before the next page is decided. Visitors who aren’t known yet need the email
        address among the fields.
      </p>
    </>
  );
}
