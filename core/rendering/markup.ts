import type { Attribute } from '../attributes/attribute.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { type Facts, valueOfFact } from '../attributes/viewer.ts';
import { metValue } from '../conditions/explain.ts';
import type { Choices } from '../deciding/decide.ts';
import type { ListBlock } from '../documents/blocks/items.ts';
import type { MergeLook } from '../documents/text.ts';
import { sayValue } from './say-value.ts';

/** Addresses that differ from one viewer to the next. */
export type PersonalLink = 'unsubscribe' | 'account';

/** Part of an attribute that differs: a personal link, an address that a reader of mail is recognised by, a file. */
export type Varying = { link: PersonalLink } | { known: string } | { file: string };

export interface Element {
  kind: 'element';
  tag: string;
  attributes: { [name: string]: string | Varying };
  children: Markup[];
  /** The id of the block that this element stands for. */
  block?: string;
}

/** Where a slot stands: a branch a variant in order, everyone else last. */
export interface ChoicePoint<Inner> {
  kind: 'choice';
  slot: string;
  index: number;
  branches: Inner[];
}

/** A personal value, or the words that stand in for it. */
export interface MergePoint {
  kind: 'merge';
  merge: Attribute | undefined;
  attribute: string;
  fallback: string;
  look?: MergeLook | null | undefined;
  /** The language that values are written in. */
  locale?: string;
}

/** A personal address printed as text. */
export interface AddressPoint {
  kind: 'address';
  address: PersonalLink | { known: string };
}

/** Differs by whether the viewer is signed in, outside any slot: the account box in a site's header. */
export interface SignInPoint<Inner> {
  kind: 'sign-in';
  signedIn: Inner;
  signedOut: Inner;
}

/** Entries of a collection: which of them, and whether open or locked, depends on the viewer. */
export interface ListPoint<Inner> {
  kind: 'list';
  list: ListBlock;
  entries: ReadonlyMap<string, { open: Inner; locked: Inner }>;
  empty: Inner;
}

/** What an entry of a list says besides, by which audience its viewer is in. */
export interface RemarkPoint<Inner> {
  kind: 'remark';
  remarks: Inner[];
  otherwise: Inner;
}

/** There for who may open what an address leads to: an entry of a menu or a list of links. */
export interface OpenPoint<Inner> {
  kind: 'open';
  mayOpen: string;
  shown: Inner;
}

/** There where what stands inside it is not empty: an entry of the menu that only holds others. */
export interface FilledPoint<Inner> {
  kind: 'filled';
  inner: Inner;
  shown: Inner;
}

/** Outside any slot, what is for the first audience that the viewer is in: an entry of the site's menu. */
export interface AudiencePoint<Inner> {
  kind: 'audience';
  audiences: string[];
  shown: Inner[];
  otherwise: Inner;
}

/** There where the viewer, or the item shown, has a value. */
export interface ValuePoint<Inner> {
  kind: 'value';
  has: string;
  shown: Inner;
}

/** How long it is until a moment, in milliseconds since 1970 UTC. */
export interface CountdownPoint {
  kind: 'countdown';
  until: number;
  over: string;
}

/** HTML that was sanitised before. */
export interface RawPoint {
  kind: 'raw';
  raw: string;
}

/**
 * Something that depends on the viewer or the moment.
 *
 * @typeParam Inner a list of what may stand inside it: of markup, or of parts of a compiled document
 */
export type Point<Inner> =
  | ChoicePoint<Inner>
  | MergePoint
  | AddressPoint
  | SignInPoint<Inner>
  | ListPoint<Inner>
  | RemarkPoint<Inner>
  | OpenPoint<Inner>
  | FilledPoint<Inner>
  | AudiencePoint<Inner>
  | ValuePoint<Inner>
  | CountdownPoint
  | RawPoint;

/**
 * What a document renders to before it is decided. The live site, emails and the canvas all come from this one
 * tree: flattened to strings (flatten.ts) or resolved for one viewer (resolve.ts).
 */
export type Markup = string | Element | Point<MarkupList>;
export interface MarkupList extends Array<Markup> {}

/** What one rendering depends on: the viewer, the moment, and what may be opened. */
export interface RenderContext {
  readonly facts: Facts;
  readonly choices: Choices;
  readonly links: { readonly [Link in PersonalLink]?: string };
  /** Milliseconds since 1970 UTC. */
  readonly instant: number;
  /** What a reader of mail is recognised by on the site; none where not given. */
  readonly known?: string;
  /** Whether the viewer may open a place on the site, by its address. */
  readonly mayOpen: (address: string) => boolean;
  /** Whether the viewer is in an audience. */
  readonly isIn: (audience: string) => boolean;
  readonly entries: (list: ListBlock) => readonly ShownEntry[];
  /** Inside an entry of a list: which remark it says. */
  readonly remark?: number;
}

