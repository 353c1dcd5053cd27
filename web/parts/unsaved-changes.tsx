import { type ReactNode, useCallback, useEffect, useRef, useState } from 'react';
import { useBlocker } from 'react-router';
import { Button } from './button.tsx';
import { Dialog } from './dialog.tsx';

interface UnsavedChanges {
  /** Does something that loses unsaved changes; asks first where there are some. */
  readonly guarded: (go: () => void) => void;
  /** Says that leaving loses nothing any more, as after a deletion. */
  readonly settle: () => void;
  /** The question, to be drawn somewhere on the screen. */
  readonly question: ReactNode;
}

/**
 * Asks before unsaved changes are lost: by a link, by Back, by closing the tab, or by what is done on the screen itself. A
 * screen has one of these at most.
 *
 * @param isUnsaved whether there are changes that are not saved, as of now
 */
export function useUnsavedChanges(isUnsaved: () => boolean): UnsavedChanges {
  const latest = useRef(isUnsaved);
  useEffect(() => {
    latest.current = isUnsaved;
  });
  const isSettled = useRef(false);
  const isAtRisk = useCallback(() => !isSettled.current && latest.current(), []);
  const blocker = useBlocker(
    ({ currentLocation, nextLocation }) => isAtRisk() && currentLocation.pathname !== nextLocation.pathname,
  );
  const [waiting, setWaiting] = useState<() => void>();
  useEffect(() => {
    const warn = (event: BeforeUnloadEvent) => {
      if (isAtRisk()) event.preventDefault();
    };
    window.addEventListener('beforeunload', warn);
    return () => window.removeEventListener('beforeunload', warn);
  }, [isAtRisk]);
  const stay = () => {
    setWaiting(undefined);
    blocker.reset?.();
  };
  const leave = () => {
    setWaiting(undefined);
    waiting?.();
    blocker.proceed?.();
  };
  return {
    guarded: (go) => {
      if (isAtRisk()) setWaiting(() => go);
      else go();
    },
    settle: () => {
      isSettled.current = true;
    },
    question: (
      <Dialog
        open={blocker.state === 'blocked' || waiting !== undefined}
        onClose={stay}
        title="You have unsaved changes"
        description="They are lost if you leave now."
      >
        <div className="flex justify-end gap-2">
          <Button look="danger" onClick={leave}>
            Leave without saving
          </Button>
          <Button look="primary" onClick={stay}>
            Stay
          </Button>
        </div>
      </Dialog>
    ),
  };
}
