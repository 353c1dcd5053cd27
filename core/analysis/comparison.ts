import { dequal } from 'dequal';
import type { Viewer } from '../attributes/viewer.ts';
import type { Audience } from '../audiences/audience.ts';
import type { Snapshot } from '../deciding/release.ts';
import { type Channel, type Content, channelOf, type Document, slotsOf } from '../documents/document.ts';
import { audiencesOfDocument } from '../documents/uses.ts';
import type { FaceCount } from '../population/classify.ts';
import { changedAudiences } from './changed-audiences.ts';
import { differenceOf, type Ground, groundOf, type Pairing, pair, siteAround } from './difference.ts';
import type { DocumentPart } from './document-parts.ts';
import { changedItems } from './item-difference.ts';
import { pairMenu } from './menu-difference.ts';

/** Most items whose change is compared, those that are new or gone included. */
const itemsCompared = 40;
/** Most changes of one document that are listed. */
const changesListed = 40;

/** A slot, and the names of the audiences of its variants. */
interface NamedSlot {
  readonly name: string;
  readonly audiences: readonly string[];
}

/** A document of two snapshots, and what is needed to count who gets which of its faces in both. */
export interface Compared {
  readonly id: string;
  readonly name: string;
  readonly kind: Document['kind'] | 'item' | 'menu';
  readonly parts: readonly DocumentPart[];
  /** Its slots before and after side by side, over {@link audiences}. */
  readonly content: Content;
  readonly audiences: readonly Audience[];
  readonly channel: Channel;
  readonly slots: { readonly before: readonly NamedSlot[]; readonly after: readonly NamedSlot[] };
}

/** What some viewers get of a document before and after; null where it is not there. */
export interface ComparedChange {
  readonly before: number[] | null;
  readonly after: number[] | null;
  /** Whether they may open it from then on only, or no longer; undefined where that stays. */
  readonly opening: 'gained' | 'lost' | undefined;
  /** Contacts who get it today; 0 where it is only possible. */
  readonly contacts: number;
  /** The id of one of those contacts. */
  readonly contact: number | null;
}

/** The changes of one document, and how many people each affects. */
export interface ChangesOfDocument {
  /** Contacts who see something else. */
  readonly contacts: number;
  /** Whether somebody who is not known can see something else. */
  readonly anonymous: boolean;
  /** Those that somebody gets first, the most frequent first. */
  readonly changes: readonly ComparedChange[];
  /** False where more changes are possible than are listed. */
  readonly complete: boolean;
}

/**
 * Two snapshots compared: every page, email and item, and the menu, that somebody may see otherwise after than before.
 * Of what is the same for everybody by its own words and by the conditions behind it, nothing is worked out.
 */
export class Comparison {
  readonly documents: readonly Compared[];
  /** How many changed items were not compared, because only the first 40 are. */
  readonly itemsLeft: number;
  private readonly pairings: readonly Pairing[];
  private readonly ground: Ground;

