import { stringify } from 'safe-stable-stringify';
import { Catalogue } from '../attributes/catalogue.ts';
import type { Viewer } from '../attributes/viewer.ts';
import { type Audience, audiencesBehind } from '../audiences/audience.ts';
import { soundFacts } from '../audiences/fact-problems.ts';
import type { Condition } from '../conditions/condition.ts';
import { everyoneElse } from '../deciding/decide.ts';
import { Membership } from '../deciding/membership.ts';
import type { Snapshot } from '../deciding/release.ts';
import {
  type Content,
  channelOf,
  type Document,
  listsOf,
  type Node,
  regionNames,
  type Slot,
  slotsOf,
} from '../documents/document.ts';
import { audiencesOf } from '../documents/uses.ts';
import { type DocumentPart, documentParts } from './document-parts.ts';
import { TooManyValues } from './domains/domain.ts';
import { facesOf } from './faces.ts';
import { Numbers, seenOf } from './seen.ts';
import { World } from './world.ts';

/**
 * One document before and after: its slots side by side as one, so that its faces are pairs of faces. Who may open a
 * page is its outermost slot where not everybody may.
 */
export interface Pairing {
  readonly before: Document | undefined;
  readonly after: Document | undefined;
  /** The slots of both, under names of their own, over {@link audiences}. */
  readonly content: Content;
  /** The audiences of both, under names of their own. */
  readonly audiences: readonly Audience[];
  /** The parts that are not the same; of a document that comes or goes, and where only audiences differ, the content. */
  readonly parts: readonly DocumentPart[];
  /** The choices of both from those of {@link content}; undefined where there is no document. */
  split(choices: readonly number[]): { before: number[] | undefined; after: number[] | undefined };
  /** Whether a viewer with these choices sees something else after than before. */
  isChange(choices: readonly number[]): boolean;
  /** Whether they may open it after but not before, or before but not after; undefined where neither. */
  opening(choices: readonly number[]): 'gained' | 'lost' | undefined;
}

/** The slot that stands for who may open a page. */
const gateName = 'Who may open it';
const gateId = 'who-may-open-it';

/** A face that becomes another: what some viewers get before and after. */
export interface Transition {
  readonly before: readonly number[] | undefined;
  readonly after: readonly number[] | undefined;
  /** A viewer for whom it changes, invented. */
  readonly witness: Viewer;
}

export interface Difference {
  /** For every viewer that there can be; empty where nobody sees anything else. */
  readonly transitions: readonly Transition[];
  /** False where there are more than were listed. */
  readonly complete: boolean;
  /** Why they can't be listed; undefined when they can. */
  readonly refused: string | undefined;
}

/**
 * Puts a document of two snapshots side by side.
 *
 * @param changed the audiences that may have other people in one than in the other; those of both are one otherwise
 */
export function pair(
  before: Snapshot | undefined,
  after: Snapshot,
  documentId: string,
  changed?: ReadonlySet<string>,
): Pairing {
  return pairOf(
    before?.documents.find(({ id }) => id === documentId),
    after.documents.find(({ id }) => id === documentId),
    before,
    after,
    changed,
  );
}

/** A document with what those get who may not open it, where that is more than where they are sent. */
export interface Closable extends Document {
  readonly closed?: Node[];
}

/** Puts two documents side by side, each with the audiences and settings of its own snapshot. */
export function pairOf(
  was: Closable | undefined,
  is: Closable | undefined,
  before: Snapshot | undefined,
  after: Snapshot,
  changed?: ReadonlySet<string>,
): Pairing {
  const [old, next] = [gated(was), gated(is)];
  const naming = (side: Side) => (audience: string) =>
    changed && !changed.has(audience) ? `both ${audience}` : `${side} ${audience}`;
  const content: Content = {
    subject: [],
    preview: [],
    body: [...slotsAs('before', old, naming('before')), ...slotsAs('after', next, naming('after'))],
  };
  const count = old ? slotsOf(old.content).length : 0;
  const numbers = new Numbers();
  const [seenBefore, seenAfter] = [seenIn(old, before, numbers), seenIn(next, after, numbers)];
  const split = (choices: readonly number[]) => ({
    before: old && choices.slice(0, count),
    after: next && choices.slice(count),
  });
  const audiences = new Map(
    [...audiencesAs(old, before, naming('before')), ...audiencesAs(next, after, naming('after'))].map(
      (audience) => [audience.id, audience],
    ),
  );
  return {
    before: old,
    after: next,
    content,
    parts: partsThatDiffer(was, is, before, after),
    audiences: [...audiences.values()],
    split,
    isChange(choices) {
      const { before: left, after: right } = split(choices);
      return !isEqual(seenBefore(left), seenAfter(right));
    },
    opening(choices) {
      const { before: left, after: right } = split(choices);
      const [could, can] = [mayOpen(old, left), mayOpen(next, right)];
      return !old || !next || could === can ? undefined : can ? 'gained' : 'lost';
    },
  };
}

function isEqual(one: readonly number[], other: readonly number[]): boolean {
  return one.length === other.length && one.every((number, index) => number === other[index]);
}

function partsThatDiffer(
  was: Document | undefined,
  is: Document | undefined,
  before: Snapshot | undefined,
  after: Snapshot,
): DocumentPart[] {
  if (!was || !is || !before) return ['content'];
  const said = {
    content: (one: Document) => one.content,
    title: (one: Document) => titleOf(one),
    address: (one: Document) => (one.kind === 'page' ? one.slug : ''),
    access: (one: Document) => one.access ?? null,
  };
  const parts: DocumentPart[] = documentParts.filter((part) =>
    part === 'site'
      ? siteAround(was, before) !== siteAround(is, after)
      : stringify(said[part](was)) !== stringify(said[part](is)),
  );
  return parts.length > 0 ? parts : ['content'];
}

