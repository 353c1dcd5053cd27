import type { Attribute } from '../attributes/attribute.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import type { Facts } from '../attributes/viewer.ts';
import { metValue } from '../conditions/explain.ts';
import type { Choices } from '../deciding/decide.ts';

/** Addresses that differ from one viewer to the next. */
export type PersonalLink = 'unsubscribe' | 'account';

export interface Element {
  tag: string;
  attributes: { [name: string]: string | { link: PersonalLink } };
  children: Markup[];
  /** The id of the block that this element stands for. */
  block?: string;
}

/** Where a slot stands: a branch a variant in order, everyone else last. */
export interface ChoicePoint {
  slot: string;
  index: number;
  branches: Markup[][];
}

export interface MergePoint {
  merge: Attribute | undefined;
  attribute: string;
  fallback: string;
}

/** A personal address printed as text. */
export interface AddressPoint {
  address: PersonalLink;
}

/** Differs by whether the viewer is signed in, outside any slot: the account box in a site's header. */
export interface SignInPoint {
  signedIn: Markup[];
  signedOut: Markup[];
}

/**
 * What a document renders to before it is decided. The live site, emails and the canvas all come from this one
 * tree: flattened to strings (flatten.ts) or resolved for one viewer (resolve.ts).
 */
export type Markup = string | Element | ChoicePoint | MergePoint | AddressPoint | SignInPoint;

/** What one rendering is for. */
export interface Given {
  readonly facts: Facts;
  readonly choices: Choices;
  readonly links: { readonly [Link in PersonalLink]?: string };
}

export function element(
  tag: string,
  attributes: Element['attributes'],
  children: Markup[],
  block?: string,
): Element {
  return block === undefined ? { tag, attributes, children } : { tag, attributes, children, block };
}

/** The branch of a choice point for a choice; everyone else is the last branch. */
export function branchOf<Branch>(branches: readonly Branch[], choice: number): Branch | undefined {
  return choice < 0 ? branches.at(-1) : branches[choice];
}

export function isSignedIn(facts: Facts, catalogue: Catalogue): boolean {
  const place = catalogue.indexOf('signed-in');
  return place !== undefined && facts.values[place] === true;
}

/** The words of a merge field for a viewer: the value, or the fallback where there is none. */
export function mergeText(point: MergePoint, facts: Facts, catalogue: Catalogue): string {
  return (point.merge && metValue(point.attribute, facts, catalogue)) ?? point.fallback;
}

const voidTags = new Set(['area', 'base', 'br', 'col', 'embed', 'hr', 'img', 'input', 'link', 'meta', 'wbr']);
/** Elements without end tag or content (HTML Living Standard, 13.1.2). */
export function isVoid(tag: string): boolean {
  return voidTags.has(tag);
}
