import type { Attribute } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import type { Test } from '../../../core/conditions/condition.ts';
import { english } from '../../../core/conditions/english.ts';
import { type OperandKind, type Operator, operandKind } from '../../../core/conditions/operators.ts';
import { DateInput } from '../date-input.tsx';

export interface OperandProps {
  test: Test;
  attribute: Attribute;
  operator: Operator;
  catalogue: Catalogue;
  /** Values that occur among the contacts. */
  known: readonly { value: string; count: number }[];
  /** Whether the values are a guess that nobody confirmed yet. */
  isGuess: boolean;
  onChange: (test: Test) => void;
}

/** Kinds of operands that are single values, with the browser's input for them where it has one. */
export const inputs: { readonly [kind in OperandKind]?: 'number' | 'date' | 'time' } = {
  number: 'number',
  days: 'number',
  minutes: 'number',
  date: 'date',
  moment: 'date',
  time: 'time',
};

export const field = 'h-9 rounded-md border border-edge/60 bg-paper px-2';

export function SingleOperands({ test, attribute, operator, onChange }: OperandProps) {
  const kind = operandKind(operator, 0);
  const { joiner, after } = english.tests[attribute.type][test.op] ?? {};
  return (
    <div className="flex flex-wrap items-center gap-2">
      {(operator.arity === 'two' ? [0, 1] : [0]).map((place) => (
        <span key={place} className="flex items-center gap-2">
          {operator.arity === 'two' && (place === 0 ? 'from' : joiner)}
          <SingleInput
            label={operator.arity === 'two' ? (place === 0 ? 'from' : (joiner ?? 'to')) : attribute.label}
            test={test}
            place={place}
            kind={kind}
            onChange={onChange}
          />
        </span>
      ))}
      {after}
    </div>
  );
}

export function SingleInput({
  label,
  test,
  place,
  kind,
  onChange,
}: {
  label: string;
  test: Test;
  place: number;
  kind: OperandKind;
  onChange: (test: Test) => void;
}) {
  const type = inputs[kind] ?? 'number';
  const set = (value: string | number) => {
    const values = [...test.values];
    values[place] = value;
    onChange({ ...test, values });
  };
  if (kind === 'date' || kind === 'moment')
    return (
      <DateInput
        aria-label={label}
        withTime={kind === 'moment'}
        value={String(test.values[place] ?? '')}
        onChange={set}
        className={kind === 'moment' ? 'w-52' : 'w-36'}
      />
    );
  return (
    <input
      aria-label={label}
      type={type}
      step={kind === 'days' || kind === 'minutes' ? 1 : type === 'number' ? 'any' : undefined}
      min={kind === 'days' ? 0 : kind === 'minutes' ? 1 : undefined}
      value={test.values[place] ?? ''}
      onChange={({ target: { value } }) => set(type !== 'number' || value === '' ? value : Number(value))}
      className={`${field} w-36`}
    />
  );
}
