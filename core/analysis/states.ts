/** The three states of knowing a viewer. */
export const states = ['anonymous', 'recognised', 'signed-in'] as const;
export type State = (typeof states)[number];
