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
    return this.pieces(context).join('');
  }

  /** The pieces of the string one viewer gets. A piece that does not depend on the viewer is the same string each time. */
  pieces(context: RenderContext): string[] {
    const pieces: string[] = [];
    this.addParts(this.parts, context, pieces);
    return pieces;
  }

  private addParts(parts: readonly Part[], context: RenderContext, to: string[]): void {
    for (const part of parts)
      if (typeof part === 'string') to.push(part);
      else this.addPart(part, context, to);
  }

  private addPart(part: Exclude<Part, string>, context: RenderContext, to: string[]): void {
    const { catalogue } = this;
    switch (part.kind) {
      case 'choice':
        this.addParts(branchOf(part.branches, context.choices[part.index] ?? -1) ?? [], context, to);
        return;
      case 'merge':
        to.push(this.escape(mergeText(part, context.facts, catalogue)));
        return;
      case 'varying':
        to.push(this.escape(varyingText(part.varying, context, catalogue)));
        return;
      case 'address':
        to.push(this.escape(addressText(part.address, context)));
        return;
      case 'countdown':
        to.push(this.escape(countdownText(part, context.instant)));
        return;
      case 'raw':
        if (this.form === 'html') to.push(part.raw);
        return;
      case 'list':
        this.addList(part, context, to);
        return;
      case 'remark':
        this.addParts(part.remarks[context.remark ?? -1] ?? part.otherwise, context, to);
        return;
      case 'audience': {
        const shown = part.shown[part.audiences.findIndex(context.isIn)] ?? part.otherwise;
        this.addParts(shown, context, to);
        return;
      }
      case 'open':
        if (context.mayOpen(part.mayOpen)) this.addParts(part.shown, context, to);
        return;
      case 'filled': {
        const inner: string[] = [];
        this.addParts(part.inner, context, inner);
        if (inner.some((piece) => piece !== '')) this.addParts(part.shown, context, to);
        return;
      }
      case 'value':
        if (hasValue(part.has, context.facts, catalogue)) this.addParts(part.shown, context, to);
        return;
      case 'sign-in':
        this.addParts(isSignedIn(context.facts, catalogue) ? part.signedIn : part.signedOut, context, to);
    }
  }

  private addList({ list, entries, empty }: ListPoint<PartList>, context: RenderContext, to: string[]): void {
    const shown = context.entries(list);
    if (shown.length === 0) this.addParts(empty, context, to);
    for (const { id, locked, remark } of shown) {
      const entry = entries.get(id);
      if (entry) this.addParts(locked ? entry.locked : entry.open, { ...context, remark }, to);
    }
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
