import { useSyncExternalStore } from 'react';
import { z } from 'zod';

/** What a newcomer does first, in the order of the work. */
export const firstSteps = ['people', 'audience', 'variant', 'look', 'release'] as const;
export type FirstStep = (typeof firstSteps)[number];

const key = 'apple-porch-first-steps';
/** As how many people somebody looks before that step is done. */
const peopleToLookAs = 3;
const progressSchema = z.object({
  done: z.array(z.enum(firstSteps)),
  lookedAs: z.array(z.number()),
  isHidden: z.boolean(),
});
type Progress = z.infer<typeof progressSchema>;

const listeners = new Set<() => void>();
let progress = stored();

function stored(): Progress {
  try {
    return progressSchema.parse(JSON.parse(localStorage.getItem(key) ?? ''));
  } catch {
    return { done: [], lookedAs: [], isHidden: false };
  }
}

function change(next: Progress): void {
  progress = next;
  try {
    localStorage.setItem(key, JSON.stringify(next));
  } catch {
    // Where nothing can be kept, the steps are counted for as long as the window is open.
  }
  for (const listener of listeners) listener();
}

/** Ticks a step off the newcomer's list. */
export function noteStep(step: FirstStep): void {
  if (!progress.done.includes(step)) change({ ...progress, done: [...progress.done, step] });
}

/** Counts a person as looked as. */
export function noteLook(person: number): void {
  if (progress.done.includes('look') || progress.lookedAs.includes(person)) return;
  change({ ...progress, lookedAs: [...progress.lookedAs, person] });
  if (progress.lookedAs.length >= peopleToLookAs) noteStep('look');
}

export function hideFirstSteps(): void {
  change({ ...progress, isHidden: true });
}

/** How far somebody is with their first steps, in this browser. */
export function useFirstSteps(): Progress {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => progress,
  );
}
