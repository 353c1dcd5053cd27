/** A number of things as people write it: `12,345`. */
export function count(number: number): string {
  return new Intl.NumberFormat('en-GB').format(number);
}
