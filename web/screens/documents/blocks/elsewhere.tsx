import { Code, Share2 } from 'lucide-react';
import { useDocuments } from '../../../data/data.ts';
import { Field } from '../../../parts/field.tsx';
import { SelectField } from '../../../parts/select-field.tsx';
import type { SettingsProps } from '../settings-props.ts';
import { changing, type EditedBlock } from './block.ts';

export const shared: EditedBlock<'shared'> = {
  name: 'Shared content',
  icon: Share2,
  group: 'HTML and shared content',
  Settings: SharedSettings,
};

export const html: EditedBlock<'html'> = {
  name: 'HTML',
  icon: Code,
  group: 'HTML and shared content',
  Settings: HtmlSettings,
};

function HtmlSettings({ block, update }: SettingsProps<'html'>) {
  const set = changing(update, 'html');
  return (
    <Field label="HTML" hint="Scripts, styles, frames and forms are removed when it is saved.">
      {(attributes) => (
        <textarea
          {...attributes}
          rows={8}
          spellCheck={false}
          className="w-full rounded-md border border-edge/60 bg-paper px-2 py-1 font-mono text-[12px]"
          value={block.html}
          maxLength={200_000}
          onChange={(event) => set({ html: event.target.value })}
        />
      )}
    </Field>
  );
}

function SharedSettings({ block, update }: SettingsProps<'shared'>) {
  const { data: documents = [] } = useDocuments();
  const pieces = documents.filter(({ kind }) => kind === 'shared');
  const known = pieces.some(({ id }) => id === block.document);
  return (
    <SelectField
      label="Which piece"
      value={block.document}
      options={[
        ...(known ? [] : [{ value: block.document, label: 'choose a piece' }]),
        ...pieces.map(({ id, name }) => ({ value: id, label: name })),
      ]}
      onChange={(document) => update((old) => (old.kind === 'shared' ? { ...old, document } : old))}
    />
  );
}
