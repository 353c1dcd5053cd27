import type { Attribute } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { PickList } from '../pick-list.tsx';
import { AttributeHint } from './attribute-hint.tsx';
import { typeWord } from './type-words.ts';

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
        { heading: 'Date and time', options: options('moment') },
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
