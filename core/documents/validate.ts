import type { Catalogue } from '../attributes/catalogue.ts';
import { safeAddress } from './address.ts';
import {
  type Content,
  type DocumentKind,
  mergedAttributes,
  type Node,
  textOf,
  walkContent,
} from './document.ts';
import { type Inline, mergeFieldsOf, type TextBlock } from './text.ts';

/** What is wrong with a document, and at which block; shown beside the block, and by the server when it refuses. */
export interface DocumentProblem {
  block: string | null;
  message: string;
}

export interface DocumentSurroundings {
  readonly catalogue: Catalogue;
  readonly hasAudience: (id: string) => boolean;
  readonly hasPicture: (name: string) => boolean;
}

/**
 * What keeps a document from being saved: an address that is not safe, a line outside subject and preview, a
 * region that the channel does not have.
 */
export function unsavable(kind: DocumentKind, content: Content): DocumentProblem[] {
  const problems: DocumentProblem[] = [];
  if (kind === 'page' && (content.subject.length > 0 || content.preview.length > 0))
    problems.push({ block: null, message: 'A page has no subject or preview line' });
  for (const { node, region } of walkContent(content)) {
    if (node.kind !== 'slot' && (node.kind === 'line') !== (region !== 'body'))
      problems.push({ block: node.id, message: `A ${node.kind} cannot stand in the ${region}` });
    for (const address of addressesOf(node))
      if (address !== '' && safeAddress(address) === undefined)
        problems.push({
          block: node.id,
          message: `“${address.slice(0, 60)}” is not an address that a link may have; use https://, mailto:, tel: or a place on the site such as /site/`,
        });
  }
  return problems;
}

/** What keeps a document from being released, besides what keeps it from being saved. */
export function unreleasable(
  kind: DocumentKind,
  content: Content,
  surroundings: DocumentSurroundings,
): DocumentProblem[] {
  const problems = unsavable(kind, content);
  for (const { node } of walkContent(content)) {
    if (node.kind === 'slot')
      for (const variant of node.variants)
        if (!surroundings.hasAudience(variant.audience))
          problems.push({ block: node.id, message: `“${node.name}” has a variant for a deleted audience` });
    if (node.kind === 'picture' && !surroundings.hasPicture(node.picture))
      problems.push({ block: node.id, message: `There is no picture “${node.picture}”` });
    if (node.kind === 'button' && node.address === '')
      problems.push({ block: node.id, message: 'A button has no address' });
  }
  for (const attribute of mergedAttributes(content))
    if (!surroundings.catalogue.get(attribute))
      problems.push({
        block: null,
        message: `A merge field names an attribute that is gone: “${attribute}”`,
      });
  if (kind === 'email' && content.subject.length === 0)
    problems.push({ block: null, message: 'The email has no subject' });
  return problems;
}

function addressesOf(node: Node): string[] {
  return node.kind === 'button' ? [node.address] : [...linksOf(textOf(node))];
}

function* linksOf(blocks: readonly (TextBlock | Inline)[]): Generator<string> {
  for (const block of blocks) {
    if (block.type === 'text')
      for (const mark of block.marks ?? []) if (mark.type === 'link') yield mark.attrs.href;
    if (block.type === 'paragraph') yield* linksOf(block.content ?? []);
    if (block.type === 'bulletList' || block.type === 'orderedList')
      for (const item of block.content) yield* linksOf(item.content);
  }
}

/** Merge fields of a document whose fallback is empty. */
export function fieldsWithoutFallback(content: Content): { block: string; attribute: string }[] {
  const found: { block: string; attribute: string }[] = [];
  for (const { node } of walkContent(content)) {
    for (const field of mergeFieldsOf(textOf(node)))
      if (field.attrs.fallback.trim() === '')
        found.push({ block: node.id, attribute: field.attrs.attribute });
  }
  return found;
}
