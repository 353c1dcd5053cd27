import type { NodeStep } from '../../../core/documents/edit.ts';

const nodeSteps: { readonly [key: string]: NodeStep } = {
  ArrowUp: 'up',
  ArrowDown: 'down',
  ArrowRight: 'in',
  ArrowLeft: 'out',
};

/** Where an arrow key moves a block while Alt is held; undefined for any other key. */
export function stepOf({ altKey, key }: { altKey: boolean; key: string }): NodeStep | undefined {
  return altKey ? nodeSteps[key] : undefined;
}
