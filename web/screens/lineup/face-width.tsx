import { useState } from 'react';

/** How wide a face may be drawn, in pixels. */
const narrowest = 174;
const widest = 520;
const key = 'apple-porch-face-width';

const within = (width: number) => Math.round(Math.min(widest, Math.max(narrowest, width)));

/** How wide the faces of the lineup are drawn: as it was set last in this browser, at first so that some can be read. */
export function useFaceWidth(): [number, (width: number) => void] {
  const [width, setWidth] = useState(() => {
    const known = Number(localStorage.getItem(key) ?? Number.NaN);
    return within(Number.isFinite(known) ? known : 0.235 * window.innerWidth);
  });
  return [
    width,
    (next) => {
      setWidth(within(next));
      localStorage.setItem(key, String(within(next)));
    },
  ];
}

/** Sets how wide faces are drawn. */
export function FaceWidth({ width, onChange }: { width: number; onChange: (width: number) => void }) {
  return (
    <label className="ml-auto flex items-center gap-2 text-quiet">
      Size
      <input
        type="range"
        aria-label="Size of the faces"
        aria-valuetext={`${Math.round((100 * (width - narrowest)) / (widest - narrowest))}%`}
        min={narrowest}
        max={widest}
        step={2}
        value={width}
        onChange={(event) => onChange(event.target.valueAsNumber)}
        className="w-36 accent-leaf"
      />
    </label>
  );
}
