import { saidInstant } from '../../data/moment.ts';
import { Notice } from '../../parts/notice.tsx';
import { type EditedDocument, useSave } from './use-document.ts';

/** What keeps a document from being stored, said beside what is edited. */
export function NotSaved({ edited }: { edited: EditedDocument }) {
  const save = useSave(edited);
  if (save.kind !== 'refused' || save.again) return null;
  return (
    <Notice kind="wrong" title="What you wrote here is not saved">
      {save.message}
    </Notice>
  );
}

/** Whether what is on screen is stored, and who else has it open. */
export function SaveLine({ edited, others }: { edited: EditedDocument; others: readonly string[] }) {
  const save = useSave(edited);
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
