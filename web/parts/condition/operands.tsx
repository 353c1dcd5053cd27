import { Check } from 'lucide-react';
import { choicesOf } from '../../../core/attributes/attribute.ts';
import { operandKind } from '../../../core/conditions/operators.ts';
import { count } from '../../data/count.ts';
import { Select } from '../select.tsx';
import { ListOperands } from './list-operands.tsx';
import { RecurrenceOperands } from './recurrence-operands.tsx';
import { inputs, type OperandProps, SingleOperands } from './single-operands.tsx';

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

function OwnValueOperand({ test, attribute, catalogue, onChange }: OperandProps) {
  const wanted = attribute.type === 'set' ? 'choice' : attribute.type;
  const fitting = catalogue.attributes.filter((other) => other.source === 'contact' && other.type === wanted);
  return (
    <div className="flex items-center gap-2">
      the viewer’s own
      <Select
        aria-label="The viewer’s own attribute"
        value={String(test.values[0] ?? '')}
        onChange={(id) => onChange({ ...test, values: [id] })}
        className="min-w-40"
        options={fitting.map((other) => ({ value: other.id, label: other.label }))}
      />
    </div>
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
