import { Check } from 'lucide-react';
import { valuesSchema } from '../../../contract/people.ts';
import { type Attribute, choicesOf } from '../../../core/attributes/attribute.ts';
import type { Test } from '../../../core/conditions/condition.ts';
import { type Operator, operatorOf, operatorsFor } from '../../../core/conditions/operators.ts';
import { useApi } from '../../app/api.ts';
import { count } from '../person.tsx';
import { typeWord } from './attribute-picker.tsx';

/** What a test compares with, and which test it is: the panel behind each value of a sentence. */
export function TestEditor({
  test,
  attribute,
  onChange,
}: {
  test: Test;
  attribute: Attribute;
  onChange: (test: Test) => void;
}) {
  const isContact = attribute.source === 'contact';
  const { data } = useApi(isContact ? `/attributes/${attribute.id}/values` : null, valuesSchema);
  const operator = operatorOf(attribute, test.op);
  return (
    <div>
      <p className="mb-2 text-quiet">
        {attribute.label} · {typeWord(attribute)}
        {data && ` · ${count(data.lacking)} people have none`}
        {!isContact && attribute.description !== '' && ` · ${attribute.description}`}
      </p>
      {operator && (
        <Operands
          test={test}
          attribute={attribute}
          operator={operator}
          known={data?.values ?? []}
          onChange={onChange}
        />
      )}
      <fieldset className="mt-2 border-t border-line pt-2">
        <legend className="sr-only">Which test</legend>
        <div className="flex flex-wrap gap-x-3 gap-y-1">
          {operatorsFor(attribute).map(([op, choice]) => (
            <button
              key={op}
              type="button"
              aria-pressed={op === test.op}
              onClick={() => onChange(withOperator(test, attribute, op, choice))}
              className={
                op === test.op ? 'font-semibold' : 'text-quiet underline underline-offset-2 hover:text-ink'
              }
            >
              {verbLabel(choice)}
            </button>
          ))}
        </div>
      </fieldset>
    </div>
  );
}

/** An operator's name where its operands are not shown beside it. */
function verbLabel(operator: Operator): string {
  if (operator.arity === 'two') return `${operator.verb} … to …`;
  if (operator.after !== undefined) return `${operator.verb} … ${operator.after}`;
  if (operator.joiner === 'and') return `${operator.verb} all of`;
  return operator.verb;
}

/** The test with another operator, keeping the operands that still fit. */
function withOperator(test: Test, attribute: Attribute, op: string, next: Operator): Test {
  const before = operatorOf(attribute, test.op);
  const kept = before?.operand === next.operand && before.arity !== 'none' ? test.values : [];
  const [first = startingOperand(attribute, next), second = first] = kept;
  const values =
    next.arity === 'none'
      ? []
      : next.arity === 'one'
        ? [first]
        : next.arity === 'two'
          ? [first, second]
          : kept.length > 0
            ? kept
            : [first];
  return { ...test, op, values: values.filter((value) => value !== '') };
}

function startingOperand(attribute: Attribute, operator: Operator): string | number {
  if (operator.operand === 'choice') return choicesOf(attribute)[0]?.id ?? '';
  if (operator.operand === 'number') return 1;
  if (operator.operand === 'days') return 30;
  return operator.operand === 'date' ? new Date().toISOString().slice(0, 10) : '';
}

interface OperandProps {
  test: Test;
  attribute: Attribute;
  operator: Operator;
  known: readonly { value: string; count: number }[];
  onChange: (test: Test) => void;
}

function Operands(props: OperandProps) {
  const { test, operator, onChange } = props;
  if (operator.arity === 'none') return null;
  if (operator.operand === 'choice') return <ChoiceOperands {...props} />;
  if (operator.operand === 'text') return <TextOperands {...props} />;
  const slots = operator.arity === 'two' ? [0, 1] : [0];
  return (
    <div className="flex items-center gap-2">
      {slots.map((index) => (
        <label key={index} className="flex items-center gap-2">
          <span className={slots.length === 1 ? 'sr-only' : ''}>{index === 0 ? 'from' : 'to'}</span>
          <input
            type={operator.operand === 'date' ? 'date' : 'number'}
            step={operator.operand === 'days' ? 1 : 'any'}
            min={operator.operand === 'days' ? 0 : undefined}
            value={test.values[index] ?? ''}
            onChange={(event) => {
              const values = [...test.values];
              const { value } = event.target;
              values[index] = operator.operand === 'date' || value === '' ? value : Number(value);
              onChange({ ...test, values });
            }}
            className="h-9 w-36 rounded-md border border-edge/60 bg-paper px-2"
          />
        </label>
      ))}
      {operator.after}
    </div>
  );
}

