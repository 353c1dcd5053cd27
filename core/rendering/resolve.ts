import type { Catalogue } from '../attributes/catalogue.ts';
import { escapeHtml } from './escape.ts';
import { branchOf, type Given, isSignedIn, isVoid, type Markup, mergeText } from './markup.ts';

/** One viewer's rendering as a tree: what the canvas shows, slots and merge fields still marked. */
export type Resolved =
  | string
  | { tag: string; attributes: { [name: string]: string }; children: Resolved[]; block: string | undefined }
  | { slot: string; choice: number; children: Resolved[] }
  | { attribute: string; missing: boolean; words: string };

export function resolve(markup: readonly Markup[], given: Given, catalogue: Catalogue): Resolved[] {
  return markup.flatMap((node): Resolved[] => {
    if (typeof node === 'string') return [node];
    if ('tag' in node) {
      const attributes = Object.fromEntries(
        Object.entries(node.attributes).map(([name, value]) => [
          name,
          typeof value === 'string' ? value : (given.links[value.link] ?? '#'),
        ]),
      );
      return [
        {
          tag: node.tag,
          attributes,
          children: resolve(node.children, given, catalogue),
          block: node.block,
        },
      ];
    }
    if ('branches' in node) {
      const choice = given.choices[node.index] ?? -1;
      const children = resolve(branchOf(node.branches, choice) ?? [], given, catalogue);
      return [{ slot: node.slot, choice, children }];
    }
    if ('merge' in node) {
      const place = catalogue.indexOf(node.attribute);
      const missing = place === undefined || given.facts.values[place] === undefined;
      return [{ attribute: node.attribute, missing, words: mergeText(node, given.facts, catalogue) }];
    }
    if ('address' in node) return [given.links[node.address] ?? '#'];
    return resolve(isSignedIn(given.facts, catalogue) ? node.signedIn : node.signedOut, given, catalogue);
  });
}

/** A resolved tree as HTML; the same bytes as the flattened document gives for the same viewer. */
export function toHtml(nodes: readonly Resolved[]): string {
  return nodes
    .map((node): string => {
      if (typeof node === 'string') return escapeHtml(node);
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
