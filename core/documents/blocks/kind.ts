import { z } from 'zod';
import type { Catalogue } from '../../attributes/catalogue.ts';
import type { Condition } from '../../conditions/condition.ts';
import type { Inline, SayMerge, TextBlock } from '../text.ts';

/** The id of a block, a variant, a slot. */
export const blockIdSchema = z.string().min(1).max(40);

/** The screens that a block is shown on, by their width; see {@link blockFields}. */
export const screenWidths = ['narrow', 'wide'] as const;
export type ScreenWidth = (typeof screenWidths)[number];

/** What every block has. `screens` is how it looks on a page, not who gets it: each browser receives the block. */
export const blockFields = { id: blockIdSchema, screens: z.enum(screenWidths).optional() };

/** What a document can lead to and draw on, to be checked before it is released. */
export interface DocumentSurroundings {
  readonly catalogue: Catalogue;
  readonly hasAudience: (id: string) => boolean;
  readonly hasPicture: (name: string) => boolean;
  readonly hasCollection: (id: string) => boolean;
  readonly hasPiece: (id: string) => boolean;
}

/** The same for a block, with what is wrong with a condition; given, so that a block needs no more of conditions. */
export interface BlockSurroundings extends DocumentSurroundings {
  readonly problemsIn: (condition: Condition) => readonly { readonly message: string }[];
}

/**
 * What there is to know of a kind of block. Everything that is done to all blocks alike asks here, so that another kind is
 * one more entry.
 */
export interface BlockKind<Of extends { kind: string; id: string }> {
  /** A block to begin with, ready to be filled in. */
  fresh(newId: () => string): Of;
  /** The words that it is known by; without this it has none of its own. */
  words?(block: Of, say: SayMerge): string;
  /** The text that is written in it where it stands; without this there is none. */
  text?: {
    of(block: Of): readonly (TextBlock | Inline)[];
    /** The block with each inline of its text put through a change. */
    map(block: Of, change: (inline: Inline) => readonly Inline[]): Of;
    /** The block with words behind its text, or instead of it. */
    write(block: Of, words: string, isInstead: boolean): Of;
  };
  /** The name with its article, for saying that emails can't have this kind; undefined if they can. */
  pageOnly?: string;
  /** Where it leads to, besides the links in its text. */
  addresses?(block: Of): string[];
  /** Files that it shows. */
  files?(block: Of): string[];
  /** Audiences that it asks for, besides those in its conditions. */
  audiences?(block: Of): string[];
  /** Attributes whose values it prints, besides those in its text. */
  prints?(block: Of): string[];
  /** Conditions on what it shows. */
  conditions?(block: Of): Condition[];
  /** What keeps it from being saved. */
  unsavable?(block: Of): string[];
  /** What keeps it from being released, besides what keeps it from being saved. */
  unreleasable?(block: Of, surroundings: BlockSurroundings): string[];
}
