import { Redo2, Undo2 } from 'lucide-react';
import { IconButton } from './button.tsx';

export function UndoButtons({
  history,
}: {
  history: { undo: () => void; redo: () => void; canUndo: boolean; canRedo: boolean };
}) {
  return (
    <span className="inline-flex">
      <IconButton label="Undo (Ctrl Z)" disabled={!history.canUndo} onClick={history.undo}>
        <Undo2 size={15} />
      </IconButton>
      <IconButton label="Redo (Ctrl Shift Z)" disabled={!history.canRedo} onClick={history.redo}>
        <Redo2 size={15} />
      </IconButton>
    </span>
  );
}
