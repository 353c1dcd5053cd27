import { Field } from './field.tsx';
import { Select } from './select.tsx';

/** A labelled choice of one among several things. */
export function SelectField<Value extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: Value;
  options: readonly { value: Value; label: string }[];
  onChange: (value: Value) => void;
}) {
  return (
    <Field label={label}>
      {(attributes) => (
        <Select {...attributes} options={options} value={value} onChange={onChange} className="w-full" />
      )}
    </Field>
  );
}
