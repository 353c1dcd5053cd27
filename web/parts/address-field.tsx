import { useState } from 'react';
import { safeAddress } from '../../core/documents/address.ts';
import { TextField } from './field.tsx';

/** An address that is taken over only while it is safe; what is typed stays on screen with the reason. */
export function AddressField({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (address: string) => void;
}) {
  const [typed, setTyped] = useState(value);
  const [seen, setSeen] = useState(value);
  if (value !== seen) {
    setSeen(value);
    setTyped(value);
  }
  const bad = typed !== '' && safeAddress(typed) === undefined;
  return (
    <TextField
      label={label}
      value={typed}
      maxLength={2000}
      placeholder="/site/membership or https://…"
      problem={
        bad ? 'Use https://, mailto:, tel: or a place on the site such as /site/. Not saved.' : undefined
      }
      onChange={(event) => {
        setTyped(event.target.value);
        if (safeAddress(event.target.value) !== undefined) {
          setSeen(event.target.value);
          onChange(event.target.value);
        }
      }}
    />
  );
}
