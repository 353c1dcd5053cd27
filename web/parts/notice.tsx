import { CircleAlert } from 'lucide-react';
import type { ReactNode } from 'react';

/** A boxed message: `wrong` for what is broken, `careful` for what deserves a look, `note` for what is so. */
export function Notice({
  kind,
  title,
  children,
}: {
  kind: 'wrong' | 'careful' | 'note';
  title: string;
  children?: ReactNode;
}) {
  const colours = {
    wrong: 'border-apple/40 bg-apple-wash',
    careful: 'border-honey-edge/50 bg-honey-wash',
    note: 'border-line bg-paper',
  }[kind];
  return (
    <div role={kind === 'wrong' ? 'alert' : 'status'} className={`rounded-md border px-3 py-2.5 ${colours}`}>
      <div className="flex items-center gap-2 font-semibold">
        <CircleAlert size={15} className="shrink-0" aria-hidden />
        {title}
      </div>
      {children !== undefined && <div className="mt-1">{children}</div>}
    </div>
  );
}

/** What a list says while it is empty: the next step. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="hatched rounded-md border border-line px-8 py-12 text-center">
      <div className="mx-auto inline-block rounded-md bg-linen px-6 py-4">
        <div className="font-display text-lg font-semibold">{title}</div>
        {children !== undefined && <div className="mt-2 text-quiet">{children}</div>}
      </div>
    </div>
  );
}
