import { Check } from 'lucide-react';
import { useId, useState } from 'react';
import { type Attribute, choicesOf } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { countryCodes, countryName, findCountry } from '../../../core/attributes/countries.ts';
import type { Test } from '../../../core/conditions/condition.ts';
import { english } from '../../../core/conditions/english.ts';
import { type OperandKind, type Operator, operandKind } from '../../../core/conditions/operators.ts';
import { ruleProblem } from '../../../core/conditions/recurrence-rule.ts';
import { validate } from '../../../core/conditions/validate.ts';
import { count } from '../../data/count.ts';

interface OperandProps {
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

/** Kinds of operands that are single values of a form the browser has an input for. */
const inputs: { readonly [kind in OperandKind]?: 'number' | 'date' | 'datetime-local' | 'time' } = {
  number: 'number',
  days: 'number',
  minutes: 'number',
  date: 'date',
  moment: 'datetime-local',
  time: 'time',
};

/** What a test compares with, in the form that its kind asks for. */
export function Operands(props: OperandProps) {
  const { operator } = props;
  if (operator.arity === 'none') return null;
  if (operator.arity === 'each') return <RecurrenceOperands {...props} />;
  const kind = operandKind(operator, 0);
  if (kind === 'choice') return <ChoiceOperands {...props} />;
  if (kind === 'attribute') return <OwnValueOperand {...props} />;
  return inputs[kind] ? <SingleOperands {...props} /> : <ListOperands {...props} />;
}

const field = 'h-9 rounded-md border border-edge/60 bg-paper px-2';

function SingleOperands({ test, attribute, operator, onChange }: OperandProps) {
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

function SingleInput({
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
  return (
    <input
      aria-label={label}
      type={type}
      step={kind === 'days' || kind === 'minutes' ? 1 : type === 'number' ? 'any' : undefined}
      min={kind === 'days' ? 0 : kind === 'minutes' ? 1 : undefined}
      value={test.values[place] ?? ''}
      onChange={(event) => {
        const values = [...test.values];
        const { value } = event.target;
        values[place] = type !== 'number' || value === '' ? value : Number(value);
        onChange({ ...test, values });
      }}
      className={`${field} ${type === 'datetime-local' ? 'w-52' : 'w-36'}`}
    />
  );
}

const rules: readonly { rule: string; label: string }[] = [
  { rule: 'FREQ=DAILY', label: 'every day' },
  { rule: 'FREQ=WEEKLY', label: 'every week, on that weekday' },
  { rule: 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR', label: 'every working day' },
  { rule: 'FREQ=WEEKLY;BYDAY=SA,SU', label: 'every weekend day' },
  { rule: 'FREQ=WEEKLY;INTERVAL=2', label: 'every second week' },
  { rule: 'FREQ=MONTHLY', label: 'every month, on that day' },
  { rule: 'FREQ=YEARLY', label: 'every year, on that day' },
];

function RecurrenceOperands({ test, onChange }: OperandProps) {
  const rule = String(test.values[2] ?? '');
  const [own, setOwn] = useState(!rules.some((known) => known.rule === rule));
  const change = (value: string) => onChange({ ...test, values: [...test.values.slice(0, 2), value] });
  return (
    <div className="flex flex-col gap-2">
      <span className="flex items-center gap-2">
        <span className="w-24">It starts on</span>
        <SingleInput label="It starts on" test={test} place={0} kind="moment" onChange={onChange} />
      </span>
      <span className="flex items-center gap-2">
        <span className="w-24">and lasts</span>
        <SingleInput label="Minutes that it lasts" test={test} place={1} kind="minutes" onChange={onChange} />{' '}
        minutes,
      </span>
      <label className="flex items-center gap-2">
        <span className="w-24">again</span>
        <select
          value={own ? 'own' : rule}
          onChange={(event) => {
            setOwn(event.target.value === 'own');
            if (event.target.value !== 'own') change(event.target.value);
          }}
          className={`${field} w-52`}
        >
          {rules.map((known) => (
            <option key={known.rule} value={known.rule}>
              {known.label}
            </option>
          ))}
          <option value="own">by a rule of RFC 5545</option>
        </select>
      </label>
      {own && (
        <label className="flex flex-col gap-1">
          <span className="sr-only">Recurrence rule</span>
          <input
            value={rule}
            onChange={(event) => change(event.target.value.trim().toUpperCase())}
            placeholder="FREQ=MONTHLY;BYDAY=1SA"
            className={`${field} w-full font-mono`}
          />
          {ruleProblem(rule) && <span className="text-apple">This {ruleProblem(rule)}.</span>}
        </label>
      )}
    </div>
  );
}

function OwnValueOperand({ test, attribute, catalogue, onChange }: OperandProps) {
  const wanted = attribute.type === 'set' ? 'choice' : attribute.type;
  const fitting = catalogue.attributes.filter((other) => other.source === 'contact' && other.type === wanted);
  return (
    <label className="flex items-center gap-2">
      the viewer’s own
      <select
        value={String(test.values[0] ?? '')}
        onChange={(event) => onChange({ ...test, values: [event.target.value] })}
        className={`${field} min-w-40`}
      >
        {fitting.map((other) => (
          <option key={other.id} value={other.id}>
            {other.label}
          </option>
        ))}
      </select>
    </label>
  );
}

function ChoiceOperands({ test, attribute, operator, known, isGuess, onChange }: OperandProps) {
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
    // The first that is picked confirms what was guessed, or takes its place.
    if (isGuess) return onChange({ ...test, values: [id] });
    const has = test.values.includes(id);
    const values = has ? test.values.filter((value) => value !== id) : [...test.values, id];
    if (values.length > 0) onChange({ ...test, values });
  };
  return (
    <fieldset className="-mx-1 max-h-72 overflow-y-auto">
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

const examples: { readonly [kind in OperandKind]?: string } = {
  path: '/guides/moon',
  pattern: '/guides/* (one step) or /guides/** (all below)',
  network: '203.0.113.0/24',
  language: 'de or pt-BR',
  country: 'France or FR',
};

/** Values typed one by one; each is checked before it is taken. */
function ListOperands({ test, attribute, operator, known, catalogue, onChange }: OperandProps) {
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
