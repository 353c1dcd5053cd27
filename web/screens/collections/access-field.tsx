import type { ListedAudience } from '../../../contract/audiences.ts';
import { SelectField } from '../../parts/select-field.tsx';

/** Who may open something: everybody, or an audience. */
export function AccessField({
  label,
  value,
  audiences,
  onChange,
}: {
  label: string;
  value: string | null;
  audiences: readonly Pick<ListedAudience, 'id' | 'name'>[];
  onChange: (value: string | null) => void;
}) {
  const isGone = value !== null && !audiences.some(({ id }) => id === value);
  return (
    <SelectField
      label={label}
      value={value ?? ''}
      options={[
        { value: '', label: 'everybody' },
        ...(isGone ? [{ value, label: 'a deleted audience' }] : []),
        ...audiences.map(({ id, name }) => ({ value: id, label: name })),
      ]}
      onChange={(next) => onChange(next === '' ? null : next)}
    />
  );
}