/** The name of a page that has no title. The name of an email is internal and changes nothing for its readers. */
function titleOf({ kind, name, slug, content }: Document): string {
  return kind === 'page' && slug !== '' && content.subject.length === 0 ? name : '';
}

/** The parts of a page or email that come from the settings, without the menu, which is compared separately. */
export function siteAround({ kind }: Document, { settings }: Snapshot): string {
  const { name, postalAddress, locale, zone } = settings;
  return stringify([
    name,
    postalAddress,
    locale,
    zone,
    kind === 'email' ? settings.fromAddress : (settings.theme ?? null),
  ]);
}

/** A page with who may open it as a slot around all of it; anything else as it is. */
function gated(document: Closable | undefined): Document | undefined {
  if (document?.kind !== 'page') return document;
  const { access, content } = document;
  const all = regionNames.flatMap((region) => content[region]);
  const notice: Node = { kind: 'html', id: `${gateId} instead`, html: JSON.stringify(access?.otherwise) };
  const gate: Slot = {
    kind: 'slot',
    id: gateId,
    name: gateName,
    variants: access ? [{ id: gateId, audience: access.audience, content: all }] : [],
    otherwise: document.closed ?? [notice],
  };
  return { ...document, content: { subject: [], preview: [], body: access ? [gate] : all } };
}

function mayOpen(document: Document | undefined, choices: readonly number[] | undefined): boolean {
  return document !== undefined && (!document.access || choices?.[0] !== everyoneElse);
}

/** What all differences to one snapshot are worked out with. */
export interface Ground {
  readonly catalogue: Catalogue;
  readonly stated: ReturnType<typeof soundFacts>;
}

export function groundOf({ attributes, settings, facts }: Snapshot): Ground {
  const catalogue = new Catalogue(attributes, settings.zone);
  return { catalogue, stated: soundFacts(facts, catalogue) };
}

/**
 * Which viewers see something else of a document after than before, of all that there can be, by the face they had and
 * the face they get. Where an attribute changed its type, audiences that no longer fit it contain nobody before.
 *
 * @param instant now, in milliseconds since 1970 UTC
 */
export function differenceOf(
  pairing: Pairing,
  after: Snapshot,
  instant: number,
  { catalogue, stated }: Ground = groundOf(after),
): Difference {
  const document = pairing.after ?? pairing.before;
  try {
    const world = new World({
      catalogue,
      membership: new Membership(catalogue, pairing.audiences),
      audiences: pairing.audiences,
      used: audiencesOf(pairing.content),
      channel: channelOf(document?.kind ?? 'page'),
      instant,
      stated,
    });
    const { faces, complete } = facesOf(pairing.content, world);
    const transitions = faces
      .filter(({ choices }) => pairing.isChange(choices))
      .map(({ choices, witness }) => ({ ...pairing.split(choices), witness }));
    return { transitions, complete, refused: undefined };
  } catch (error) {
    if (error instanceof TooManyValues) return { transitions: [], complete: false, refused: error.message };
    throw error;
  }
}

type Side = 'before' | 'after';

function slotsAs(side: Side, document: Document | undefined, nameOf: (audience: string) => string): Slot[] {
  const walk = (nodes: readonly Node[]): Slot[] =>
    nodes.flatMap((node) => {
      if (node.kind !== 'slot') return listsOf(node).flatMap(walk);
      const variants = node.variants.map((variant) => ({
        id: `${side} ${variant.id}`,
        audience: nameOf(variant.audience),
        content: walk(variant.content),
      }));
      return [
        {
          kind: 'slot',
          id: `${side} ${node.id}`,
          name: node.name,
          variants,
          otherwise: walk(node.otherwise),
        },
      ];
    });
  return document ? regionNames.flatMap((region) => walk(document.content[region])) : [];
}

/** The audiences that a document asks for, with all that they build on, under other names. */
function audiencesAs(
  document: Document | undefined,
  snapshot: Snapshot | undefined,
  nameOf: (audience: string) => string,
): Audience[] {
  if (!document || !snapshot) return [];
  const rename = (condition: Condition): Condition => {
    switch (condition.kind) {
      case 'test':
        return condition;
      case 'audience':
        return { kind: 'audience', audience: nameOf(condition.audience) };
      case 'not':
        return { kind: 'not', of: rename(condition.of) };
      default:
        return { ...condition, of: condition.of.map(rename) };
    }
  };
  const byId = new Map(snapshot.audiences.map((audience) => [audience.id, audience]));
  const needed = new Set([...audiencesOf(document.content)].flatMap((id) => audiencesBehind(id, byId)));
  return [...needed].map((audience) => ({
    ...audience,
    id: nameOf(audience.id),
    condition: rename(audience.condition),
  }));
}

/** What somebody with some choices sees; the same numbers where nothing differs. */
function seenIn(
  document: Document | undefined,
  snapshot: Snapshot | undefined,
  numbers: Numbers,
): (choices: readonly number[] | undefined) => readonly number[] {
  if (!document || !snapshot) return () => [];
  const { slug, kind } = document;
  const frame = stringify([siteAround(document, snapshot), titleOf(document), kind === 'page' ? slug : '']);
  const seen = seenOf(document, frame, numbers);
  return (choices) =>
    // Of a page that one may not open there is nothing to see that would be new.
    !mayOpen(document, choices) && document.access?.otherwise === 'not-found' ? [] : seen(choices ?? []);
}
