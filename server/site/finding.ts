import { type Request, type Response, Router } from 'express';
import { itemAddress } from '../../core/collections/collection.ts';
import { unsetSettings } from '../../core/deciding/release.ts';
import { pictureWidths } from '../../core/rendering/blocks/drawing.ts';
import { escapeHtml } from '../../core/rendering/escape.ts';
import { element } from '../../core/rendering/markup.ts';
import { siteIcon } from '../../core/rendering/site-icon.ts';
import { themeCss } from '../../core/rendering/theme.ts';
import { readFile } from '../documents/files.ts';
import { pictureOf } from '../documents/pictures.ts';
import { beginningOf, sendNotFound, sendOwnPage } from './own-pages.ts';
import { type Site, viewerOf } from './site.ts';

const mostFound = 50;
const longestSearch = 100;

/** `text` inside XML; characters that XML can't hold are left out (XML 1.0, production 2), else no reader gets anything. */
const xmlText = (text: string): string =>
  escapeHtml(text.replace(/[^\t\n\r\u{20}-\u{d7ff}\u{e000}-\u{fffd}\u{10000}-\u{10ffff}]/gu, ''));

/** Everything by which content is found besides its own address: search, sitemap, feeds; and files. */
export function findingRouter(site: Site, origin: string): Router {
  const router = Router({ caseSensitive: true, strict: true });

  router.get('/search', async (request, response) => {
    const viewer = await viewerOf(site, request, response);
    const asked = String(request.query.q ?? '').slice(0, longestSearch);
    const found = site.live.current?.compiled.search.find(asked, viewer, mostFound) ?? [];
    const { title, beginning } = beginningOf(site, 'search');
    sendOwnPage(
      site,
      response,
      200,
      title,
      [
        ...beginning,
        element('form', { method: 'get', action: '/site/search', class: 'site-form', role: 'search' }, [
          element('label', { class: 'site-field' }, [
            'Words to look for',
            element('input', { name: 'q', type: 'search', value: asked }, []),
          ]),
          element('button', { type: 'submit', class: 'button' }, ['Search']),
        ]),
        ...(asked.trim() === ''
          ? []
          : [
              element('p', { role: 'status' }, [
                found.length === 0 ? 'Nothing was found.' : `${found.length} found`,
              ]),
              element(
                'ul',
                { class: 'found' },
                found.map(({ title, address }) =>
                  element('li', {}, [element('a', { href: address }, [title])]),
                ),
              ),
            ]),
      ],
      viewer,
    );
  });

  // Sitemap protocol 0.9, sitemaps.org.
  router.get('/sitemap.xml', async (request, response) => {
    const viewer = await viewerOf(site, request, response);
    const addresses = site.live.current?.compiled.pages.addresses(viewer) ?? [];
    const urls = addresses.map((address) => `  <url><loc>${xmlText(origin + address)}</loc></url>`);
    response
      .type('application/xml')
      .send(
        `<?xml version="1.0" encoding="UTF-8"?>\n<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">\n${urls.join('\n')}\n</urlset>\n`,
      );
  });

  // Atom, RFC 4287.
  router.get('/:collection/feed.xml', async (request, response) => {
    const viewer = await viewerOf(site, request, response);
    const { current } = site.live;
    const collection = current?.compiled.library.collections.find(
      ({ slug }) => slug === request.params.collection,
    );
    // One that is closed to whoever asks answers as one that there is not.
    const view = current?.compiled.pages.viewOf(viewer);
    if (!current || !view || !collection || !view.isOpen(collection))
      return sendNotFound(site, response, viewer);
    const items = view.openTo(collection);
    const self = `${origin}/site/${collection.slug}/feed.xml`;
    const entries = items.map((item) => {
      const address = xmlText(origin + itemAddress(collection, item));
      return `  <entry>
    <title>${xmlText(item.title)}</title>
    <id>${address}</id>
    <link href="${address}"/>
    <updated>${item.from ?? current.releasedAt}</updated>
    <summary>${xmlText(item.teaser)}</summary>
  </entry>`;
    });
    response.type('application/atom+xml').send(`<?xml version="1.0" encoding="UTF-8"?>
<feed xmlns="http://www.w3.org/2005/Atom">
  <title>${xmlText(`${collection.name} · ${current.snapshot.settings.name}`)}</title>
  <id>${xmlText(self)}</id>
  <link rel="self" href="${xmlText(self)}"/>
  <updated>${current.releasedAt}</updated>
  <author><name>${xmlText(current.snapshot.settings.name)}</name></author>
${entries.join('\n')}
</feed>
`);
  });

  router.get('/theme.css', (_request, response) => {
    const theme = site.live.current?.snapshot.settings.theme;
    response
      .set('Cache-Control', 'public, no-cache')
      .type('css')
      .send(theme ? themeCss(theme) : '');
  });

  router.get('/icon.svg', (_request, response) => {
    response
      .set('Cache-Control', 'public, no-cache')
      .type('svg')
      .send(siteIcon(site.live.current?.snapshot.settings ?? unsetSettings));
  });

  /** A file that whoever asks may have; where it is not theirs, there is none. */
  const sendFile = async (
    request: Request,
    response: Response,
    id: string,
    read: () => Promise<{ readonly type: string; readonly bytes: Buffer }>,
  ) => {
    const viewer = await viewerOf(site, request, response);
    if (!site.live.current?.compiled.parts.mayHaveFile(id, viewer))
      return sendNotFound(site, response, viewer);
    const file = await read().catch(() => undefined);
    if (!file) return sendNotFound(site, response, viewer);
    response
      // A drawing may hold scripts; alone in a window it must run none.
      .set('Content-Security-Policy', "default-src 'none'; style-src 'unsafe-inline'; sandbox")
      .type(file.type)
      .send(file.bytes);
  };
  router.get('/files/:id', (request, response) => {
    const { id } = request.params;
    return sendFile(request, response, id, () => readFile(id));
  });
  for (const width of pictureWidths)
    router.get(`/files/:id/${width}.webp`, (request, response) => {
      const { id } = request.params;
      return sendFile(request, response, id, () => pictureOf(id, width, () => readFile(id)));
    });
  return router;
}
