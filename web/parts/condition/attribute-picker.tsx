import type { Attribute, AttributeType } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { PickList } from '../pick-list.tsx';
import { AttributeHint } from './attribute-hint.tsx';

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
  sources,
  onChoose,
}: {
  catalogue: Catalogue;
  /** Where attributes may come from; anywhere when not given. */
  sources?: readonly Attribute['source'][];
  onChoose: (attribute: Attribute) => void;
}) {
  const options = (source: Attribute['source']) =>
    catalogue.attributes
      .filter((attribute) => attribute.source === source && (sources?.includes(source) ?? true))
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
      detail={(id) => {
        const attribute = catalogue.get(id);
        return attribute && <AttributeHint key={id} attribute={attribute} catalogue={catalogue} />;
      }}
    />
  );
}
