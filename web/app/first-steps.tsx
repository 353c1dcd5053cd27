import { lazy, Suspense, useState } from 'react';
import { firstSteps, useFirstSteps } from '../data/first-steps.ts';
import { Popover } from '../parts/popover.tsx';

const Steps = lazy(async () => ({ default: (await import('./first-steps-list.tsx')).Steps }));

/** What a newcomer does first, ticked off as it is done; gone once all of it is, or it was dismissed. */
export function FirstSteps() {
  const { done, isHidden } = useFirstSteps();
  const [open, setOpen] = useState(false);
  if (isHidden || done.length === firstSteps.length) return null;
  const label = `First steps: ${done.length} of ${firstSteps.length} done`;
  return (
    <Popover
      label="First steps"
      className="w-[340px] p-4"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <button
          type="button"
          aria-label={label}
          title={label}
          className="flex h-8 items-center gap-1.5 whitespace-nowrap rounded-md px-2 text-[13px] text-leaf hover:bg-paper"
        >
          First steps <span className="font-semibold">{`${done.length}/${firstSteps.length}`}</span>
        </button>
      }
    >
      <Suspense>
        <Steps onClose={() => setOpen(false)} />
      </Suspense>
    </Popover>
  );
}
