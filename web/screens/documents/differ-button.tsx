import { Split } from 'lucide-react';
import { type ReactNode, useState } from 'react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import { AudiencePicker } from '../../parts/audience-picker.tsx';
import { Button } from '../../parts/button.tsx';
import { Popover } from '../../parts/popover.tsx';

/** How something is made to differ, and for whom. */
export type Differing =
  | { kind: 'variant' | 'only' | 'hide' | 'access'; audience: string }
  /** For each of the audiences that are set for all slots. */
  | { kind: 'all' };

type Way = Exclude<Differing, { kind: 'all' }>['kind'];

const ways: readonly { kind: Way; label: string; note: string }[] = [
  {
    kind: 'variant',
    label: 'Differs for…',
    note: 'They get a variant of their own, which begins as a copy.',
  },
  { kind: 'only', label: 'Show only to…', note: 'Everyone else gets nothing here.' },
  { kind: 'hide', label: 'Hide from…', note: 'They get nothing here.' },
  {
    kind: 'access',
    label: 'By access…',
    note: 'Three variants: who may, who is signed in and may not, who is signed out.',
  },
];

/** Makes what is chosen differ: first how, then for whom. */
export function DifferButton({
  audiences,
  setForAll,
  onDiffer,
  label = 'Make this differ for…',
  trigger,
}: {
  audiences: readonly ListedAudience[];
  /** The audiences that are set for all slots of the document. */
  setForAll: readonly string[] | undefined;
  onDiffer: (how: Differing) => void;
  label?: string;
  /** What opens it, in place of a button with the label. */
  trigger?: ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const [kind, setKind] = useState<Way>('variant');
  const way = ways.find((one) => one.kind === kind);
  return (
    <Popover
      label={label}
      className="w-[300px] p-2"
      open={open}
      onOpenChange={setOpen}
      trigger={
        trigger ?? (
          <Button className="w-full" icon={<Split size={15} aria-hidden />}>
            {label}
          </Button>
        )
      }
    >
      {setForAll && (
        <Button
          className="mb-2 w-full"
          onClick={() => {
            setOpen(false);
            onDiffer({ kind: 'all' });
          }}
        >
          {setForAll.length === 1
            ? 'As is set for all slots'
            : `For the ${setForAll.length} audiences of all slots`}
        </Button>
      )}
      <fieldset className="mb-2 grid grid-cols-2 gap-1">
        <legend className="sr-only">How</legend>
        {ways.map((one) => (
          <button
            key={one.kind}
            type="button"
            aria-pressed={one.kind === kind}
            onClick={() => setKind(one.kind)}
            className={`rounded-md border px-2 py-1 text-left ${one.kind === kind ? 'border-ink font-semibold' : 'border-line text-quiet hover:text-ink'}`}
          >
            {one.label}
          </button>
        ))}
      </fieldset>
      <p className="mb-2 px-1 text-[12px] leading-4 text-quiet">{way?.note}</p>
      <AudiencePicker
        audiences={audiences}
        onChoose={(audience) => {
          setOpen(false);
          onDiffer({ kind, audience });
        }}
      />
    </Popover>
  );
}
