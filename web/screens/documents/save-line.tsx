import type { StoredDocument } from '../../../contract/documents.ts';
import type { SaveState } from '../../data/autosave.ts';
import { saidInstant } from '../../data/moment.ts';

/** Whether what is on screen is stored, and who else has it open. */
export function SaveLine({ save, others }: { save: SaveState<StoredDocument>; others: readonly string[] }) {
  const words = {
    saved: save.kind === 'saved' ? `saved ${saidInstant(save.at)}` : '',
    waiting: 'saving…',
    saving: 'saving…',
    refused: save.kind === 'refused' && save.again ? 'not saved yet; trying again' : 'not saved',
    conflict: 'not saved: changed by somebody else',
  }[save.kind];
  return (
    <div className="px-2">
      <span
        role="status"
        className={save.kind === 'refused' || save.kind === 'conflict' ? 'text-apple' : 'text-quiet'}
      >
        {words}
      </span>
      {others.length > 0 && (
        <p className="text-honey" role="status">
          {new Intl.ListFormat('en-GB').format(others)} {others.length === 1 ? 'is' : 'are'} here too
        </p>
      )}
      {save.kind === 'refused' && !save.again && <p className="text-[13px] text-apple">{save.message}</p>}
    </div>
  );
}
