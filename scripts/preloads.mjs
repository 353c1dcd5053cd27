import { readFileSync } from 'node:fs';
import { join } from 'node:path';

/** What a page loads at once, by its places. */
export const preloadsFile = 'preloads.json';

/**
 * Writes down which files the studio begins with, signed in and not, and which each of its places needs, so that the server
 * can name them in the page: the browser then asks for all of them together, not for one after it has run another.
 *
 * @returns a plugin of Vite
 */
export function preloads() {
  let web = '';
  return {
    name: 'preloads',
    configResolved({ root }) {
      web = root;
    },
    generateBundle(_options, bundle) {
      const chunks = Object.values(bundle).filter(({ type }) => type === 'chunk');
      const filesOf = (...modules) => {
        const files = new Set();
        const add = (chunk) => {
          if (files.has(chunk.fileName)) return;
          files.add(chunk.fileName);
          for (const file of chunk.imports) add(bundle[file]);
          for (const file of chunk.viteMetadata?.importedCss ?? []) files.add(file);
        };
        for (const module of modules) {
          const path = join(web, module);
          const chunk = chunks.find(({ facadeModuleId }) => facadeModuleId === path);
          if (!chunk) this.error(`${module} is in no chunk of its own.`);
          add(chunk);
        }
        return [...files];
      };
      const screens = readFileSync(join(web, 'app/screens.ts'), 'utf8');
      const places = [...screens.matchAll(/\['([^']*)', \(\) => import\('\.\.\/([^']*)'\)\]/g)];
      if (places.length === 0) this.error('The list of screens is written in another way than it was.');
      this.emitFile({
        type: 'asset',
        fileName: preloadsFile,
        source: JSON.stringify({
          signedOut: filesOf('app/door.tsx', 'screens/sign-in/sign-in.tsx'),
          signedIn: filesOf('app/door.tsx', 'app/app.tsx'),
          places: places.map(([, place, module]) => [place, filesOf(module)]),
        }),
      });
    },
  };
}
