import type { Content, Document } from '../../core/documents/document.ts';
import { piecesIn, piecesOf, withShared } from '../../core/documents/shared.ts';

/** Documents with their shared content in its place; one that stays as it was, with the same pieces, is the same object. */
export class WithPieces {
  private pieces: ReadonlyMap<string, Content> = new Map();
  /** For each document that names pieces, what it was made with. */
  private made = new WeakMap<Document, Document>();
  private readonly namesPieces = new WeakMap<Content, boolean>();

  of(documents: readonly Document[]): Document[] {
    const pieces = piecesOf(documents);
    if (!isSame(pieces, this.pieces)) this.made = new WeakMap();
    this.pieces = pieces;
    return documents.map((document) => (this.hasPieces(document) ? this.whole(document) : document));
  }

  private whole(document: Document): Document {
    let whole = this.made.get(document);
    if (!whole) {
      whole = { ...document, content: withShared(document.content, this.pieces) };
      this.made.set(document, whole);
    }
    return whole;
  }

  private hasPieces({ kind, content }: Document): boolean {
    if (kind === 'shared') return false;
    let has = this.namesPieces.get(content);
    if (has === undefined) {
      has = piecesIn(content).size > 0;
      this.namesPieces.set(content, has);
    }
    return has;
  }
}

function isSame(one: ReadonlyMap<string, Content>, other: ReadonlyMap<string, Content>): boolean {
  return one.size === other.size && [...one].every(([id, content]) => other.get(id) === content);
}
