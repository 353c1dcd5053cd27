import { variantLetter } from '../../core/documents/document.ts';

const hues = 'abcdefgh';

/** The hue of a variant by its place, as a CSS value. */
export function variantHue(choice: number): string {
  return `var(--variant-${hues[choice % hues.length]})`;
}

/** The letter tab of a variant; everyone else is an open outline. */
export function VariantMark({ choice, label }: { choice: number; label?: string }) {
  if (choice < 0)
    return (
      <span
        role="img"
        aria-label={label ?? 'everyone else'}
        className="inline-flex h-[18px] w-[22px] shrink-0 items-center justify-center rounded-[6px] rounded-bl-none border-2 border-edge bg-paper text-[11px] font-bold leading-none text-quiet"
      >
        –
      </span>
    );
  return (
    <span
      role="img"
      aria-label={label ?? `variant ${variantLetter(choice)}`}
      style={{ background: variantHue(choice) }}
      className="inline-flex h-[18px] w-[22px] shrink-0 items-center justify-center rounded-[6px] rounded-bl-none text-[11px] font-bold leading-none text-white forced-color-adjust-none"
    >
      {variantLetter(choice)}
    </span>
  );
}

/** The strip at a variant's edge: its hue in its own pattern. */
export function VariantEdge({ choice }: { choice: number }) {
  if (choice < 0) return <span className="w-1.5 self-stretch rounded-full border-2 border-edge/60" />;
  return (
    <span
      className="edge-pattern forced-color-adjust-none w-1.5 self-stretch rounded-full"
      data-pattern={choice % 8}
      style={{ '--hue': variantHue(choice) } as React.CSSProperties}
    />
  );
}
