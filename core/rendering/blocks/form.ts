import { type Attribute, choicesOf } from '../../attributes/attribute.ts';
import type { BlockByKind } from '../../documents/blocks/blocks.ts';
import type { FormBlock } from '../../documents/blocks/people.ts';
import { element, type Markup } from '../markup.ts';
import type { Drawing, PageOf } from './drawing.ts';

export const form: Drawing<BlockByKind['form']> = { page: (block, { of }) => [drawnForm(block, of)] };

function drawnForm(block: FormBlock, { catalogue, document }: PageOf): Markup {
  return element(
    'form',
    {
      class: 'form',
      method: 'post',
      action: `/site/forms/${encodeURIComponent(document)}/${encodeURIComponent(block.id)}`,
    },
    [
      ...block.fields.flatMap((field) => {
        const attribute = catalogue.get(field.attribute);
        return attribute ? [formField(attribute, field)] : [];
      }),
      decoy,
      element('button', { type: 'submit', class: 'button' }, [block.submit]),
    ],
    block.id,
  );
}

/** A label that stands by itself: attributes and their choices may be named as they are within a sentence. */
function withCapital(label: string): string {
  const [first = '', ...rest] = label;
  return first.toUpperCase() + rest.join('');
}

/** The name of a field that nobody sees. */
export const decoyField = 'leave-blank';

/** Filled by programs that fill every field; hidden from people, their keyboards and screen readers. */
const decoy = element('div', { class: 'form-decoy', 'aria-hidden': 'true' }, [
  element(
    'input',
    { name: decoyField, tabindex: '-1', autocomplete: 'off', 'aria-label': 'Leave this blank' },
    [],
  ),
]);

const inputTypes: { readonly [type in Attribute['type']]?: string } = {
  number: 'number',
  date: 'date',
  'date-time': 'datetime-local',
  time: 'time',
};

function formField(attribute: Attribute, field: FormBlock['fields'][number]): Markup {
  const { required, only } = field;
  const label = field.label || withCapital(attribute.label);
  const common = { name: attribute.id, ...(required && { required: '' }) };
  const offered = choicesOf(attribute).filter(({ id }) => only?.includes(id) ?? true);
  if (attribute.type === 'set') {
    // Of choices that exclude each other one is picked.
    const isOne = attribute.exclusiveGroups.some(({ members }) =>
      offered.every(({ id }) => members.includes(id)),
    );
    return element('fieldset', { class: 'form-set' }, [
      element('legend', {}, [label]),
      ...offered.map((choice) =>
        element('label', {}, [
          element(
            'input',
            {
              type: isOne ? 'radio' : 'checkbox',
              name: attribute.id,
              value: choice.id,
              ...(isOne && required && { required: '' }),
            },
            [],
          ),
          ' ',
          withCapital(choice.label),
        ]),
      ),
    ]);
  }
  if (attribute.type === 'choice' || attribute.type === 'yes-no') {
    const choices =
      attribute.type === 'choice'
        ? offered
        : [
            { id: 'yes', label: 'yes' },
            { id: 'no', label: 'no' },
          ];
    return element('label', { class: 'form-field' }, [
      label,
      element('select', common, [
        element('option', { value: '' }, ['Choose …']),
        ...choices.map((choice) => element('option', { value: choice.id }, [withCapital(choice.label)])),
      ]),
    ]);
  }
  const type = attribute.id === 'email' ? 'email' : (inputTypes[attribute.type] ?? 'text');
  return element('label', { class: 'form-field' }, [
    label,
    element(
      'input',
      { ...common, type, ...(attribute.type === 'number' && !attribute.whole && { step: 'any' }) },
      [],
    ),
  ]);
}
