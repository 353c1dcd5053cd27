import type { BlockByKind } from '../../documents/blocks/blocks.ts';
import { row } from '../mail-style.ts';
import { element } from '../markup.ts';
import { type Drawing, type PageOf, type PictureSize, pictureWidths } from './drawing.ts';

/** How wide a page is at most, in pixels, as its style sheet has it. */
const pageWidth = 1040;

/** The address of a file that was brought in. */
export function fileAddress(file: string): string {
  return `/site/files/${encodeURIComponent(file)}`;
}

/**
 * What lets a browser lay out a page before it has its pictures, take each in a width that fits, and load those that are out
 * of view later (HTML standard, 4.8.3 and 4.8.4).
 */
export function shape(
  src: string,
  { sizes }: Pick<PageOf, 'sizes'>,
  isLate: boolean,
): { [name: string]: string } {
  const size = sizes?.get(src);
  return {
    ...(size && { width: String(size.width), height: String(size.height) }),
    ...(size && inWidths(src, size, isLate)),
    ...(isLate && { loading: 'lazy' }),
  };
}

/** The widths to choose from, where there are more than its own; how wide it will be is known once the page is laid out. */
function inWidths(src: string, size: PictureSize, isLate: boolean): { [name: string]: string } {
  const smaller = size.isScalable ? pictureWidths.filter((width) => width < size.width) : [];
  if (smaller.length === 0) return {};
  const whole = `${src} ${size.width}w`;
  return {
    srcset: [...smaller.map((width) => `${src}/${width}.webp ${width}w`), whole].join(', '),
    // A picture that is loaded late says by itself how wide it is.
    sizes: `${isLate ? 'auto, ' : ''}(max-width: ${pageWidth}px) 100vw, ${pageWidth}px`,
  };
}

export const picture: Drawing<BlockByKind['picture']> = {
  page({ id, file, picture: name, alt, ratio, keeps }, { of }) {
    const src = file ? fileAddress(file) : `/pictures/${name}.svg`;
    const isLate = of.inView !== undefined && !of.inView.has(id);
    const cropped = ratio ? ` ratio-${ratio}${keeps ? ` keeps-${keeps}` : ''}` : '';
    return [element('img', { class: `picture${cropped}`, src, alt, ...shape(src, of, isLate) }, [], id)];
  },
  mail({ id, file, picture: name, alt }, { base }) {
    const src = `${base}${file ? fileAddress(file) : `/pictures/${name}.png`}`;
    const style = 'display: block; width: 100%; max-width: 600px; height: auto; border: 0';
    return row('padding: 0', [element('img', { src, alt, width: '600', style }, [], id)]);
  },
  lines: ({ alt }) => (alt === '' ? [] : [`[${alt}]\n\n`]),
};

export const video: Drawing<BlockByKind['video']> = {
  page: ({ id, file, caption }) => [
    element(
      'figure',
      { class: 'video' },
      [
        file
          ? element('video', { controls: '', preload: 'metadata', src: fileAddress(file) }, [])
          : element('div', { class: 'empty-note' }, ['No video chosen yet']),
        ...(caption === '' ? [] : [element('figcaption', {}, [caption])]),
      ],
      id,
    ),
  ],
};
