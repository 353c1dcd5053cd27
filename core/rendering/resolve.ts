import type { Catalogue } from '../attributes/catalogue.ts';
import { escapeHtml } from './escape.ts';
import { addressText } from './flatten.ts';
import {
  branchOf,
  countdownText,
  type Element,
  type Given,
  hasValue,
  isSignedIn,
  isVoid,
  type Markup,
  mergeText,
  varyingText,
} from './markup.ts';

/** One viewer's rendering as a tree: what the canvas shows, slots and merge fields still marked. */
export type Resolved =
  | string
  | { tag: string; attributes: { [name: string]: string }; children: Resolved[]; block: string | undefined }
  | { slot: string; choice: number; children: Resolved[] }
  | { attribute: string; missing: boolean; words: string }
  | { html: string };

export function resolve(markup: readonly Markup[], given: Given, catalogue: Catalogue): Resolved[] {
  return markup.flatMap((node): Resolved[] => {
    if (typeof node === 'string') return [node];
    return 'tag' in node ? [resolveElement(node, given, catalogue)] : resolvePoint(node, given, catalogue);
  });
}

function resolveElement(node: Element, given: Given, catalogue: Catalogue): Resolved {
  const attributes = Object.fromEntries(
    Object.entries(node.attributes).map(([name, value]) => [
      name,
      typeof value === 'string' ? value : varyingText(value, given, catalogue),
    ]),
  );
  return {
    tag: node.tag,
    attributes,
    children: resolve(node.children, given, catalogue),
    block: node.block,
  };
}

function resolvePoint(
  node: Exclude<Markup, string | Element>,
  given: Given,
  catalogue: Catalogue,
): Resolved[] {
  const inner = (markup: readonly Markup[]) => resolve(markup, given, catalogue);
  if ('branches' in node) {
    const choice = given.choices[node.index] ?? -1;
    return [{ slot: node.slot, choice, children: inner(branchOf(node.branches, choice) ?? []) }];
  }
  if ('merge' in node) {
    const missing = !hasValue(node.attribute, given.facts, catalogue);
    return [{ attribute: node.attribute, missing, words: mergeText(node, given.facts, catalogue) }];
  }
  if ('address' in node) return [addressText(node.address, given)];
  if ('raw' in node) return [{ html: node.raw }];
  if ('until' in node) return [countdownText(node, given.instant)];
  if ('remarks' in node) return inner(node.remarks[given.remark ?? -1] ?? node.otherwise);
  if ('audiences' in node) return inner(node.shown[node.audiences.findIndex(given.isIn)] ?? node.otherwise);
  if ('mayOpen' in node) return given.mayOpen(node.mayOpen) ? inner(node.shown) : [];
  if ('has' in node) return hasValue(node.has, given.facts, catalogue) ? inner(node.shown) : [];
  if ('list' in node) {
    const entries = given.entries(node.list);
    if (entries.length === 0) return inner(node.empty);
    return entries.flatMap(({ id, locked, remark }) => {
      const entry = node.entries.get(id);
      return entry ? resolve(locked ? entry.locked : entry.open, { ...given, remark }, catalogue) : [];
    });
  }
  return inner(isSignedIn(given.facts, catalogue) ? node.signedIn : node.signedOut);
}

/** A resolved tree as HTML; the same bytes as the flattened document gives for the same viewer. */
export function toHtml(nodes: readonly Resolved[]): string {
  return nodes
    .map((node): string => {
      if (typeof node === 'string') return escapeHtml(node);
      if ('html' in node) return node.html;
      if ('tag' in node) {
        const attributes = Object.entries(node.attributes).map(
          ([name, value]) => ` ${name}="${escapeHtml(value)}"`,
        );
        const start = `<${node.tag}${attributes.join('')}>`;
        return isVoid(node.tag) ? start : `${start}${toHtml(node.children)}</${node.tag}>`;
      }
      return 'slot' in node ? toHtml(node.children) : escapeHtml(node.words);
    })
    .join('');
}
