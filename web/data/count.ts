import { numberFormat } from '../../core/attributes/formatters.ts';
/** A number of things as people write it: `12,345`. */
export function count(number: number): string {
  return numberFormat('en-GB').format(number);
}
