import type { StoredDocument } from '../../contract/documents.ts';
import type { Node } from '../../core/documents/document.ts';
import { copyNode } from '../../core/documents/edit.ts';
import { newId } from '../ids.ts';
import { notFound, Refusal } from '../refusal.ts';
import { inTransactionAmongOthers, type Transaction } from '../store/transaction.ts';
import { refuseTaken } from './addresses.ts';
import { documentRow, insertDocument, stored } from './rows.ts';

const longestName = 120;
const longestSlug = 80;
/** How many copies of one document may stand beside each other before another name has to be chosen. */
const mostCopies = 100;

/**
 * Makes a copy of a document under a name and a path that are free. It may be opened by the same people; which items a page
 * shows stays with the original.
 */
export async function duplicateDocument(id: string): Promise<StoredDocument> {
  const original = await documentRow(id);
  if (!original) throw notFound('page or email');
  const { kind, name, slug, access } = original;
  const copies = (nodes: readonly Node[]) => nodes.map((node) => copyNode(node, newId));
  const { subject, preview, body } = original.content;
  const content = {
    ...original.content,
    subject: copies(subject),
    preview: copies(preview),
    body: copies(body),
  };
  const row = await inTransactionAmongOthers(async (transaction) =>
    insertDocument(
      {
        id: newId(),
        kind,
        name: `${name.slice(0, longestName - ' (copy)'.length)} (copy)`,
        slug: await freeSlug(kind, slug || 'home', transaction),
        content,
        access,
      },
      transaction,
    ),
  );
  return stored(row);
}

async function freeSlug(
  kind: StoredDocument['kind'],
  slug: string,
  transaction: Transaction,
): Promise<string> {
  for (let copy = 1; copy <= mostCopies; copy++) {
    const ending = copy === 1 ? '-copy' : `-copy-${copy}`;
    const wanted = slug.slice(0, longestSlug - ending.length).replace(/-$/, '') + ending;
    try {
      await refuseTaken(kind, wanted, undefined, transaction);
      return wanted;
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
    }
  }
  throw new Refusal(409, `There are ${mostCopies} copies already. Rename or delete some of them first.`);
}
