import type { Catalogue } from '../attributes/catalogue.ts';
import { validate } from '../conditions/validate.ts';
import { safeAddress } from './address.ts';
import {
  type Content,
  type DocumentKind,
  type Node,
  type NodeKind,
  textOf,
  walkContent,
} from './document.ts';
import { cut, type Inline, inlinesOf, mergeFieldsOf, type TextBlock } from './text.ts';
import { mergedAttributes } from './uses.ts';

/** What is wrong with a document, and at which block; shown beside the block, and by the server when it refuses. */
export interface DocumentProblem {
  block: string | null;
  message: string;
}

export interface DocumentSurroundings {
  readonly catalogue: Catalogue;
  readonly hasAudience: (id: string) => boolean;
  readonly hasPicture: (name: string) => boolean;
  readonly hasCollection: (id: string) => boolean;
  readonly hasPiece: (id: string) => boolean;
}

/** A picture in HTML that is asked for at another server, which pages of the site are not allowed to do. */
const outsidePicture = /<(?:img|source)\b[^>]*?\bsrc(?:set)?\s*=\s*["']?\s*((?:https?:)?\/\/[^\s"'>]*)/i;

/** Blocks that need a page: mail has no forms, no scripts, no visit. */
const pageOnlyWords: { readonly [kind in NodeKind]?: string } = {
  video: 'A video',
  list: 'A list of items',
  field: 'A field of an item',
  form: 'A form',
  account: 'A sign-in box',
  notice: 'An access notice',
  countdown: 'A countdown',
  html: 'HTML from elsewhere',
};

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
    if (kind === 'email' && pageOnlyWords[node.kind] !== undefined)
      problems.push({
        block: node.id,
        message: `${pageOnlyWords[node.kind] ?? node.kind} needs a page; mail can’t show it`,
      });
    const outside = node.kind === 'html' ? outsidePicture.exec(node.html)?.[1] : undefined;
    if (outside !== undefined)
      problems.push({
        block: node.id,
        message: `The picture at ${cut(outside, 60)} is on another server and would not be shown. Bring it in as a file, or leave it out`,
      });
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
    if (node.kind === 'picture' && !node.file && !surroundings.hasPicture(node.picture))
      problems.push({ block: node.id, message: `There is no picture “${node.picture}”` });
    if ((node.kind === 'button' || node.kind === 'link') && node.address === '')
      problems.push({ block: node.id, message: `A ${node.kind} has no address` });
    if (node.kind === 'video' && !node.file)
      problems.push({ block: node.id, message: 'A video has no file yet' });
    if (node.kind === 'list' && !surroundings.hasCollection(node.collection))
      problems.push({ block: node.id, message: 'A list has no collection, or one that is gone' });
    if (
      node.kind === 'list' &&
      node.remarks?.variants.some(({ audience }) => !surroundings.hasAudience(audience))
    )
      problems.push({ block: node.id, message: 'The entries of a list say something to a deleted audience' });
    const named =
      node.kind === 'list' && node.remarks ? [...node.remarks.variants, node.remarks.otherwise] : [];
    for (const { field } of named)
      if (field !== null && !surroundings.catalogue.get(field))
        problems.push({
          block: node.id,
          message: `The entries of a list name a field that is gone: “${field}”`,
        });
    if (node.kind === 'shared' && !surroundings.hasPiece(node.document))
      problems.push({ block: node.id, message: 'A piece of shared content is not chosen, or gone' });
    if (node.kind === 'form' && node.fields.length === 0)
      problems.push({ block: node.id, message: 'A form has no field' });
    const asked = node.kind === 'form' ? node.fields.map(({ attribute }) => attribute) : [];
    for (const attribute of asked)
      if (surroundings.catalogue.get(attribute)?.source !== 'contact')
        problems.push({ block: node.id, message: `A form fills an attribute that is gone: “${attribute}”` });
    for (const condition of node.kind === 'list' && node.where ? [node.where] : [])
      for (const { message } of validate(condition, surroundings))
        problems.push({ block: node.id, message: `A list ${message}` });
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

/** Places on the site that links of a document lead to, each with the block it stands in, without query and fragment. */
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
  if (node.kind === 'button' || node.kind === 'link') return [node.address];
  if (node.kind === 'notice') return node.address === '' ? [] : [node.address];
  return [...linksOf(textOf(node))];
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
