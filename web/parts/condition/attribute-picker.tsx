import type { Attribute, AttributeType } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import type { Test } from '../../../core/conditions/condition.ts';
import { PickList } from '../pick-list.tsx';

const typeWords: Record<AttributeType, string> = {
  'yes-no': 'yes or no',
  choice: 'one of',
  set: 'several of',
  number: 'number',
  date: 'date',
  text: 'text',
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
        { heading: 'About the visit', options: options('sign-in') },
        { heading: 'About the person', options: options('contact') },
      ]}
      onChoose={(id) => {
        const attribute = catalogue.get(id);
        if (attribute) onChoose(attribute);
      }}
    />
  );
}

/** The test that a newly chosen attribute starts with. */
export function startingTest(attribute: Attribute): Test {
  const start = (op: string, ...values: (string | number)[]): Test => ({
    kind: 'test',
    attribute: attribute.id,
    op,
    values,
  });
  switch (attribute.type) {
    case 'yes-no':
      return start('is-yes');
    case 'choice':
      return start('is-one-of', ...attribute.choices.slice(0, 1).map((choice) => choice.id));
    case 'set':
      return start('includes-any', ...attribute.choices.slice(0, 1).map((choice) => choice.id));
    case 'number':
      return start('at-least', 1);
    case 'date':
      return start('within-next', 30);
    case 'text':
      return start('has-value');
  }
}
