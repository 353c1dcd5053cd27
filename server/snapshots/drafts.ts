import type { LoggedChange } from '../../contract/changes.ts';
import type { Attribute } from '../../core/attributes/attribute.ts';
import type { Audience } from '../../core/audiences/audience.ts';
import type { StatedFact } from '../../core/audiences/fact.ts';
import { type Collection, type Item, itemAttributes } from '../../core/collections/collection.ts';
import { Decider } from '../../core/deciding/decide.ts';
import {
  type SiteSettings,
  type Snapshot,
  siteSettingsSchema,
  unsetSettings,
} from '../../core/deciding/release.ts';
import type { Document } from '../../core/documents/document.ts';
import type { ChangeLog } from '../store/change-log.ts';
import type { DraftedKind } from '../store/drafted-kind.ts';
import { KeptAnswer } from '../work/kept-answer.ts';
import { OneByOne } from '../work/one-by-one.ts';
import { KeptKind } from './kept-kind.ts';
import { WithPieces } from './with-pieces.ts';

/** Where what is drafted is read, by the kind that the log of changes calls it. */
export interface DraftedKinds {
  readonly attribute: DraftedKind<Attribute>;
  readonly audience: DraftedKind<Audience>;
  readonly collection: DraftedKind<Collection>;
  readonly document: DraftedKind<Document>;
  readonly fact: DraftedKind<StatedFact>;
  readonly item: DraftedKind<Item>;
  /** The settings of the site; undefined where there are none yet. */
  readonly settings: () => Promise<unknown>;
}

/**
 * The drafts as one snapshot, of which what changed is read again: what did not is the same objects as before, so that
 * whatever is worked out of one can be kept with it.
 */
export class Drafts {
  private readonly compiled: KeptAnswer<Decider>;
  private readonly reading = new OneByOne();
  private readonly kinds;
  private readonly readSettings: () => Promise<unknown>;
  private readonly withPieces = new WithPieces();
  private fields: { of: [Attribute[], Collection[]]; all: Attribute[] } = { of: [[], []], all: [] };
  private settings: SiteSettings | undefined;
  private last: Decider | undefined;

  constructor(log: ChangeLog, kinds: DraftedKinds) {
    this.kinds = {
      attribute: new KeptKind(kinds.attribute),
      audience: new KeptKind(kinds.audience),
      collection: new KeptKind(kinds.collection),
      document: new KeptKind(kinds.document),
      fact: new KeptKind(kinds.fact),
      item: new KeptKind(kinds.item),
    };
    this.readSettings = kinds.settings;
    this.compiled = new KeptAnswer(() => this.reading.after(() => this.compile()));
    log.on(['attribute', 'audience', 'collection', 'document', 'fact', 'item', 'setting'], (changes) => {
      for (const change of changes) this.forget(change);
    });
  }

  async snapshot(): Promise<Snapshot> {
    return (await this.decider()).snapshot;
  }

  /** The drafts compiled for deciding. */
  decider(): Promise<Decider> {
    return this.compiled.get();
  }

  private forget({ kind, ids }: LoggedChange): void {
    if (kind === 'setting') {
      if (ids !== null && !ids.includes('site')) return;
      this.settings = undefined;
    } else if (hasKey(this.kinds, kind)) this.kinds[kind].forget(ids);
    else return;
    this.compiled.forget();
  }

  private async compile(): Promise<Decider> {
    const { kinds } = this;
    const settings = this.settings ?? (await this.readSite());
    const [attributes, audiences, documents, facts, collections, items] = await Promise.all([
      kinds.attribute.get(),
      kinds.audience.get(),
      kinds.document.get(),
      kinds.fact.get(),
      kinds.collection.get(),
      kinds.item.get(),
    ]);
    const snapshot: Snapshot = {
      settings,
      attributes: this.withFields(attributes, collections),
      audiences,
      documents: this.withPieces.of(documents),
      facts,
      collections,
      items,
    };
    this.last = new Decider(snapshot, this.last);
    return this.last;
  }

  /** All attributes, those of the fields of collections last; the same array as before where nothing of it changed. */
  private withFields(attributes: Attribute[], collections: Collection[]): Attribute[] {
    const { of } = this.fields;
    if (of[0] !== attributes || of[1] !== collections)
      this.fields = { of: [attributes, collections], all: [...attributes, ...itemAttributes(collections)] };
    return this.fields.all;
  }

  private async readSite(): Promise<SiteSettings> {
    const stored = await this.readSettings();
    this.settings = stored === undefined ? unsetSettings : siteSettingsSchema.parse(stored);
    return this.settings;
  }
}

function hasKey<Known extends object>(known: Known, key: PropertyKey): key is keyof Known {
  return key in known;
}
