import { readFile as readFromDisk } from 'node:fs/promises';
import { join } from 'node:path';
import type { Viewer } from '../../core/attributes/viewer.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { CompiledSnapshot } from '../../core/rendering/compiled.ts';
import { themeCss } from '../../core/rendering/theme.ts';
import { notFound } from '../refusal.ts';
import { fileRow } from './rows.ts';

/**
 * A page as one viewer gets it, as a single file that needs nothing else: styles, pictures and fonts inside, no script,
 * links leading to the site by their whole address.
 *
 * @param root the folder of the program
 * @param origin where the site is
 * @param views how often each item was opened
 */
export async function exportedFace(
  snapshot: Snapshot,
  documentId: string,
  viewer: Viewer,
  root: string,
  origin: string,
  views?: ReadonlyMap<string, number>,
): Promise<{ html: string; name: string }> {
  const document = snapshot.documents.find(({ id }) => id === documentId);
  if (document?.kind !== 'page' || document.collection) throw notFound('page');
  const open = { ...document, access: null };
  const documents = snapshot.documents.map((other) => (other.id === documentId ? open : other));
  const compiled = new CompiledSnapshot({ ...snapshot, documents }, origin, { views });
  const answer = compiled.pages.at(document.slug, viewer);
  if (answer.kind !== 'page') throw notFound('page');
  const sheet = await sheetWithFonts(root);
  const theme = snapshot.settings.theme ? themeCss(snapshot.settings.theme) : '';
  const html = answer.html
    .replace(/<link rel="(?:stylesheet" href="\/site\/theme\.css"|(?:preload|icon)"[^>]*)>/g, '')
    .replace(/<script [^>]*><\/script>/g, '')
    .replace(
      /<link rel="stylesheet" href="\/site-assets\/site\.css">/,
      () => `<style>${sheet}${theme}</style>`,
    )
    .replace(/ (href|action)="\//g, ` $1="${origin}/`);
  return { html: await withPictures(html, root), name: `${document.slug || 'home'}.html` };
}

async function sheetWithFonts(root: string): Promise<string> {
  const css = await readFromDisk(join(root, 'server/site/assets/site.css'), 'utf8');
  const fonts = [...css.matchAll(/url\("fonts\/([\w.-]+)"\)/g)].map(([, name = '']) => name);
  let inlined = css;
  for (const name of new Set(fonts)) {
    const family = name.startsWith('bricolage') ? 'bricolage-grotesque' : 'instrument-sans';
    const bytes = await readFromDisk(join(root, 'node_modules/@fontsource-variable', family, 'files', name));
    inlined = inlined.replaceAll(`"fonts/${name}"`, `"data:font/woff2;base64,${bytes.toString('base64')}"`);
  }
  return inlined;
}

async function withPictures(html: string, root: string): Promise<string> {
  const sources = new Set([...html.matchAll(/ src="(\/[^"]+)"/g)].map(([, source = '']) => source));
  let inlined = html;
  for (const source of sources) {
    const drawing = /^\/pictures\/([a-z0-9-]+\.svg)$/.exec(source)?.[1];
    const file = /^\/site\/files\/([\w-]+)$/.exec(source)?.[1];
    const row = file ? await fileRow(file) : null;
    const bytes = drawing
      ? await readFromDisk(join(root, 'demo/pictures', drawing)).catch(() => undefined)
      : row?.bytes;
    const type = drawing ? 'image/svg+xml' : (row?.type ?? '');
    if (bytes)
      inlined = inlined.replaceAll(
        ` src="${source}"`,
        ` src="data:${type};base64,${bytes.toString('base64')}"`,
      );
  }
  return inlined;
}
