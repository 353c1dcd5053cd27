import type { Condition } from '../conditions/condition.ts';
import { validate } from '../conditions/validate.ts';
import { safeAddress } from './address.ts';
import { kindOf } from './blocks/blocks.ts';
import type { DocumentSurroundings } from './blocks/kind.ts';
import { type Content, type DocumentKind, type Node, textOf, walkContent } from './document.ts';
import { type Inline, inlinesOf, mergeFieldsOf, type TextBlock } from './text.ts';
import { mergedAttributes } from './uses.ts';

/** What is wrong with a document, and at which block; shown beside the block, and by the server when it refuses. */
export interface DocumentProblem {
  block: string | null;
  message: string;
}

/**
 * What keeps a document from being saved: an address that is not safe, a line outside subject and preview, a
 * region that the channel does not have, a block that mail can't show.
 */
export function unsavable(kind: DocumentKind, content: Content): DocumentProblem[] {
  const problems: DocumentProblem[] = [];
  if (kind !== 'email' && content.preview.length > 0)
    problems.push({ block: null, message: 'A page has no preview line' });
  if (kind === 'shared' && content.subject.length > 0)
    problems.push({ block: null, message: 'Shared content has no title' });
  for (const { node, region, within } of walkContent(content)) {
    if (node.kind !== 'slot' && !within && (node.kind === 'line') !== (region !== 'body'))
      problems.push({ block: node.id, message: `A ${node.kind} cannot stand in the ${region}` });
    if (node.kind === 'slot') continue;
    const { pageOnly, unsavable: problemsOf } = kindOf(node);
    if (kind === 'email' && pageOnly !== undefined)
      problems.push({ block: node.id, message: `${pageOnly} needs a page; mail can’t show it` });
    for (const message of problemsOf?.(node) ?? []) problems.push({ block: node.id, message });
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
  const problemsIn = (condition: Condition) => validate(condition, surroundings);
  const around = { ...surroundings, problemsIn };
  for (const { node } of walkContent(content)) {
    if (node.kind === 'slot') {
      for (const { audience } of node.variants)
        if (!surroundings.hasAudience(audience))
          problems.push({ block: node.id, message: `“${node.name}” has a variant for a deleted audience` });
    } else
      for (const message of kindOf(node).unreleasable?.(node, around) ?? [])
        problems.push({ block: node.id, message });
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

/** The site paths that a document links to, without query and fragment, each with the block of the link. */
export function placesLinkedTo(content: Content): { block: string; place: string }[] {
  const found: { block: string; place: string }[] = [];
  for (const { node, within } of walkContent(content)) {
    if (within) continue;
    for (const address of addressesOf(node))
      if (address.startsWith('/site/'))
        found.push({ block: node.id, place: address.slice('/site/'.length).replace(/[?#].*$/s, '') });
  }
  return found;
}

function addressesOf(node: Node): string[] {
  if (node.kind === 'slot') return [];
  return [...(kindOf(node).addresses?.(node) ?? []), ...linksOf(textOf(node))];
}

function* linksOf(blocks: readonly (TextBlock | Inline)[]): Generator<string> {
  for (const inline of inlinesOf(blocks))
    if (inline.type === 'text')
      for (const mark of inline.marks ?? []) if (mark.type === 'link') yield mark.attrs.href;
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
