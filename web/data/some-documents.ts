import { mutate } from 'swr';
import { z } from 'zod';
import type { LoggedChange } from '../../contract/changes.ts';
import { type ListedDocument, listedDocumentSchema } from '../../contract/documents.ts';
import { call } from './api.ts';

// The list of documents is long, and what changes of it is mostly the one that somebody writes in.

export const listPath = '/documents';
const listSchema = z.array(listedDocumentSchema);
/** Where more documents than this changed, all are read. */
const mostSingly = 50;

/** The ids of the documents that changed; undefined where that is none, many, or any. */
export function changedDocuments(changes: readonly LoggedChange[]): ReadonlySet<string> | undefined {
  const ids = new Set<string>();
  for (const change of changes) {
    if (change.kind !== 'document') continue;
    if (change.ids === null) return undefined;
    for (const id of change.ids) ids.add(id);
  }
  return ids.size === 0 || ids.size > mostSingly ? undefined : ids;
}

/** Has the list of documents, where it is known, hold some of them as they are stored now. */
export async function readThose(ids: ReadonlySet<string>): Promise<void> {
  const path = `${listPath}?ids=${[...ids].map(encodeURIComponent).join()}`;
  try {
    await mutate<readonly ListedDocument[]>(
      listPath,
      async (known) => {
        if (!known) throw new Error('nothing is known of the others');
        return withThose(known, await call('GET', path, listSchema), ids);
      },
      { revalidate: false },
    );
  } catch {
    await mutate(listPath);
  }
}

/** A list in which some are as they are now: in their place, at the end where they are new, or gone. */
export function withThose<Listed extends { readonly id: string }>(
  known: readonly Listed[],
  now: readonly Listed[],
  ids: ReadonlySet<string>,
): Listed[] {
  const left = new Map(now.map((one) => [one.id, one]));
  const all = known.flatMap((one) => {
    const next = left.get(one.id);
    left.delete(one.id);
    return next ?? (ids.has(one.id) ? [] : one);
  });
  return [...all, ...left.values()];
}
