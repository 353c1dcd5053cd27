/** The three states of knowing a viewer. */
export const states = ['anonymous', 'recognised', 'signed-in'] as const;
export type State = (typeof states)[number];

/** Some states of knowing a viewer in words; undefined for all and for none. */
export function sayStates(cells: ReadonlySet<number>): string | undefined {
  const held = states.filter((_, index) => cells.has(index)).join();
  const words: { readonly [states: string]: string } = {
    anonymous: 'nobody we know',
    recognised: 'known, not signed in',
    'signed-in': 'signed in',
    'anonymous,recognised': 'not signed in',
    'recognised,signed-in': 'known',
  };
  return words[held];
}
