import { useId, useState } from 'react';
import { countryCodes, countryName, findCountry } from '../../../core/attributes/countries.ts';
import { type OperandKind, operandKind } from '../../../core/conditions/operators.ts';
import { validate } from '../../../core/conditions/validate.ts';
import { count } from '../../data/count.ts';
import { field, type OperandProps } from './single-operands.tsx';

const examples: { readonly [kind in OperandKind]?: string } = {
  path: '/guides/moon',
  pattern: '/guides/* (one step) or /guides/** (all below)',
  network: '203.0.113.0/24',
  language: 'de or pt-BR',
  country: 'France or FR',
};

/** Values typed one by one; each is checked before it is taken. */
export function ListOperands({ test, attribute, operator, known, catalogue, onChange }: OperandProps) {
  const [problem, setProblem] = useState<string>();
  const listId = useId();
  const kind = operandKind(operator, 0);
  const isMany = operator.arity === 'many';
  const shown = (value: string | number) => (kind === 'country' ? countryName(String(value)) : String(value));
  /** Whether the typed text was taken. */
  const add = (text: string): boolean => {
    if (text === '' || (!isMany && text === test.values[0])) return text !== '';
    const value = kind === 'country' ? (findCountry(text) ?? text) : text;
    const [found] = validate({ ...test, values: [value] }, { catalogue, hasAudience: () => true });
    setProblem(found && `“${text}” ${found.message}`);
    if (found) return false;
    if (!isMany) onChange({ ...test, values: [value] });
    else if (!test.values.includes(value)) onChange({ ...test, values: [...test.values, value] });
    return true;
  };
  const offered =
    kind === 'country'
      ? countryCodes.map((code) => ({ value: countryName(code), note: code }))
      : known.map((entry) => ({ value: entry.value, note: `${count(entry.count)} people` }));
  return (
    <div>
      {isMany &&
        test.values.map((value) => (
          <button
            key={value}
            type="button"
            aria-label={`Remove ${shown(value)}`}
            onClick={() => onChange({ ...test, values: test.values.filter((other) => other !== value) })}
            className="mb-1 mr-1 rounded-md border border-line px-2 py-0.5 hover:border-apple"
          >
            {shown(value)} ×
          </button>
        ))}
      <input
        aria-label={isMany ? `Add a value of ${attribute.label}` : `Part of ${attribute.label}`}
        aria-invalid={problem !== undefined}
        list={listId}
        defaultValue={isMany ? '' : String(test.values[0] ?? '')}
        placeholder={examples[kind] ?? (isMany ? 'Add a value, then Enter' : 'Text')}
        onKeyDown={(event) => {
          if (event.key !== 'Enter') return;
          event.preventDefault();
          if (add(event.currentTarget.value.trim()) && isMany) event.currentTarget.value = '';
        }}
        onBlur={(event) => {
          if (add(event.currentTarget.value.trim()) && isMany) event.currentTarget.value = '';
        }}
        className={`${field} w-full`}
      />
      {problem && (
        <p role="alert" className="mt-1 text-apple">
          {problem}
        </p>
      )}
      <datalist id={listId}>
        {offered.map(({ value, note }) => (
          <option key={value} value={value}>
            {note}
          </option>
        ))}
      </datalist>
    </div>
  );
}
