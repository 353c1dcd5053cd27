/** Initials in a circle, as a quiet anchor beside a name. */
export function Initials({ name, large = false }: { name: string | null; large?: boolean }) {
  const letters = name
    ? name
        .split(/[\s@.]+/)
        .map((part) => part[0] ?? '')
        .slice(0, 2)
        .join('')
        .toUpperCase()
    : '?';
  return (
    <span
      aria-hidden
      className={`inline-flex shrink-0 items-center justify-center rounded-full bg-leaf-wash font-semibold text-leaf ${large ? 'size-9 text-[13px]' : 'size-7 text-[11px]'} ${name ? '' : 'border border-dashed border-edge bg-transparent'}`}
    >
      {letters}
    </span>
  );
}
