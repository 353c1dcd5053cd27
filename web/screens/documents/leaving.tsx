import { useEffect, useState } from 'react';
import { useBlocker } from 'react-router';
import type { Work } from '../../data/open-work.ts';
import { Button } from '../../parts/button.tsx';
import { Dialog } from '../../parts/dialog.tsx';

/** Stores what is written before its screen is left, and asks only where it can't be stored. */
export function Leaving({ work, problem }: { work: Work; problem: string | undefined }) {
  const blocker = useBlocker(
    ({ currentLocation, nextLocation }) =>
      work.isUnsaved && currentLocation.pathname !== nextLocation.pathname,
  );
  const [asks, setAsks] = useState(false);
  const isBlocked = blocker.state === 'blocked';
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each attempt to leave
  useEffect(() => {
    if (!isBlocked) return;
    let current = true;
    void work.flush().then((isStored) => {
      if (!current) return;
      if (isStored) blocker.proceed?.();
      else setAsks(true);
    });
    return () => {
      current = false;
    };
  }, [isBlocked]);
  if (!isBlocked || !asks) return null;
  const stay = () => {
    setAsks(false);
    blocker.reset();
  };
  return (
    <Dialog
      open
      onClose={stay}
      title="What you wrote is not saved"
      description={problem ?? 'It could not be saved just now.'}
    >
      <p className="text-quiet">
        If you leave, you can restore it the next time you open this in the same browser.
      </p>
      <div className="mt-4 flex justify-end gap-2">
        <Button
          onClick={() => {
            setAsks(false);
            blocker.proceed();
          }}
        >
          Leave
        </Button>
        <Button look="primary" autoFocus onClick={stay}>
          Stay here
        </Button>
      </div>
    </Dialog>
  );
}
