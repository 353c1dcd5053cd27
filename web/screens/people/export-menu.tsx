import { Download } from 'lucide-react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { begunJobSchema, mostAtOnce } from '../../../contract/people.ts';
import { call, messageOf } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { Button } from '../../parts/button.tsx';
import { Popover } from '../../parts/popover.tsx';
import { toast } from '../../parts/toast.tsx';

const kinds = [
  ['csv', 'CSV', 'for spreadsheets'],
  ['vcard', 'Contact cards', 'vCard 4.0, for address books'],
  ['json-lines', 'JSON Lines', 'for programs'],
] as const;

const entry = 'flex w-full items-baseline gap-2 rounded-md px-2 py-1.5 text-left hover:bg-linen';

/** Saves the people that are listed, or those of them that are ticked, as a file. */
export function ExportMenu({
  query,
  matching,
  ticked,
}: {
  query: URLSearchParams;
  matching: number;
  ticked: readonly number[];
}) {
  const [open, setOpen] = useState(false);
  const navigate = useNavigate();
  const asked = (kind: string) => {
    const all = new URLSearchParams(query);
    all.delete('page');
    all.set('kind', kind);
    if (ticked.length > 0) all.set('ids', ticked.join(','));
    return all;
  };
  const exportInBackground = async (kind: string) => {
    setOpen(false);
    try {
      await call('POST', '/contacts/exports', begunJobSchema, Object.fromEntries(asked(kind)));
      toast(`Exporting ${count(people)} people. You can download the file from Activity.`, {
        action: { label: 'Activity', onClick: () => void navigate('/activity') },
      });
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  const people = ticked.length > 0 ? ticked.length : matching;
  return (
    <Popover
      label="Export"
      className="w-[300px] p-2"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <Button look="quiet" icon={<Download size={15} aria-hidden />}>
          {ticked.length > 0 ? `Export ${count(ticked.length)}` : 'Export'}
        </Button>
      }
    >
      <p className="px-2 py-1 text-quiet">
        {count(people)} {ticked.length > 0 && 'selected '}
        {people === 1 ? 'person' : 'people'}, with every attribute, as
      </p>
      {kinds.map(([kind, label, note]) => {
        const words = (
          <>
            <span className="flex-1">{label}</span>
            <span className="text-[12px] text-quiet">{note}</span>
          </>
        );
        return people > mostAtOnce ? (
          <button key={kind} type="button" onClick={() => exportInBackground(kind)} className={entry}>
            {words}
          </button>
        ) : (
          <a
            key={kind}
            href={`/api/contacts/export?${asked(kind)}`}
            download
            onClick={() => setOpen(false)}
            className={entry}
          >
            {words}
          </a>
        );
      })}
    </Popover>
  );
}
