import { useEffect, useState } from 'react';

/** Oldest that “now” may be while one works, in milliseconds, and when one comes back to the window. */
const oldestAtWork = 10 * 60_000;
const oldestOnReturn = 60_000;

/**
 * The current time, in milliseconds since 1970 UTC. It is not read every second, because every reading decides everything
 * on screen again: only when the window gets the focus back, and every ten minutes.
 */
export function useNow(): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const catchUp = (oldest: number) =>
      setNow((before) => (Math.abs(Date.now() - before) > oldest ? Date.now() : before));
    const onReturn = () => {
      if (document.visibilityState === 'visible') catchUp(oldestOnReturn);
    };
    const timer = setInterval(() => catchUp(oldestAtWork), 60_000);
    window.addEventListener('focus', onReturn);
    document.addEventListener('visibilitychange', onReturn);
    return () => {
      clearInterval(timer);
      window.removeEventListener('focus', onReturn);
      document.removeEventListener('visibilitychange', onReturn);
    };
  }, []);
  return now;
}