function ChoiceOperands({ test, attribute, operator, known, onChange }: OperandProps) {
  const most = Math.max(1, ...known.map((entry) => entry.count));
  const choose = (id: string) => {
    if (operator.arity === 'one') return onChange({ ...test, values: [id] });
    if (operator.arity === 'two') {
      const order = choicesOf(attribute).map((choice) => choice.id);
      const at = order.indexOf(id);
      const [from = id, to = id] = test.values.map(String);
      const values = at < order.indexOf(from) ? [id, to] : at > order.indexOf(to) ? [from, id] : [id, id];
      return onChange({ ...test, values });
    }
    const has = test.values.includes(id);
    const values = has ? test.values.filter((value) => value !== id) : [...test.values, id];
    if (values.length > 0) onChange({ ...test, values });
  };
  return (
    <fieldset className="-mx-1">
      <legend className="sr-only">Values of {attribute.label}</legend>
      {choicesOf(attribute).map((choice) => {
        const chosen = test.values.includes(choice.id);
        const people = known.find((entry) => entry.value === choice.id)?.count ?? 0;
        return (
          <button
            key={choice.id}
            type="button"
            aria-pressed={chosen}
            onClick={() => choose(choice.id)}
            className="flex w-full items-center gap-2 rounded-md px-1.5 py-1 text-left hover:bg-linen"
          >
            <span className="flex size-5 items-center justify-center">
              {chosen && <Check size={16} aria-hidden />}
            </span>
            <span className="min-w-0 flex-1 truncate">{choice.label}</span>
            {attribute.source === 'contact' && (
              <>
                <span className="h-1.5 w-16 overflow-hidden rounded-full bg-line" aria-hidden>
                  <span className="block h-full bg-leaf" style={{ width: `${(100 * people) / most}%` }} />
                </span>
                <span className="w-12 text-right text-quiet">{count(people)}</span>
              </>
            )}
          </button>
        );
      })}
    </fieldset>
  );
}

function TextOperands({ test, attribute, operator, known, onChange }: OperandProps) {
  const add = (value: string) => {
    if (value === '') return;
    if (operator.arity === 'one') return onChange({ ...test, values: [value] });
    if (!test.values.includes(value)) onChange({ ...test, values: [...test.values, value] });
  };
  const listId = `values-of-${attribute.id}`;
  return (
    <div>
      {operator.arity === 'many' &&
        test.values.map((value) => (
          <button
            key={value}
            type="button"
            aria-label={`Remove ${value}`}
            onClick={() => onChange({ ...test, values: test.values.filter((other) => other !== value) })}
            className="mb-1 mr-1 rounded-md border border-line px-2 py-0.5 hover:border-apple"
          >
            {value} ×
          </button>
        ))}
      <input
        aria-label={
          operator.arity === 'many' ? `Add a value of ${attribute.label}` : `Part of ${attribute.label}`
        }
        list={listId}
        defaultValue={operator.arity === 'one' ? String(test.values[0] ?? '') : ''}
        placeholder={operator.arity === 'many' ? 'Add a value, then Enter' : 'Text'}
        onKeyDown={(event) => {
          if (event.key !== 'Enter') return;
          event.preventDefault();
          add(event.currentTarget.value.trim());
          if (operator.arity === 'many') event.currentTarget.value = '';
        }}
        onBlur={(event) => {
          add(event.currentTarget.value.trim());
          if (operator.arity === 'many') event.currentTarget.value = '';
        }}
        className="h-9 w-full rounded-md border border-edge/60 bg-paper px-2"
      />
      <datalist id={listId}>
        {known.map((entry) => (
          <option key={entry.value} value={entry.value}>
            {`${count(entry.count)} people`}
          </option>
        ))}
      </datalist>
    </div>
  );
}
