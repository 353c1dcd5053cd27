import { useEffect, useState } from 'react';

/** Oldest that “now” may be while one works, in milliseconds, and when one comes back to the window. */
const oldestAtWork = 10 * 60_000;
const oldestOnReturn = 60_000;

/**
 * The moment that “now” stands for, in milliseconds since 1970 UTC. It stays the same while one works, so that nothing on
 * screen is decided anew by itself at every second; coming back to the window, and every ten minutes, it catches up.
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
