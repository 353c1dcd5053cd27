import type { Catalogue } from '../attributes/catalogue.ts';
import type { ListBlock } from '../documents/blocks.ts';
import { escapeHtml } from './escape.ts';
import {
  type AddressPoint,
  branchOf,
  type CountdownPoint,
  countdownText,
  type Element,
  type Given,
  hasValue,
  isSignedIn,
  isVoid,
  type Markup,
  type MergePoint,
  mergeText,
  recognisedAddress,
  type Varying,
  varyingText,
} from './markup.ts';

/** Ready strings, and between them what depends on the viewer. */
export type Part =
  | string
  | { index: number; branches: Part[][] }
  | { merge: MergePoint }
  | { varying: Varying }
  | { address: AddressPoint['address'] }
  | { signedIn: Part[]; signedOut: Part[] }
  | { list: ListBlock; entries: ReadonlyMap<string, { open: Part[]; locked: Part[] }>; empty: Part[] }
  | { remarks: Part[][]; otherwise: Part[] }
  | { audiences: string[]; shown: Part[][]; otherwise: Part[] }
  | { mayOpen: string; shown: Part[] }
  | { has: string; shown: Part[] }
  | { countdown: CountdownPoint };

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
  join(given: Given): string {
    return this.joinParts(this.parts, given);
  }

  private joinParts(parts: readonly Part[], given: Given): string {
    let joined = '';
    for (const part of parts) joined += typeof part === 'string' ? part : this.joinPart(part, given);
    return joined;
  }

  private joinPart(part: Exclude<Part, string>, given: Given): string {
    const { catalogue } = this;
    if ('branches' in part)
      return this.joinParts(branchOf(part.branches, given.choices[part.index] ?? -1) ?? [], given);
    if ('merge' in part) return this.escape(mergeText(part.merge, given.facts, catalogue));
    if ('varying' in part) return this.escape(varyingText(part.varying, given, catalogue));
    if ('address' in part) return this.escape(addressText(part.address, given));
    if ('countdown' in part) return this.escape(countdownText(part.countdown, given.instant));
    if ('list' in part) {
      const entries = given.entries(part.list);
      if (entries.length === 0) return this.joinParts(part.empty, given);
      return entries
        .map(({ id, locked, remark }) => {
          const entry = part.entries.get(id);
          return entry ? this.joinParts(locked ? entry.locked : entry.open, { ...given, remark }) : '';
        })
        .join('');
    }
    if ('remarks' in part) return this.joinParts(part.remarks[given.remark ?? -1] ?? part.otherwise, given);
    if ('audiences' in part)
      return this.joinParts(part.shown[part.audiences.findIndex(given.isIn)] ?? part.otherwise, given);
    if ('mayOpen' in part) return given.mayOpen(part.mayOpen) ? this.joinParts(part.shown, given) : '';
    if ('has' in part)
      return hasValue(part.has, given.facts, catalogue) ? this.joinParts(part.shown, given) : '';
    return this.joinParts(isSignedIn(given.facts, catalogue) ? part.signedIn : part.signedOut, given);
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
      } else push(this.point(node));
    };
    for (const node of markup) walk(node);
    return parts;
  }

  private point(node: Exclude<Markup, string | Element>): Part {
    if ('branches' in node)
      return { index: node.index, branches: node.branches.map((branch) => this.flatten(branch)) };
    if ('merge' in node) return { merge: node };
    if ('address' in node) return { address: node.address };
    if ('raw' in node) return this.form === 'html' ? node.raw : '';
    if ('until' in node) return { countdown: node };
    if ('remarks' in node)
      return {
        remarks: node.remarks.map((remark) => this.flatten(remark)),
        otherwise: this.flatten(node.otherwise),
      };
    if ('audiences' in node)
      return {
        audiences: node.audiences,
        shown: node.shown.map((shown) => this.flatten(shown)),
        otherwise: this.flatten(node.otherwise),
      };
    if ('mayOpen' in node) return { mayOpen: node.mayOpen, shown: this.flatten(node.shown) };
    if ('has' in node) return { has: node.has, shown: this.flatten(node.shown) };
    if ('list' in node)
      return {
        list: node.list,
        entries: new Map(
          [...node.entries].map(([id, { open, locked }]) => [
            id,
            { open: this.flatten(open), locked: this.flatten(locked) },
          ]),
        ),
        empty: this.flatten(node.empty),
      };
    return { signedIn: this.flatten(node.signedIn), signedOut: this.flatten(node.signedOut) };
  }

  private *startTag(node: Element): Generator<Part> {
    yield `<${node.tag}`;
    for (const [name, value] of Object.entries(node.attributes)) {
      if (typeof value === 'string') yield ` ${name}="${this.escape(value)}"`;
      else {
        yield ` ${name}="`;
        yield { varying: value };
        yield '"';
      }
    }
    yield '>';
  }
}

export function addressText(address: AddressPoint['address'], given: Given): string {
  return typeof address === 'string'
    ? (given.links[address] ?? '#')
    : recognisedAddress(address.known, given.known);
}
