import type { Catalogue } from '../attributes/catalogue.ts';
import { escapeHtml } from './escape.ts';
import { addressText } from './flatten.ts';
import {
  branchOf,
  countdownText,
  type Element,
  hasValue,
  isSignedIn,
  isVoid,
  type Markup,
  type MarkupList,
  mergeText,
  type Point,
  type RenderContext,
  varyingText,
} from './markup.ts';

/** One viewer's rendering as a tree: what the canvas shows, slots and merge fields still marked. */
export type Resolved =
  | string
  | { tag: string; attributes: { [name: string]: string }; children: Resolved[]; block: string | undefined }
  | { slot: string; choice: number; children: Resolved[] }
  | { attribute: string; missing: boolean; words: string }
  | { html: string };

export function resolve(markup: readonly Markup[], context: RenderContext, catalogue: Catalogue): Resolved[] {
  return markup.flatMap((node): Resolved[] => {
    if (typeof node === 'string') return [node];
    return node.kind === 'element'
      ? [resolveElement(node, context, catalogue)]
      : resolvePoint(node, context, catalogue);
  });
}

function resolveElement(node: Element, context: RenderContext, catalogue: Catalogue): Resolved {
  const attributes = Object.fromEntries(
    Object.entries(node.attributes).map(([name, value]) => [
      name,
      typeof value === 'string' ? value : varyingText(value, context, catalogue),
    ]),
  );
  return {
    tag: node.tag,
    attributes,
    children: resolve(node.children, context, catalogue),
    block: node.block,
  };
}

function resolvePoint(point: Point<MarkupList>, context: RenderContext, catalogue: Catalogue): Resolved[] {
  const inner = (markup: readonly Markup[]) => resolve(markup, context, catalogue);
  switch (point.kind) {
    case 'choice': {
      const choice = context.choices[point.index] ?? -1;
      return [{ slot: point.slot, choice, children: inner(branchOf(point.branches, choice) ?? []) }];
    }
    case 'merge': {
      const missing = !hasValue(point.attribute, context.facts, catalogue);
      return [{ attribute: point.attribute, missing, words: mergeText(point, context.facts, catalogue) }];
    }
    case 'address':
      return [addressText(point.address, context)];
    case 'raw':
      return [{ html: point.raw }];
    case 'countdown':
      return [countdownText(point, context.instant)];
    case 'remark':
      return inner(point.remarks[context.remark ?? -1] ?? point.otherwise);
    case 'audience':
      return inner(point.shown[point.audiences.findIndex(context.isIn)] ?? point.otherwise);
    case 'open':
      return context.mayOpen(point.mayOpen) ? inner(point.shown) : [];
    case 'filled':
      return toHtml(inner(point.inner)) === '' ? [] : inner(point.shown);
    case 'value':
      return hasValue(point.has, context.facts, catalogue) ? inner(point.shown) : [];
    case 'list': {
      const entries = context.entries(point.list);
      if (entries.length === 0) return inner(point.empty);
      return entries.flatMap(({ id, locked, remark }) => {
        const entry = point.entries.get(id);
        return entry ? resolve(locked ? entry.locked : entry.open, { ...context, remark }, catalogue) : [];
      });
    }
    case 'sign-in':
      return inner(isSignedIn(context.facts, catalogue) ? point.signedIn : point.signedOut);
  }
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
