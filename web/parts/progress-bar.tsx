/** How much of something is done, from 0 to 1. */
export function ProgressBar({ label, done }: { label: string; done: number }) {
  return (
    <progress
      aria-label={label}
      value={done}
      className="block h-2 w-full appearance-none overflow-hidden rounded-full bg-line [&::-moz-progress-bar]:bg-leaf [&::-webkit-progress-bar]:bg-line [&::-webkit-progress-value]:bg-leaf"
    />
  );
}
