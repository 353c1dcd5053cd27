import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import express, { Router } from 'express';
import { siteAssets } from '../../core/rendering/page.ts';

/** The style, script and fonts of the live site, at an address that changes with what is in them. */
export class SiteAssets {
  /** The address of the folder they are in. */
  readonly folder: string;
  private readonly print: string;

  /** @param root the folder of the program */
  constructor(private readonly root: string) {
    const folder = join(root, 'server/site/assets');
    const hash = createHash('sha256');
    for (const name of readdirSync(folder).sort()) hash.update(name).update(readFileSync(join(folder, name)));
    this.print = hash.digest('hex').slice(0, 12);
    this.folder = `${siteAssets}/${this.print}`;
  }

  router(): Router {
    const router = Router();
    router.use(`/${this.print}`, this.files({ immutable: true, maxAge: '1y' }));
    // A page that another version of the program made asks for these, or whoever writes their addresses by hand.
    router.use(/^\/[0-9a-f]{12}(?=\/)/, this.files({ maxAge: 0 }));
    router.use(this.files({ maxAge: 0 }));
    return router;
  }

  private files(kept: { readonly immutable?: boolean; readonly maxAge: string | number }): Router {
    const router = Router();
    for (const font of ['bricolage-grotesque', 'instrument-sans'])
      router.use(
        '/fonts',
        express.static(join(this.root, 'node_modules/@fontsource-variable', font, 'files'), {
          immutable: true,
          maxAge: '1y',
        }),
      );
    router.use(express.static(join(this.root, 'server/site/assets'), kept));
    return router;
  }
}
