import { valuesSchema } from '../../../contract/people.ts';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import type { Test } from '../../../core/conditions/condition.ts';
import { english } from '../../../core/conditions/english.ts';
import { type Operator, operandKind, operatorOf, operatorsFor } from '../../../core/conditions/operators.ts';
import { useApi } from '../../data/api.ts';
import { countOf } from '../../data/count.ts';
import { Operands } from './operands.tsx';
import { withOperator } from './starting-test.ts';
import { typeWord } from './type-words.ts';

/** What a test compares with, and which test it is: the panel behind each value of a sentence. */
export function TestEditor({
  test,
  attribute,
  catalogue,
  isGuess,
  onChange,
}: {
  test: Test;
  attribute: Attribute;
  catalogue: Catalogue;
  /** Whether its values are a guess that nobody confirmed yet. */
  isGuess: boolean;
  onChange: (test: Test) => void;
}) {
  const isContact = attribute.source === 'contact';
  const { data } = useApi(isContact ? `/attributes/${attribute.id}/values` : null, valuesSchema);
  const operator = operatorOf(attribute, test.op);
  return (
    <div>
      <p className="mb-2 text-quiet">
        {attribute.label}
        {typeWord(attribute) !== attribute.label && ` · ${typeWord(attribute)}`}
        {data && ` · ${countOf(data.lacking, 'person has none', 'people have none')}`}
        {!isContact && attribute.description !== '' && ` · ${attribute.description}`}
      </p>
      {operator && (
        <Operands
          test={test}
          attribute={attribute}
          operator={operator}
          catalogue={catalogue}
          known={data?.values ?? []}
          isGuess={isGuess}
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
              onClick={() => onChange(withOperator(test, attribute, op, choice, catalogue))}
              className={
                op === test.op ? 'font-semibold' : 'text-quiet underline underline-offset-2 hover:text-ink'
              }
            >
              {verbLabel(attribute, op, choice)}
            </button>
          ))}
        </div>
      </fieldset>
    </div>
  );
}

/** An operator's name where its operands are not shown beside it. */
function verbLabel(attribute: Attribute, op: string, operator: Operator): string {
  const { verb, joiner, after } = english.tests[attribute.type][op] ?? { verb: op };
  if (operator.arity === 'two') return `${verb} … ${joiner} …`;
  if (after !== undefined) return `${verb} … ${after}`;
  if (operator.arity === 'each') return 'recurs';
  if (operandKind(operator, 0) === 'attribute') return `${verb} the viewer’s own`;
  return joiner === 'and' ? `${verb} all of` : verb;
}
