import { useEffect } from 'react';

const product = 'Apple Porch';

/** Names the browser's tab after what is open, for as long as it is. */
export function useTabTitle(what: string | undefined): void {
  useEffect(() => {
    if (what === undefined || what === '') return;
    document.title = `${what} · ${product}`;
    return () => {
      document.title = product;
    };
  }, [what]);
}
