import type { Block } from '../../../core/documents/document.ts';
import type { Inline } from '../../../core/documents/text.ts';
import { TextEditing } from './text-editing.tsx';

type Editing = Omit<Parameters<typeof TextEditing>[0], 'label' | 'kind' | 'content' | 'onChange'>;

/** The words of a block, edited where they stand. */
export function BlockText({
  block,
  onType,
  ...editing
}: Editing & { block: Block; onType: (update: (block: Block) => Block) => void }) {
  const common = { ...editing, label: 'Text of this block' };
  switch (block.kind) {
    case 'text':
      return (
        <TextEditing
          {...common}
          kind="text"
          content={block.content}
          onChange={(content) => onType((old) => (old.kind === 'text' ? { ...old, content } : old))}
        />
      );
    case 'heading':
    case 'line':
    case 'quotation':
      return (
        <TextEditing
          {...common}
          kind={block.kind === 'line' ? 'line' : 'inline'}
          goesOn={block.kind === 'heading'}
          content={block.content}
          onChange={(content: Inline[]) =>
            onType((old) => (old.kind === block.kind ? { ...old, content } : old))
          }
        />
      );
    case 'button':
    case 'link':
      return (
        <TextEditing
          {...common}
          kind="inline"
          content={block.label}
          onChange={(label: Inline[]) => onType((old) => (old.kind === block.kind ? { ...old, label } : old))}
        />
      );
    default:
      return null;
  }
}
