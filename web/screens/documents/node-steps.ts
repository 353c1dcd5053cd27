import type { NodeStep } from '../../../core/documents/edit.ts';

/** Where an arrow key moves a block while Alt is held. */
export const nodeSteps: { readonly [key: string]: NodeStep } = {
  ArrowUp: 'up',
  ArrowDown: 'down',
  ArrowRight: 'in',
  ArrowLeft: 'out',
};
