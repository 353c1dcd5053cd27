import type { Catalogue } from '../../attributes/catalogue.ts';
import type { Collection, Item } from '../../collections/collection.ts';
import type { Node } from '../../documents/document.ts';
import type { Markup } from '../markup.ts';
import type { TextStyle } from '../text-markup.ts';

/** What the blocks of a page draw on. */
export interface PageOf {
  /** The id of the page, which its forms are sent to. */
  readonly document: string;
  readonly catalogue: Catalogue;
  /** The site’s language. */
  readonly locale: string;
  readonly collections: readonly Collection[];
  readonly items: readonly Item[];
  /** The sizes of pictures, as far as they are known. */
  readonly sizes?: PictureSizes;
  /** The pictures that are in view first; browsers load the others when they come into view. */
  readonly inView?: ReadonlySet<string>;
}

export interface PictureSize {
  /** In pixels. */
  readonly width: number;
  readonly height: number;
  /** Whether it is also served in {@link pictureWidths}. */
  readonly isScalable: boolean;
}

/** The sizes of pictures, by their addresses. */
export type PictureSizes = ReadonlyMap<string, PictureSize>;

/** The other widths that pictures are served in, in pixels: for a phone, and for half and all of a page. */
export const pictureWidths = [480, 960, 1600] as const;

interface Surface {
  readonly style: TextStyle;
  /** What a block holds, drawn in the same way. */
  readonly inner: (nodes: readonly Node[]) => Markup[];
}

/** A page of the site. */
export interface OnPage extends Surface {
  readonly of: PageOf;
}

/** Rows of a table with their styling inline, since mail programs drop style sheets. */
export interface InMail extends Surface {
  /** The site's origin; mail has no addresses relative to itself. */
  readonly base: string;
}

/** Lines of plain text. */
export interface AsLines extends Surface {
  readonly base: string;
  /** Elements turned into what stands for them in plain text. */
  readonly plain: (markup: readonly Markup[]) => Markup[];
}

/** How a kind of block is drawn. Mail leaves out what has no way to be drawn there. */
export interface Drawing<Of> {
  page(block: Of, on: OnPage): Markup[];
  mail?(block: Of, on: InMail): Markup[];
  lines?(block: Of, on: AsLines): Markup[];
}
