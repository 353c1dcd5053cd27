/** The latest position in the log of changes that any answer came from. */
let latest = 0;
const listeners = new Set<(position: number) => void>();

export function latestPosition(): number {
  return latest;
}

/** Takes the position that an answer brought. */
export function notePosition(text: string | null): void {
  const position = Number(text ?? 0);
  if (!(position > latest)) return;
  latest = position;
  for (const listener of listeners) listener(position);
}

/** Calls back whenever an answer came from a later position than all before. Returns what ends it. */
export function onPosition(listener: (position: number) => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}
