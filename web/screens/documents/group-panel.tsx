import { Copy, Trash2 } from 'lucide-react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import { IconButton } from '../../parts/button.tsx';
import { DifferButton, type Differing } from './differ-button.tsx';

/** What can be done with several blocks at once. */
export function GroupPanel({
  count,
  areNeighbours,
  audiences,
  onDuplicate,
  onRemove,
  setForAll,
  onDiffer,
}: {
  count: number;
  areNeighbours: boolean;
  audiences: readonly ListedAudience[];
  onDuplicate: () => void;
  onRemove: () => void;
  setForAll: readonly string[] | undefined;
  onDiffer: (how: Differing) => void;
}) {
  return (
    <section aria-label={`${count} blocks`} className="flex flex-col gap-2">
      <div className="flex items-center">
        <h2 className="flex-1 text-[16px]">{count} blocks</h2>
        <IconButton label="Duplicate them" onClick={onDuplicate}>
          <Copy size={15} />
        </IconButton>
        <IconButton label="Delete them" onClick={onRemove}>
          <Trash2 size={15} />
        </IconButton>
      </div>
      {areNeighbours ? (
        <DifferButton
          label="Make them differ for…"
          audiences={audiences}
          setForAll={setForAll}
          onDiffer={onDiffer}
        />
      ) : (
        <p className="text-quiet">Blocks that stand next to each other can be made to differ together.</p>
      )}
    </section>
  );
}
