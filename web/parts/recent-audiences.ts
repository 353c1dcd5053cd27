import { z } from 'zod';

const key = 'apple-porch-recent-audiences';
const most = 3;
const idsSchema = z.array(z.string()).max(most);

/** Ids of the audiences that were chosen last in this browser, the latest first; some may be deleted by now. */
export function recentAudiences(): readonly string[] {
  try {
    return idsSchema.parse(JSON.parse(localStorage.getItem(key) ?? '[]'));
  } catch {
    return [];
  }
}

export function noteRecentAudience(id: string): void {
  const ids = [id, ...recentAudiences().filter((other) => other !== id)].slice(0, most);
  localStorage.setItem(key, JSON.stringify(ids));
}
