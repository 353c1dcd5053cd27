import type { Attribute, AttributeType } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import type { Test } from '../../../core/conditions/condition.ts';
import { operatorOf } from '../../../core/conditions/operators.ts';
import { PickList } from '../pick-list.tsx';
import { startingOperand } from './starting-operand.ts';

export const typeWords: Record<AttributeType, string> = {
  'yes-no': 'yes or no',
  choice: 'one of',
  set: 'several of',
  number: 'number',
  date: 'date',
  'date-time': 'date and time',
  time: 'time of day',
  text: 'text',
  country: 'country',
  address: 'IP address',
  language: 'language',
  path: 'page address',
};

export function typeWord(attribute: Attribute): string {
  return attribute.type === 'choice' && attribute.ordered ? 'one of, in order' : typeWords[attribute.type];
}

export function AttributePicker({
  catalogue,
  onChoose,
}: {
  catalogue: Catalogue;
  onChoose: (attribute: Attribute) => void;
}) {
  const options = (source: Attribute['source']) =>
    catalogue.attributes
      .filter((attribute) => attribute.source === source)
      .map((attribute) => ({ id: attribute.id, label: attribute.label, note: typeWord(attribute) }));
  return (
    <PickList
      label="Which attribute?"
      groups={[
        { heading: 'Signed in or not', options: options('sign-in') },
        { heading: 'About the person', options: options('contact') },
        { heading: 'About the visit', options: options('visit') },
        { heading: 'About the moment', options: options('moment') },
        { heading: 'About the item shown', options: options('item') },
      ]}
      onChoose={(id) => {
        const attribute = catalogue.get(id);
        if (attribute) onChoose(attribute);
      }}
    />
  );
}

/** The operator that a newly chosen attribute starts with. */
const startingOperators: Record<AttributeType, string> = {
  'yes-no': 'is-yes',
  choice: 'is-one-of',
  set: 'includes-any',
  number: 'at-least',
  date: 'within-next',
  'date-time': 'between',
  time: 'between',
  text: 'has-value',
  country: 'is-one-of',
  address: 'in-range',
  language: 'accepts',
  path: 'matches',
};

/** The test that a newly chosen attribute starts with. */
export function startingTest(attribute: Attribute, catalogue: Catalogue): Test {
  const op = startingOperators[attribute.type];
  const operator = operatorOf(attribute, op);
  const places = operator?.arity === 'none' ? 0 : operator?.arity === 'two' ? 2 : 1;
  const values = Array.from({ length: operator ? places : 0 }, (_, place) =>
    operator ? startingOperand(attribute, operator, place, catalogue) : '',
  ).filter((value) => value !== '');
  return { kind: 'test', attribute: attribute.id, op, values };
}
