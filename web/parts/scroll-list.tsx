import type { ReactNode } from 'react';

/** A list that scrolls where it is long, by keyboard too although nothing in it can be chosen. */
export function ScrollList({ className, children }: { className: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
    <ul tabIndex={0} className={`overflow-y-auto ${className}`}>
      {children}
    </ul>
  );
}
