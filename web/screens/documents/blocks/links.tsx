import { Link2, List, MousePointerClick } from 'lucide-react';
import { AddressField } from '../../../parts/address-field.tsx';
import { TextField } from '../../../parts/field.tsx';
import { SelectField } from '../../../parts/select-field.tsx';
import type { SettingsProps } from '../settings-props.ts';
import { changing, type EditedBlock } from './block.ts';

export const button: EditedBlock<'button'> = {
  name: 'Button',
  icon: MousePointerClick,
  group: 'Text and media',
  Settings: ButtonSettings,
};

export const link: EditedBlock<'link'> = {
  name: 'Link',
  icon: Link2,
  group: 'Links',
  Settings: LinkSettings,
};

export const links: EditedBlock<'links'> = {
  name: 'Links or menu',
  icon: List,
  group: 'Links',
  Settings: LinksSettings,
};

function ButtonSettings({ block, update }: SettingsProps<'button'>) {
  return <LeadsTo block={block} onChange={changing(update, 'button')} />;
}

function LinkSettings({ block, update }: SettingsProps<'link'>) {
  return <LeadsTo block={block} onChange={changing(update, 'link')} />;
}

function LeadsTo({
  block: { id, address: value },
  onChange,
}: {
  block: { id: string; address: string };
  onChange: (change: { address: string }) => void;
}) {
  return (
    <AddressField key={id} label="Link URL" value={value} onChange={(address) => onChange({ address })} />
  );
}

function LinksSettings({ block, update }: SettingsProps<'links'>) {
  const set = changing(update, 'links');
  return (
    <>
      <TextField
        label="Name for screen readers"
        value={block.name}
        maxLength={120}
        onChange={(event) => set({ name: event.target.value })}
      />
      <SelectField
        label="Look"
        value={block.look}
        options={[
          { value: 'list', label: 'one below the other' },
          { value: 'menu', label: 'side by side, as a menu' },
        ]}
        onChange={(look) => set({ look })}
      />
      <p className="text-quiet">Add links to it while it is chosen. Each entry can differ by audience.</p>
    </>
  );
}
