import { choiceLabel } from '../attributes/attribute.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { formatValue } from '../attributes/format.ts';
import type { Condition, Test } from './condition.ts';
import { type Operator, operatorOf } from './operators.ts';

export interface TestWords {
  readonly subject: string;
  readonly verb: string;
  readonly operands: readonly string[];
  readonly joiner: string;
  readonly after: string;
}

/** The pieces of a test's sentence: "membership tier", "is", ["Dusk", "Twilight"], "or". */
export function testWords(test: Test, catalogue: Catalogue): TestWords {
  const attribute = catalogue.get(test.attribute);
  const operator: Operator | undefined = attribute && operatorOf(attribute, test.op);
  if (!attribute || !operator)
    return {
      subject: test.attribute,
      verb: test.op,
      operands: test.values.map(String),
      joiner: ',',
      after: '',
    };
  const operands = test.values.map((value) => {
    if (operator.operand === 'choice') return choiceLabel(attribute, String(value));
    if (operator.operand === 'date' && typeof value === 'string') return formatValue(attribute, value);
    return typeof value === 'number' ? new Intl.NumberFormat('en-GB').format(value) : value;
  });
  const joiner = operator.arity === 'two' ? 'to' : (operator.joiner ?? '');
  return { subject: attribute.label, verb: operator.verb, operands, joiner, after: operator.after ?? '' };
}

/** A test as one clause: "membership tier is Dusk or Twilight". */
export function sayTest(test: Test, catalogue: Catalogue): string {
  const words = testWords(test, catalogue);
  const operands = words.operands.join(` ${words.joiner} `);
  return [words.subject, words.verb, operands, words.after].filter((part) => part !== '').join(' ');
}

/**
 * A condition as an English sentence without its subject: "membership tier is Dusk, and not (roles include
 * staff)". Groups inside groups stand in brackets so that no two different conditions read the same.
 */
export function say(
  condition: Condition,
  catalogue: Catalogue,
  audienceName: (id: string) => string | undefined,
): string {
  const inner = (part: Condition): string => {
    switch (part.kind) {
      case 'test':
        return sayTest(part, catalogue);
      case 'audience':
        return `in “${audienceName(part.audience) ?? 'an audience that is gone'}”`;
      case 'not':
        return `not (${inner(part.of)})`;
      case 'all':
      case 'any': {
        if (part.of.length === 0) return part.kind === 'all' ? 'everybody' : 'nobody';
        const word = part.kind === 'all' ? ' and ' : ' or ';
        const clauses = part.of.map((child) =>
          child.kind === 'all' || child.kind === 'any' ? `(${inner(child)})` : inner(child),
        );
        return clauses.length === 1 ? `${part.kind} of (${clauses[0]})` : clauses.join(word);
      }
    }
  };
  if ((condition.kind === 'all' || condition.kind === 'any') && condition.of.length === 1 && condition.of[0])
    return inner(condition.of[0]);
  return inner(condition);
}