export interface ShownEntry {
  readonly id: string;
  readonly locked: boolean;
  readonly remark: number;
}

/** The context of a rendering that has neither lists nor restricted entries of menus. */
export const emptyContext: Pick<RenderContext, 'mayOpen' | 'isIn' | 'entries' | 'links'> = {
  links: {},
  mayOpen: () => true,
  isIn: () => false,
  entries: () => [],
};

export function element(
  tag: string,
  attributes: Element['attributes'],
  children: Markup[],
  block?: string,
): Element {
  const node: Element = { kind: 'element', tag, attributes, children };
  return block === undefined ? node : { ...node, block };
}

/** A point with what stands inside it put into another form. */
export function withInner<Inner, Other>(point: Point<Inner>, other: (inner: Inner) => Other): Point<Other> {
  switch (point.kind) {
    case 'merge':
    case 'address':
    case 'countdown':
    case 'raw':
      return point;
    case 'choice':
      return { ...point, branches: point.branches.map((branch) => other(branch)) };
    case 'sign-in':
      return { ...point, signedIn: other(point.signedIn), signedOut: other(point.signedOut) };
    case 'list': {
      const entries = new Map(
        [...point.entries].map(([id, { open, locked }]) => [
          id,
          { open: other(open), locked: other(locked) },
        ]),
      );
      return { ...point, entries, empty: other(point.empty) };
    }
    case 'remark':
      return {
        ...point,
        remarks: point.remarks.map((remark) => other(remark)),
        otherwise: other(point.otherwise),
      };
    case 'open':
    case 'value':
      return { ...point, shown: other(point.shown) };
    case 'filled':
      return { ...point, inner: other(point.inner), shown: other(point.shown) };
    case 'audience':
      return { ...point, shown: point.shown.map((shown) => other(shown)), otherwise: other(point.otherwise) };
  }
}

/** The branch of a choice point for a choice; everyone else is the last branch. */
export function branchOf<Branch>(branches: readonly Branch[], choice: number): Branch | undefined {
  return choice < 0 ? branches.at(-1) : branches[choice];
}

export function isSignedIn(facts: Facts, catalogue: Catalogue): boolean {
  const place = catalogue.indexOf('signed-in');
  return place !== undefined && facts.at(place) === true;
}

export function hasValue(attribute: string, facts: Facts, catalogue: Catalogue): boolean {
  const place = catalogue.indexOf(attribute);
  return place !== undefined && facts.at(place) !== undefined;
}

/** The words of a merge field for a viewer: the value, or the fallback where there is none. */
export function mergeText(point: MergePoint, facts: Facts, catalogue: Catalogue): string {
  const { merge, attribute, fallback, look, locale } = point;
  if (!merge) return fallback;
  const fact = facts.at(catalogue.indexOf(attribute) ?? -1);
  return fact === undefined
    ? fallback
    : sayValue(merge, valueOfFact(merge, fact), look ?? undefined, locale ?? 'en-GB', catalogue.zone);
}

/** A part of an attribute that differs, for one viewer. */
export function varyingText(varying: Varying, context: RenderContext, catalogue: Catalogue): string {
  if ('link' in varying) return context.links[varying.link] ?? '#';
  if ('known' in varying) return recognisedAddress(varying.known, context.known);
  return `/site/files/${encodeURIComponent(metValue(varying.file, context.facts, catalogue) ?? '')}`;
}

/** An address on the site that says who comes: the token stands in its query (`k`), before any fragment. */
export function recognisedAddress(address: string, token: string | undefined): string {
  if (token === undefined) return address;
  const [path = '', fragment] = address.split('#', 2);
  const known = `${path}${path.includes('?') ? '&' : '?'}k=${encodeURIComponent(token)}`;
  return fragment === undefined ? known : `${known}#${fragment}`;
}

/** How long it is until a moment: "12 days and 3 hours", "4 hours and 20 minutes", or what is said when it is over. */
export function countdownText({ until, over }: CountdownPoint, instant: number): string {
  const minutes = Math.ceil((until - instant) / 60_000);
  if (minutes <= 0) return over;
  const [days, hours] = [Math.floor(minutes / 1440), Math.floor(minutes / 60) % 24];
  const said = (count: number, unit: string) => `${count} ${unit}${count === 1 ? '' : 's'}`;
  const parts: [number, string][] =
    days > 0
      ? [
          [days, 'day'],
          [hours, 'hour'],
        ]
      : [
          [hours, 'hour'],
          [minutes % 60, 'minute'],
        ];
  return parts
    .filter(([count]) => count > 0)
    .map(([count, unit]) => said(count, unit))
    .join(' and ');
}

const voidTags = new Set(['area', 'base', 'br', 'col', 'embed', 'hr', 'img', 'input', 'link', 'meta', 'wbr']);
/** Elements without end tag or content (HTML Living Standard, 13.1.2). */
export function isVoid(tag: string): boolean {
  return voidTags.has(tag);
}
