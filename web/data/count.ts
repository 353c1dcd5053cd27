import { numberFormat } from '../../core/attributes/formatters.ts';

const plural = new Intl.PluralRules('en-GB');

/** A number of things as people write it: `12,345`. */
export function count(number: number): string {
  return numberFormat('en-GB').format(number);
}

/** The word for one or for several: `worded(1, 'person has', 'people have')`. */
export function worded(number: number, one: string, several: string): string {
  return plural.select(number) === 'one' ? one : several;
}

/** A number with the word for what it counts: "1 person", "12,345 people". */
export function countOf(number: number, one: string, several: string): string {
  return `${count(number)} ${worded(number, one, several)}`;
}
