import type { Catalogue } from '../attributes/catalogue.ts';
import { escapeHtml } from './escape.ts';
import {
  branchOf,
  type Element,
  type Given,
  isSignedIn,
  isVoid,
  type Markup,
  type MergePoint,
  mergeText,
  type PersonalLink,
} from './markup.ts';

/** Ready strings, and between them what depends on the viewer. */
export type Part =
  | string
  | { index: number; branches: Part[][] }
  | { merge: MergePoint }
  | { link: PersonalLink }
  | { signedIn: Part[]; signedOut: Part[] };

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
    form: 'html' | 'text',
  ) {
    this.escape = form === 'html' ? escapeHtml : (text) => text;
    this.parts = this.flatten(markup);
  }

  /** The string one viewer gets. */
  join(given: Given): string {
    return this.joinParts(this.parts, given);
  }

  private joinParts(parts: readonly Part[], given: Given): string {
    let joined = '';
    for (const part of parts) {
      if (typeof part === 'string') joined += part;
      else if ('branches' in part)
        joined += this.joinParts(branchOf(part.branches, given.choices[part.index] ?? -1) ?? [], given);
      else if ('merge' in part) joined += this.escape(mergeText(part.merge, given.facts, this.catalogue));
      else if ('link' in part) joined += this.escape(given.links[part.link] ?? '#');
      else
        joined += this.joinParts(
          isSignedIn(given.facts, this.catalogue) ? part.signedIn : part.signedOut,
          given,
        );
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
      else if ('tag' in node) {
        for (const part of this.startTag(node)) push(part);
        for (const child of node.children) walk(child);
        if (!isVoid(node.tag)) push(`</${node.tag}>`);
      } else if ('branches' in node)
        push({ index: node.index, branches: node.branches.map((branch) => this.flatten(branch)) });
      else if ('merge' in node) push({ merge: node });
      else if ('address' in node) push({ link: node.address });
      else push({ signedIn: this.flatten(node.signedIn), signedOut: this.flatten(node.signedOut) });
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
        yield value;
        yield '"';
      }
    }
    yield '>';
  }
}
