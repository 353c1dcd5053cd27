import { areAlike } from '../deciding/alike.ts';
import type { Snapshot } from '../deciding/release.ts';
import type { Content, Document } from '../documents/document.ts';
import { audiencesOfDocument } from '../documents/uses.ts';
import { changedAudiences } from './changed-audiences.ts';

const empty: Content = { subject: [], preview: [], body: [] };

/**
 * Two snapshots without the contents that are the same in both for every viewer that there can be, and without the items
 * that are: comparing these finds the same as comparing the whole ones, however large those are. What was compared before
 * is not compared again.
 */
export function whatMayDiffer(
  before: Snapshot | undefined,
  after: Snapshot,
): { readonly before: Snapshot | undefined; readonly after: Snapshot } {
  if (!before) return { before, after };
  const changed = changedAudiences(before, after);
  const isSiteAlike = areAlike(before.settings, after.settings);
  const old = new Map(before.documents.map((document) => [document.id, document]));
  const same = new Set<string>();
  for (const document of after.documents) {
    const was = old.get(document.id);
    if (!was || !isSiteAlike || !areAlike(was, document)) continue;
    if (![...audiencesOfDocument(document)].some((audience) => changed.has(audience))) same.add(document.id);
  }
  const lean = (document: Document) => (same.has(document.id) ? { ...document, content: empty } : document);
  const sameItems = areAlikeAroundItems(before, after) ? alikeItems(before, after) : new Set<string>();
  const lessen = (snapshot: Snapshot): Snapshot => ({
    ...snapshot,
    documents: snapshot.documents.map(lean),
    ...(snapshot.items && { items: snapshot.items.filter(({ id }) => !sameItems.has(id)) }),
  });
  return { before: lessen(before), after: lessen(after) };
}

/** Whether who may open an item can't be other than before because of anything but the item itself. */
export function areAlikeAroundItems(before: Snapshot, after: Snapshot): boolean {
  return (
    before.settings.zone === after.settings.zone &&
    allAlike(before.attributes, after.attributes) &&
    allAlike(before.collections ?? [], after.collections ?? []) &&
    allAlike(
      before.audiences.map(({ condition }) => condition),
      after.audiences.map(({ condition }) => condition),
    ) &&
    before.audiences.every(({ id }, index) => after.audiences[index]?.id === id)
  );
}

function allAlike(some: readonly object[], others: readonly object[]): boolean {
  return (
    some.length === others.length &&
    some.every((one, index) => {
      const other = others[index];
      return other !== undefined && areAlike(one, other);
    })
  );
}

function alikeItems(before: Snapshot, after: Snapshot): Set<string> {
  const old = new Map(before.items?.map((item) => [item.id, item]));
  return new Set(
    (after.items ?? []).flatMap((item) => {
      const was = old.get(item.id);
      return was && areAlike(was, item) ? [item.id] : [];
    }),
  );
}
