import type { Snapshot } from '../../core/deciding/release.ts';
import { Refusal } from '../refusal.ts';

/**
 * Refuses to make something for an audience that is gone. What was for it already may stay so, or nothing else about it
 * could be changed; a release says what is wrong.
 *
 * @param before for whom it was until now
 */
export function refuseGoneAudience(
  wanted: string | null | undefined,
  before: string | null | undefined,
  { audiences }: Snapshot,
): void {
  if (wanted === null || wanted === undefined || wanted === before) return;
  if (!audiences.some(({ id }) => id === wanted))
    throw new Refusal(422, 'The audience it is for was deleted meanwhile. Choose another.');
}

/** Refuses a page that is gone, or that is none of its own: an email, shared content, the page of a collection's items. */
export function refuseGonePage(
  wanted: string | null | undefined,
  before: string | null | undefined,
  { documents }: Snapshot,
): void {
  if (wanted === null || wanted === undefined || wanted === before) return;
  const page = documents.find(({ id }) => id === wanted);
  if (!page) throw new Refusal(422, 'The page was deleted meanwhile. Choose another.');
  if (page.kind !== 'page' || page.collection)
    throw new Refusal(422, `“${page.name}” is no page with an address of its own. Choose another.`);
}
