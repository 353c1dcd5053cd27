import type { Profile } from '../../../contract/attributes.ts';

/** Where the people in a condition are listed. */
export function peopleWith(condition: Profile['bars'][number]['condition']): string {
  return `/people?where=${encodeURIComponent(JSON.stringify(condition))}`;
}
