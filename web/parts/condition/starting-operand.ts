import { type Attribute, choicesOf } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { type Operator, operandKind } from '../../../core/conditions/operators.ts';

/** What a new test compares with before anything is chosen; empty where nothing can be guessed. */
export function startingOperand(
  attribute: Attribute,
  operator: Operator,
  place: number,
  catalogue: Catalogue,
): string | number {
  const today = new Date().toISOString().slice(0, 10);
  switch (operandKind(operator, place)) {
    case 'choice':
      return choicesOf(attribute)[0]?.id ?? '';
    case 'number':
      return 1;
    case 'days':
      return 30;
    case 'minutes':
      return 120;
    case 'date':
      return today;
    case 'moment':
      return `${place === 0 ? today : new Date(Date.now() + 7 * 86_400_000).toISOString().slice(0, 10)}T00:00`;
    case 'time':
      return place === 0 ? '18:00' : '23:00';
    case 'rule':
      return 'FREQ=WEEKLY';
    case 'attribute': {
      const wanted = attribute.type === 'set' ? 'choice' : attribute.type;
      return (
        catalogue.attributes.find(({ source, type }) => source === 'contact' && type === wanted)?.id ?? ''
      );
    }
    default:
      return '';
  }
}
