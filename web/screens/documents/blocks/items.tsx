import { Braces, LayoutGrid } from 'lucide-react';
import { SelectField } from '../../../parts/select-field.tsx';
import { ListSettings } from '../list-settings.tsx';
import type { SettingsProps } from '../settings-props.ts';
import { changing, type EditedBlock } from './block.ts';

export const list: EditedBlock<'list'> = {
  name: 'List of items',
  icon: LayoutGrid,
  group: 'Links',
  Settings: ListSettings,
};

export const field: EditedBlock<'field'> = {
  name: 'Field of the item',
  icon: Braces,
  group: 'Links',
  onItemPages: true,
  Settings: FieldSettings,
};

function FieldSettings({ block, catalogue, update }: SettingsProps<'field'>) {
  const set = changing(update, 'field');
  return (
    <SelectField
      label="Field"
      value={block.attribute}
      options={[
        ...(catalogue.get(block.attribute) ? [] : [{ value: block.attribute, label: 'choose a field' }]),
        ...catalogue.attributes
          .filter(({ source }) => source === 'item')
          .map(({ id, label }) => ({ value: id, label })),
      ]}
      onChange={(attribute) => set({ attribute })}
    />
  );
}
