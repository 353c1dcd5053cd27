import { AlignLeft, Heading, Quote, TextCursorInput } from 'lucide-react';
import { TextField } from '../../../parts/field.tsx';
import { SelectField } from '../../../parts/select-field.tsx';
import type { SettingsProps } from '../settings-props.ts';
import { changing, type EditedBlock } from './block.ts';

export const heading: EditedBlock<'heading'> = {
  name: 'Heading',
  icon: Heading,
  group: 'Text and media',
  Settings: HeadingSettings,
};

export const text: EditedBlock<'text'> = { name: 'Text', icon: AlignLeft, group: 'Text and media' };

export const line: EditedBlock<'line'> = { name: 'Line', icon: TextCursorInput };

export const quotation: EditedBlock<'quotation'> = {
  name: 'Quotation',
  icon: Quote,
  group: 'Text and media',
  Settings: QuotationSettings,
};

function HeadingSettings({ block, update }: SettingsProps<'heading'>) {
  const set = changing(update, 'heading');
  return (
    <SelectField
      label="Size"
      value={String(block.level)}
      options={[
        { value: '1', label: 'large, once a page' },
        { value: '2', label: 'medium' },
        { value: '3', label: 'small' },
      ]}
      onChange={(value) => set({ level: value === '1' ? 1 : value === '2' ? 2 : 3 })}
    />
  );
}

function QuotationSettings({ block, update }: SettingsProps<'quotation'>) {
  const set = changing(update, 'quotation');
  return (
    <TextField
      label="Attribution"
      value={block.by}
      maxLength={200}
      onChange={(event) => set({ by: event.target.value })}
    />
  );
}
