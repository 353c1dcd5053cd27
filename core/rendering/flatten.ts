import type { Catalogue } from '../attributes/catalogue.ts';
import { escapeHtml } from './escape.ts';
import {
  type AddressPoint,
  branchOf,
  countdownText,
  type Element,
  hasValue,
  isSignedIn,
  isVoid,
  type ListPoint,
  type Markup,
  mergeText,
  type Point,
  type RenderContext,
  recognisedAddress,
  type Varying,
  varyingText,
  withInner,
} from './markup.ts';

/** Ready strings, and between them what depends on the viewer. */
type Part = string | Point<PartList> | { kind: 'varying'; varying: Varying };
interface PartList extends Array<Part> {}

/**
 * A document compiled for serving: `html` escapes what stands in text and attributes, `text` leaves words as they
 * are (subjects, plain-text mail).
 */
export class Flat {
  private readonly parts: readonly Part[];
  private readonly escape: (text: string) => string;

  constructor(
    markup: readonly Markup[],
    private readonly catalogue: Catalogue,
    private readonly form: 'html' | 'text',
  ) {
    this.escape = form === 'html' ? escapeHtml : (text) => text;
    this.parts = this.flatten(markup);
  }

  /** The string one viewer gets. */
  join(context: RenderContext): string {
    return this.joinParts(this.parts, context);
  }

  private joinParts(parts: readonly Part[], context: RenderContext): string {
    let joined = '';
    for (const part of parts) joined += typeof part === 'string' ? part : this.joinPart(part, context);
    return joined;
  }

  private joinPart(part: Exclude<Part, string>, context: RenderContext): string {
    const { catalogue } = this;
    switch (part.kind) {
      case 'choice':
        return this.joinParts(branchOf(part.branches, context.choices[part.index] ?? -1) ?? [], context);
      case 'merge':
        return this.escape(mergeText(part, context.facts, catalogue));
      case 'varying':
        return this.escape(varyingText(part.varying, context, catalogue));
      case 'address':
        return this.escape(addressText(part.address, context));
      case 'countdown':
        return this.escape(countdownText(part, context.instant));
      case 'raw':
        return this.form === 'html' ? part.raw : '';
      case 'list':
        return this.joinList(part, context);
      case 'remark':
        return this.joinParts(part.remarks[context.remark ?? -1] ?? part.otherwise, context);
      case 'audience':
        return this.joinParts(part.shown[part.audiences.findIndex(context.isIn)] ?? part.otherwise, context);
      case 'open':
        return context.mayOpen(part.mayOpen) ? this.joinParts(part.shown, context) : '';
      case 'value':
        return hasValue(part.has, context.facts, catalogue) ? this.joinParts(part.shown, context) : '';
      case 'sign-in':
        return this.joinParts(isSignedIn(context.facts, catalogue) ? part.signedIn : part.signedOut, context);
    }
  }

  private joinList({ list, entries, empty }: ListPoint<PartList>, context: RenderContext): string {
    const shown = context.entries(list);
    if (shown.length === 0) return this.joinParts(empty, context);
    let joined = '';
    for (const { id, locked, remark } of shown) {
      const entry = entries.get(id);
      if (entry) joined += this.joinParts(locked ? entry.locked : entry.open, { ...context, remark });
    }
    return joined;
  }

  private flatten(markup: readonly Markup[]): Part[] {
    const parts: Part[] = [];
    const push = (part: Part): void => {
      const last = parts.length - 1;
      const before = parts[last];
      if (typeof part === 'string' && typeof before === 'string') parts[last] = before + part;
      else if (part !== '') parts.push(part);
    };
    const walk = (node: Markup): void => {
      if (typeof node === 'string') push(this.escape(node));
      else if (node.kind === 'element') {
        for (const part of this.startTag(node)) push(part);
        for (const child of node.children) walk(child);
        if (!isVoid(node.tag)) push(`</${node.tag}>`);
      } else if (node.kind === 'raw') push(this.form === 'html' ? node.raw : '');
      else push(withInner(node, (inner) => this.flatten(inner)));
    };
    for (const node of markup) walk(node);
    return parts;
  }

  private *startTag(node: Element): Generator<Part> {
    yield `<${node.tag}`;
    for (const [name, value] of Object.entries(node.attributes)) {
      if (typeof value === 'string') yield ` ${name}="${this.escape(value)}"`;
      else {
        yield ` ${name}="`;
        yield { kind: 'varying', varying: value };
        yield '"';
      }
    }
    yield '>';
  }
}

export function addressText(address: AddressPoint['address'], context: RenderContext): string {
  return typeof address === 'string'
    ? (context.links[address] ?? '#')
    : recognisedAddress(address.known, context.known);
}
