import type { ListedFile } from '../../contract/files.ts';
import { filesOf } from '../../core/collections/collection.ts';
import { filesIn, withFile } from '../../core/documents/files.ts';
import { itemRow, updateItem } from '../collections/rows.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import { inTransaction } from '../store/transaction.ts';
import { documentRow, listedFiles, updateDocument } from './rows.ts';

type Use = ListedFile['uses'][number];

/** The pictures and videos that were uploaded, with where the drafts show them. */
export class FileLibrary {
  constructor(private readonly drafts: Drafts) {}

  /** The latest first. */
  async list(): Promise<ListedFile[]> {
    const [files, uses] = [await listedFiles(), await this.uses()];
    return files.map((file) => ({ ...file, uses: uses.get(file.id) ?? [] }));
  }

  /**
   * Shows one file wherever the drafts show another.
   *
   * @returns how many documents and items were changed
   */
  async replace(id: string, by: string): Promise<{ places: number }> {
    const files = new Map((await listedFiles()).map((file) => [file.id, file]));
    const [before, after] = [files.get(id), files.get(by)];
    if (!before || !after) throw notFound('file');
    const isVideo = (type: string) => type.startsWith('video/');
    if (isVideo(before.type) !== isVideo(after.type))
      throw new Refusal(422, 'A picture can only be replaced by a picture, and a video by a video.');
    const uses = (await this.uses()).get(id) ?? [];
    return inTransaction(async (transaction) => {
      let places = 0;
      for (const use of uses) {
        if (use.what === 'item') {
          const row = await itemRow(use.id, transaction);
          if (!row) continue;
          const values = Object.fromEntries(
            Object.entries(row.values).map(([field, value]) => [field, value === id ? by : value]),
          );
          await updateItem(row, { values, revision: row.revision + 1 }, transaction);
        } else {
          const row = await documentRow(use.id, transaction);
          if (!row) continue;
          const content = withFile(row.content, id, by);
          if (content === row.content) continue;
          await updateDocument(row, { content, revision: row.revision + 1 }, transaction);
        }
        places++;
      }
      return { places };
    });
  }

  /** Where the drafts show each file, by its id. */
  private async uses(): Promise<Map<string, Use[]>> {
    const { documents, collections = [], items = [] } = await this.drafts.snapshot();
    const found = new Map<string, Use[]>();
    const add = (files: Iterable<string>, use: Use) => {
      for (const file of new Set(files)) {
        const known = found.get(file);
        if (known) known.push(use);
        else found.set(file, [use]);
      }
    };
    for (const { id, kind, name, content } of documents)
      add(filesIn(content), { what: kind, id, name, collection: null });
    const byId = new Map(collections.map((collection) => [collection.id, collection]));
    for (const item of items) {
      const collection = byId.get(item.collection);
      if (collection)
        add(filesOf(item, collection), {
          what: 'item',
          id: item.id,
          name: item.title,
          collection: collection.id,
        });
    }
    return found;
  }
}
