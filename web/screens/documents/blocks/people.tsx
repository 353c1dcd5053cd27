import { CircleUserRound, ClipboardList, Lock, Timer } from 'lucide-react';
import { AddressField } from '../../../parts/address-field.tsx';
import { DateField } from '../../../parts/date-input.tsx';
import { TextField } from '../../../parts/field.tsx';
import { FormSettings } from '../form-settings.tsx';
import type { SettingsProps } from '../settings-props.ts';
import { changing, type EditedBlock } from './block.ts';

export const form: EditedBlock<'form'> = {
  name: 'Form',
  icon: ClipboardList,
  group: 'Forms and access',
  Settings: FormSettings,
};

export const account: EditedBlock<'account'> = {
  name: 'Sign-in and account',
  icon: CircleUserRound,
  group: 'Forms and access',
};

export const notice: EditedBlock<'notice'> = {
  name: 'Access notice',
  icon: Lock,
  group: 'Forms and access',
  Settings: NoticeSettings,
};

export const countdown: EditedBlock<'countdown'> = {
  name: 'Countdown',
  icon: Timer,
  group: 'Forms and access',
  Settings: CountdownSettings,
};

function NoticeSettings({ block, update }: SettingsProps<'notice'>) {
  const set = changing(update, 'notice');
  return (
    <>
      <TextField
        label="Signed out"
        value={block.signedOut}
        maxLength={500}
        onChange={(event) => set({ signedOut: event.target.value })}
      />
      <TextField
        label="Signed in without access"
        value={block.signedIn}
        maxLength={500}
        onChange={(event) => set({ signedIn: event.target.value })}
      />
      <AddressField label="Link URL" value={block.address} onChange={(address) => set({ address })} />
    </>
  );
}

function CountdownSettings({ block, catalogue, update }: SettingsProps<'countdown'>) {
  const set = changing(update, 'countdown');
  return (
    <>
      <DateField
        label="Until"
        withTime
        value={block.until}
        onChange={(until) => until !== '' && set({ until })}
      />
      <TextField
        label="Text before the countdown"
        value={block.label}
        maxLength={200}
        onChange={(event) => set({ label: event.target.value })}
      />
      <TextField
        label="Text when it has ended"
        value={block.over}
        maxLength={200}
        onChange={(event) => set({ over: event.target.value })}
      />
      <p className="text-quiet">In the site’s time zone, {catalogue.zone}.</p>
    </>
  );
}
