import { type Attribute, choicesOf } from '../../../core/attributes/attribute.ts';

const yesNo = [
  { id: 'yes', label: 'yes' },
  { id: 'no', label: 'no' },
];

/** The options of a select for a value of a choice or a yes or no. The first has no value; `none` is what it says. */
export function ChoiceOptions({ attribute, none = 'no value' }: { attribute: Attribute; none?: string }) {
  const options = attribute.type === 'yes-no' ? yesNo : choicesOf(attribute);
  return (
    <>
      <option value="">{none}</option>
      {options.map(({ id, label }) => (
        <option key={id} value={id}>
          {label}
        </option>
      ))}
    </>
  );
}

/** The value that an option stands for; undefined for none. */
export function valueOfOption(attribute: Attribute, option: string): string | boolean | undefined {
  if (option === '') return undefined;
  return attribute.type === 'yes-no' ? option === 'yes' : option;
}
