import type { PictureSize } from '../../core/rendering/blocks/drawing.ts';
import { fileAddress } from '../../core/rendering/blocks/pictures.ts';
import type { ChangeLog } from '../store/change-log.ts';
import { isScalable } from './pictures.ts';
import { sizesOfFiles } from './rows.ts';

/** The drawings that come with the demo are all of one size, in pixels. */
const ofDrawings = { width: 1200, height: 600, isScalable: false };

/** Width and height of all pictures, by their addresses on the site. */
export class FileSizes {
  readonly known = new Map<string, PictureSize>();

  private constructor() {}

  /** @param drawings those that come with the program */
  static async open(log: ChangeLog, drawings: readonly { readonly name: string }[]): Promise<FileSizes> {
    const sizes = new FileSizes();
    for (const { name } of drawings) sizes.known.set(`/pictures/${name}.svg`, ofDrawings);
    log.on(['file'], async (changes) => {
      const ids = changes.flatMap((change) => change.ids ?? []);
      await sizes.read(changes.some((change) => change.ids === null) ? undefined : ids);
    });
    await sizes.read();
    return sizes;
  }

  private async read(ids?: readonly string[]): Promise<void> {
    for (const { id, type, width, height } of await sizesOfFiles(ids))
      if (width !== null && height !== null)
        this.known.set(fileAddress(id), { width, height, isScalable: isScalable(type) });
  }
}
