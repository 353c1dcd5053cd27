import { Download } from 'lucide-react';
import { useState } from 'react';
import { count } from '../../data/count.ts';
import { Button } from '../../parts/button.tsx';
import { Popover } from '../../parts/popover.tsx';

const kinds = [
  ['csv', 'CSV', 'for spreadsheets'],
  ['vcard', 'Contact cards', 'vCard 4.0, for address books'],
  ['json-lines', 'JSON Lines', 'for programs'],
] as const;

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
  const address = (kind: string) => {
    const all = new URLSearchParams(query);
    all.delete('page');
    all.set('kind', kind);
    if (ticked.length > 0) all.set('ids', ticked.join(','));
    return `/api/contacts/export?${all}`;
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
        {count(people)} {ticked.length > 0 && 'ticked '}
        {people === 1 ? 'person' : 'people'}, with every attribute, as
      </p>
      {kinds.map(([kind, label, note]) => (
        <a
          key={kind}
          href={address(kind)}
          download
          onClick={() => setOpen(false)}
          className="flex items-baseline gap-2 rounded-md px-2 py-1.5 hover:bg-linen"
        >
          <span className="flex-1">{label}</span>
          <span className="text-[12px] text-quiet">{note}</span>
        </a>
      ))}
    </Popover>
  );
}
