import type { LucideIcon } from 'lucide-react';
import type { ComponentType } from 'react';
import type { Block } from '../../../../core/documents/document.ts';
import type { SettingsProps } from '../settings-props.ts';

/** What blocks are for, as they are offered to be added, in this order. */
export const groups = [
  'Text and media',
  'Layout',
  'Links',
  'Forms and access',
  'HTML and shared content',
] as const;

/** How a kind of block is called, offered and set in the studio. */
export interface EditedBlock<Kind extends Block['kind']> {
  readonly name: string;
  readonly icon: LucideIcon;
  /** Where it is offered to be added; without this it is not. */
  readonly group?: (typeof groups)[number];
  /** Whether it is offered only on the page that shows the items of a collection. */
  readonly onItemPages?: true;
  /** What can be set of it besides its words. */
  readonly Settings?: ComponentType<SettingsProps<Kind>>;
}

/** Changes some of a block's own fields; its kind can’t have changed since it was drawn. */
export function changing<Kind extends Block['kind']>(
  update: SettingsProps['update'],
  kind: Kind,
): (change: Partial<Extract<Block, { kind: Kind }>>) => void {
  return (change) => update((old) => (old.kind === kind ? { ...old, ...change } : old));
}