  /**
   * @param instant now, in milliseconds since 1970 UTC
   * @param views how often each item was opened, by its id
   */
  constructor(
    before: Snapshot | undefined,
    private readonly after: Snapshot,
    private readonly instant: number,
    views: ReadonlyMap<string, number>,
  ) {
    this.ground = groundOf(after);
    const changed = before && changedAudiences(before, after);
    const isSame = (was: Document | undefined, is: Document | undefined) =>
      changed !== undefined && sameForEverybody(was, is, changed);
    const old = new Map(before?.documents.map((document) => [document.id, document]));
    const next = new Map(after.documents.map((document) => [document.id, document]));
    const isSameDocument = (id: string) => {
      const [was, is] = [old.get(id), next.get(id)];
      return isSame(was, is) && is && before && siteAround(is, before) === siteAround(is, after);
    };
    const menu = pairMenu(before, after, changed);
    const items = changedItems(before, after, instant, views);
    this.itemsLeft = Math.max(0, items.length - itemsCompared);
    const found: { pairing: Pairing; as?: 'item' | 'menu' }[] = [
      ...[...new Set([...old.keys(), ...next.keys()])]
        .filter((id) => !isSameDocument(id))
        .map((id) => ({ pairing: pair(before, after, id, changed) })),
      ...(isSame(menu.before, menu.after) ? [] : [{ pairing: menu, as: 'menu' as const }]),
      ...items.slice(0, itemsCompared).map((pairing) => ({ pairing, as: 'item' as const })),
    ];
    const names = { before: namesOf(before), after: namesOf(after) };
    const documents: Compared[] = [];
    const pairings: Pairing[] = [];
    for (const { pairing, as } of found) {
      const document = pairing.after ?? pairing.before;
      if (!document) continue;
      const { parts, content, audiences } = pairing;
      documents.push({
        id: document.id,
        name: document.name,
        kind: as ?? document.kind,
        parts,
        content,
        audiences,
        channel: channelOf(document.kind),
        slots: {
          before: slotNames(pairing.before, names.before),
          after: slotNames(pairing.after, names.after),
        },
      });
      pairings.push(pairing);
    }
    this.documents = documents;
    this.pairings = pairings;
  }

  /**
   * What changes of each of {@link documents}, in their order; undefined where nobody sees anything else.
   *
   * @param faces the faces of each content that contacts get, largest first
   */
  changes(faces: readonly (readonly FaceCount[])[]): (ChangesOfDocument | undefined)[] {
    return this.pairings.map((pairing, index) => this.changesOf(pairing, faces[index] ?? []));
  }

  private changesOf(pairing: Pairing, faces: readonly FaceCount[]): ChangesOfDocument | undefined {
    const { transitions, complete, refused } = differenceOf(pairing, this.after, this.instant, this.ground);
    const occurring = faces.filter(({ choices }) => pairing.isChange(choices));
    if (transitions.length === 0 && occurring.length === 0) return undefined;
    const listed = occurring.map(({ choices, count, contact }): ComparedChange => {
      const { before, after } = pairing.split(choices);
      const opening = pairing.opening(choices);
      return { before: before ?? null, after: after ?? null, opening, contacts: count, contact };
    });
    const named = new Set(listed.map(nameOf));
    const possible = transitions
      .map(({ before, after }): ComparedChange => {
        const opening = pairing.opening([...(before ?? []), ...(after ?? [])]);
        return {
          before: before ? [...before] : null,
          after: after ? [...after] : null,
          opening,
          contacts: 0,
          contact: null,
        };
      })
      .filter((change) => !named.has(nameOf(change)));
    const changes = [...listed, ...possible];
    return {
      contacts: occurring.reduce((sum, { count }) => sum + count, 0),
      anonymous: transitions.some(({ witness }: { witness: Viewer }) => witness.contact === null),
      changes: changes.slice(0, changesListed),
      complete: complete && refused === undefined && changes.length <= changesListed,
    };
  }
}

function nameOf({ before, after }: ComparedChange): string {
  return `${before?.join() ?? ''} ${after?.join() ?? ''}`;
}

/** Whether every viewer that there can be gets the same of a document in two snapshots; settings aside. */
function sameForEverybody(
  was: Document | undefined,
  is: Document | undefined,
  changed: ReadonlySet<string>,
): boolean {
  if (!was || !is || !dequal(was, is)) return false;
  return ![...audiencesOfDocument(is)].some((audience) => changed.has(audience));
}

function namesOf(snapshot: Snapshot | undefined): ReadonlyMap<string, string> {
  return new Map(snapshot?.audiences.map(({ id, name }) => [id, name]));
}

/** The slots of a document, each with the names of the audiences of its variants. */
function slotNames(document: Document | undefined, names: ReadonlyMap<string, string>): NamedSlot[] {
  return document
    ? slotsOf(document.content).map(({ name, variants }) => ({
        name,
        audiences: variants.map(({ audience }) => names.get(audience) ?? 'a deleted audience'),
      }))
    : [];
}
