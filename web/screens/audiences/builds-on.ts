import type { ListedAudience } from '../../../contract/audiences.ts';
import { audiencesIn } from '../../../core/conditions/condition.ts';

/** Whether an audience builds on another, through any number of steps; such a one can't be its part. */
export function buildsOn(id: string, on: string | undefined, audiences: readonly ListedAudience[]): boolean {
  if (on === undefined) return false;
  const seen = new Set<string>();
  const reaches = (from: string): boolean => {
    if (from === on) return true;
    if (seen.has(from)) return false;
    seen.add(from);
    const audience = audiences.find((other) => other.id === from);
    return audience !== undefined && [...audiencesIn(audience.condition)].some(reaches);
  };
  return reaches(id);
}
