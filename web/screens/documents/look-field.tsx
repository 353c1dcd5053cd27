import type { Attribute } from '../../../core/attributes/attribute.ts';
import type { MergeLook } from '../../../core/documents/text.ts';
import { looksFor } from '../../../core/rendering/say-value.ts';
import { SelectField } from '../../parts/select-field.tsx';

const lookWords: Record<MergeLook, string> = {
  upper: 'in capitals',
  lower: 'in small letters',
  capital: 'with a capital',
  whole: 'as a whole number',
  'two-decimals': 'with two decimals',
  'short-date': 'as a short date',
  weekday: 'as the day of the week',
  'day-and-month': 'as day and month',
};

/** How a value is written. */
export function LookField({
  attribute,
  look,
  onChange,
}: {
  attribute: Attribute | undefined;
  look: MergeLook | undefined;
  onChange: (look: MergeLook | null) => void;
}) {
  if (!attribute) return null;
  const looks = looksFor(attribute);
  return (
    <SelectField
      label="Written"
      value={look && looks.includes(look) ? look : ''}
      options={[
        { value: '', label: 'as usual in the site’s language' },
        ...looks.map((one) => ({ value: one, label: lookWords[one] })),
      ]}
      onChange={(next) => onChange(looks.find((one) => one === next) ?? null)}
    />
  );
}
