import { type Attribute, choicesOf } from '../../../core/attributes/attribute.ts';
import type { SelectOption } from '../select-panel.tsx';

const yesNo = [
  { id: 'yes', label: 'yes' },
  { id: 'no', label: 'no' },
];

/** The options for a value of a choice or a yes or no. The first has no value; `none` is what it says. */
export function choiceOptions(attribute: Attribute, none = 'no value'): SelectOption[] {
  const options = attribute.type === 'yes-no' ? yesNo : choicesOf(attribute);
  return [{ value: '', label: none }, ...options.map(({ id, label }) => ({ value: id, label }))];
}

/** The value that an option stands for; undefined for none. */
export function valueOfOption(attribute: Attribute, option: string): string | boolean | undefined {
  if (option === '') return undefined;
  return attribute.type === 'yes-no' ? option === 'yes' : option;
}
