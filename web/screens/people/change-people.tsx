import { useState } from 'react';
import { useNavigate } from 'react-router';
import { importSchema } from '../../../contract/imports.ts';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { isOfTags } from '../../../core/attributes/of-tags.ts';
import { parseValue } from '../../../core/attributes/parse.ts';
import type { BulkChange } from '../../../core/exchange/bulk-change.ts';
import { call } from '../../data/api.ts';
import { Button } from '../../parts/button.tsx';
import { DateField } from '../../parts/date-input.tsx';
import { Field, TextField } from '../../parts/field.tsx';
import { Form } from '../../parts/form.tsx';
import { Select } from '../../parts/select.tsx';
import { SelectField } from '../../parts/select-field.tsx';
import { choiceOptions, valueOfOption } from '../../parts/value/choice-options.ts';
import { SetChoices } from '../../parts/value/set-choices.tsx';

type How = BulkChange['how'];
const howWords: Record<How, string> = {
  add: 'add',
  take: 'remove',
  set: 'set to',
  clear: 'clear',
};

/** Changes one attribute of several people: first what would change is shown. */
export function ChangePeople({
  catalogue,
  ids,
  query,
}: {
  catalogue: Catalogue;
  /** The selected contacts; if there are none, everyone the query matches. */
  ids: readonly number[];
  query: URLSearchParams;
}) {
  const navigate = useNavigate();
  const attributes = catalogue.attributes.filter(({ source, id }) => source === 'contact' && id !== 'email');
  const [id, setId] = useState((attributes.find(isOfTags) ?? attributes[0])?.id ?? '');
  const [how, setHow] = useState<How>('add');
  const [held, setHeld] = useState<readonly string[]>([]);
  const [text, setText] = useState('');
  const attribute = catalogue.get(id);
  if (!attribute) return null;
  const ways: How[] = attribute.type === 'set' ? ['add', 'take', 'set', 'clear'] : ['set', 'clear'];
  const way = ways.includes(how) ? how : 'set';
  const { change, problem } = changeOf(attribute, way, held, text);
  const send = async () => {
    if (!change) return;
    const { id: made } = await call('POST', '/contacts/changes', importSchema, {
      change,
      ...(ids.length > 0
        ? { ids }
        : {
            query: Object.fromEntries(
              [...query].filter(([key]) => !['page', 'sort', 'direction'].includes(key)),
            ),
          }),
    });
    void navigate(`/people/import/${made}`);
  };
  return (
    <Form onSend={send}>
      <SelectField
        label="Attribute"
        value={id}
        options={attributes.map((one) => ({ value: one.id, label: one.label }))}
        onChange={(next) => {
          setId(next);
          setHeld([]);
          setText('');
        }}
      />
      <SelectField
        label="What to do"
        value={way}
        options={ways.map((one) => ({ value: one, label: howWords[one] }))}
        onChange={(next) => setHow(next)}
      />
      {way !== 'clear' && attribute.type === 'set' && (
        <fieldset className="max-h-56 overflow-y-auto rounded-md border border-edge/60 px-3 py-2">
          <legend className="px-1">{attribute.label}</legend>
          <SetChoices
            attribute={way === 'take' ? { ...attribute, exclusiveGroups: [] } : attribute}
            held={held}
            onChange={setHeld}
          />
        </fieldset>
      )}
      {way === 'set' && (attribute.type === 'choice' || attribute.type === 'yes-no') && (
        <Field label="Value">
          {(given) => (
            <Select
              {...given}
              className="w-full"
              value={text}
              onChange={setText}
              options={choiceOptions(attribute, 'Choose a value')}
            />
          )}
        </Field>
      )}
      {way === 'set' && !['set', 'choice', 'yes-no'].includes(attribute.type) && (
        <ValueField attribute={attribute} text={text} problem={problem} onChange={setText} />
      )}
      <Button look="primary" type="submit" disabled={!change}>
        Preview
      </Button>
    </Form>
  );
}

function ValueField({
  attribute: { type },
  text,
  problem,
  onChange,
}: {
  attribute: Attribute;
  text: string;
  problem: string | undefined;
  onChange: (text: string) => void;
}) {
  const given = { label: 'Value', value: text, problem };
  return type === 'date' ? (
    <DateField {...given} onChange={onChange} />
  ) : (
    <TextField
      {...given}
      type={type === 'time' ? 'time' : 'text'}
      onChange={({ target }) => onChange(target.value)}
    />
  );
}

/** What is asked for, as soon as it is complete. */
function changeOf(
  attribute: Attribute,
  how: How,
  held: readonly string[],
  text: string,
): { change?: BulkChange; problem?: string } {
  if (how === 'clear') return { change: { how, attribute: attribute.id } };
  if (attribute.type === 'set') {
    if (held.length === 0) return {};
    const members = [...held];
    return {
      change:
        how === 'set'
          ? { how, attribute: attribute.id, value: members }
          : { how, attribute: attribute.id, members },
    };
  }
  if (text.trim() === '') return {};
  if (attribute.type === 'choice' || attribute.type === 'yes-no')
    return { change: { how: 'set', attribute: attribute.id, value: valueOfOption(attribute, text) } };
  const parsed = parseValue(attribute, text);
  return parsed.ok
    ? { change: { how: 'set', attribute: attribute.id, value: parsed.value } }
    : { problem: parsed.reason };
}
