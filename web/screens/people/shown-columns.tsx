import { Columns3 } from 'lucide-react';
import { useMemo, useState } from 'react';
import { z } from 'zod';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import { Button } from '../../parts/button.tsx';
import { Popover } from '../../parts/popover.tsx';

const shownAtFirst = ['tier', 'plan', 'city', 'visits', 'renewal'];
const columnsKey = 'apple-porch-people-columns';

export function ColumnMenu({
  attributes,
  shown,
  onChange,
}: {
  attributes: readonly Attribute[];
  shown: readonly string[];
  onChange: (shown: string[]) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      label="Columns"
      className="w-[240px] p-2"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <Button look="quiet" icon={<Columns3 size={15} aria-hidden />}>
          Columns
        </Button>
      }
    >
      {attributes
        .filter(
          (attribute) =>
            attribute.source === 'contact' && !['first-name', 'last-name', 'email'].includes(attribute.id),
        )
        .map((attribute) => (
          <label key={attribute.id} className="flex items-center gap-2 rounded-md px-2 py-1 hover:bg-linen">
            <input
              type="checkbox"
              className="accent-leaf"
              checked={shown.includes(attribute.id)}
              onChange={(event) =>
                onChange(
                  event.target.checked
                    ? [...shown, attribute.id]
                    : shown.filter((other) => other !== attribute.id),
                )
              }
            />
            <span className="first-letter:uppercase">{attribute.label}</span>
          </label>
        ))}
    </Popover>
  );
}

export function useShownColumns(attributes: readonly Attribute[]): [string[], (shown: string[]) => void] {
  const [chosen, setChosen] = useState<string[] | undefined>(() => {
    try {
      return z.array(z.string()).parse(JSON.parse(localStorage.getItem(columnsKey) ?? ''));
    } catch {
      return undefined;
    }
  });
  const own = useMemo(
    () =>
      attributes
        .filter(
          (attribute) =>
            attribute.source === 'contact' && !['first-name', 'last-name', 'email'].includes(attribute.id),
        )
        .map((attribute) => attribute.id),
    [attributes],
  );
  const shown = useMemo(() => {
    const preferred = shownAtFirst.filter((id) => own.includes(id));
    return chosen ?? (preferred.length > 0 ? preferred : own.slice(0, 5));
  }, [chosen, own]);
  return [
    shown,
    (next) => {
      setChosen(next);
      localStorage.setItem(columnsKey, JSON.stringify(next));
    },
  ];
}
