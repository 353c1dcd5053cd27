import { Minus, Rows3, StretchVertical } from 'lucide-react';
import { spacerSizes, tones } from '../../../../core/documents/blocks/layout.ts';
import { TextField } from '../../../parts/field.tsx';
import { SelectField } from '../../../parts/select-field.tsx';
import type { SettingsProps } from '../settings-props.ts';
import { changing, type EditedBlock } from './block.ts';

export const section: EditedBlock<'section'> = {
  name: 'Section',
  icon: Rows3,
  group: 'Layout',
  Settings: SectionSettings,
};

export const divider: EditedBlock<'divider'> = { name: 'Divider', icon: Minus, group: 'Layout' };

export const spacer: EditedBlock<'spacer'> = {
  name: 'Space',
  icon: StretchVertical,
  group: 'Layout',
  Settings: SpacerSettings,
};

const toneWords: Record<(typeof tones)[number], string> = {
  plain: 'no background',
  panel: 'quiet panel',
  accent: 'accent',
  warm: 'warm',
};

function SectionSettings({ block, update }: SettingsProps<'section'>) {
  const set = changing(update, 'section');
  return (
    <>
      <TextField
        label="Name in the outline"
        value={block.name}
        maxLength={120}
        onChange={(event) => set({ name: event.target.value })}
      />
      <SelectField
        label="Background"
        value={block.tone}
        options={tones.map((tone) => ({ value: tone, label: toneWords[tone] }))}
        onChange={(tone) => set({ tone })}
      />
      <SelectField
        label="Arrangement"
        value={block.layout}
        options={[
          { value: 'stack', label: 'one below the other' },
          { value: 'row', label: 'side by side, where there is room' },
        ]}
        onChange={(layout) => set({ layout })}
      />
    </>
  );
}

function SpacerSettings({ block, update }: SettingsProps<'spacer'>) {
  const set = changing(update, 'spacer');
  return (
    <SelectField
      label="Height"
      value={block.size}
      options={spacerSizes.map((size) => ({ value: size, label: size }))}
      onChange={(size) => set({ size })}
    />
  );
}
