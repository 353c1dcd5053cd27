import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import express from 'express';
import { escapeHtml } from '../../core/rendering/escape.ts';

/** How the foreign site's server asks Apple Porch, as any other site's would. */
export interface ForeignSiteOf {
  /** Where Apple Porch is. */
  readonly porch: string;
  /** The key in its pages, and the one that only its server has. */
  readonly browserKey: string;
  readonly serverKey: string;
}

const offer = 'home/offer-card';
const banner = 'home/welcome-banner';

/**
 * A site of its own on its own port that takes variants from Apple Porch: a shop that its members are known in. It runs
 * under a strict Content-Security-Policy, and shows its own words where no answer comes.
 */
export class ForeignSite {
  private constructor(
    private readonly server: Server,
    readonly origin: string,
  ) {}

  static async start(
    port: number,
    slots: { offer: string; banner: string } = { offer, banner },
  ): Promise<ForeignSite> {
    const app = express();
    const server = createServer(app);
    await new Promise<void>((resolve, reject) => {
      server.once('error', reject);
      server.listen(port, '127.0.0.1', () => resolve());
    });
    const site = new ForeignSite(server, `http://127.0.0.1:${(server.address() as AddressInfo).port}`);
    app.disable('x-powered-by');
    app.use((_request, response, next) => {
      const porch = site.of?.porch ?? '';
      response.set(
        'Content-Security-Policy',
        `default-src 'none'; script-src ${porch}; connect-src ${porch}; img-src ${porch}; frame-src ${porch}; style-src 'self'; base-uri 'none'`,
      );
      next();
    });
    app.get('/style.css', (_request, response) => {
      response.type('css').send(css);
    });
    app.get('/', async (request, response) => {
      const member = String(request.query.member ?? '');
      response.send(page(site.of, slots, await site.tokenOf(member), member));
    });
    app.get('/without-script', (_request, response) => {
      response.send(page(undefined, slots, '', ''));
    });
    app.get('/frame', (_request, response) => {
      response.send(framePage(site.of, slots));
    });
    return site;
  }

  of: ForeignSiteOf | undefined;

  /** The site signs its own members in, and says who they are by a token that its server asks for. */
  private async tokenOf(email: string): Promise<string> {
    if (email === '' || !this.of) return '';
    try {
      const answer = await fetch(`${this.of.porch}/v1/tokens`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ key: this.of.serverKey, person: { email } }),
      });
      return answer.ok ? String(((await answer.json()) as { token?: unknown }).token ?? '') : '';
    } catch {
      return '';
    }
  }

  async stop(): Promise<void> {
    this.server.closeAllConnections();
    await new Promise<void>((resolve) => this.server.close(() => resolve()));
  }
}

const members = [
  ['', 'a visitor'],
  ['tobias.orrin@example.org', 'Tobias'],
  ['noor.vale@example.org', 'Noor'],
] as const;

function page(
  of: ForeignSiteOf | undefined,
  slots: { offer: string; banner: string },
  token: string,
  member: string,
): string {
  const viewer = token === '' ? '' : ` data-viewer="${escapeHtml(token)}"`;
  const script = of
    ? `<script src="${of.porch}/embed/porch.js" data-key="${escapeHtml(of.browserKey)}"${viewer}></script>`
    : '';
  const doors = members
    .map(
      ([email, name]) =>
        `<li><a${email === member ? ' aria-current="page"' : ''} href="/${email === '' ? '' : `?member=${encodeURIComponent(email)}`}">${name}</a></li>`,
    )
    .join('');
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>The Ashwold Lens Shop</title><link rel="stylesheet" href="/style.css">${script}</head>
<body><header><h1>The Ashwold Lens Shop</h1><nav aria-label="Come as"><p>Come as</p><ul>${doors}</ul></nav></header>
<main><section data-porch-slot="${escapeHtml(slots.banner)}"><h2>Lenses, mirrors and everything between</h2><p>Open Tuesday to Saturday.</p></section>
<h2>This week</h2><p>Ground by hand on Dome Lane.</p>
<section data-porch-slot="${escapeHtml(slots.offer)}"><h2>Ten per cent off eyepieces</h2><p>Until the end of the month.</p></section></main></body></html>`;
}

function framePage(of: ForeignSiteOf | undefined, slots: { offer: string }): string {
  const source = of ? `${of.porch}/embed/frame/${slots.offer}?key=${encodeURIComponent(of.browserKey)}` : '';
  const script = of
    ? `<script src="${of.porch}/embed/porch.js" data-key="${escapeHtml(of.browserKey)}"></script>`
    : '';
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>The Ashwold Lens Shop: framed</title><link rel="stylesheet" href="/style.css">${script}</head>
<body><main><h1>With a frame</h1><iframe title="Offer" src="${escapeHtml(source)}" width="100%" height="120"></iframe><p>After the frame.</p></main></body></html>`;
}

const css = `body { margin: 0; font: 16px/1.5 Georgia, serif; color: #2b2118; background: #f4efe6; }
header, main { max-width: 860px; margin: 0 auto; padding: 16px 24px; }
nav ul { display: flex; gap: 16px; padding: 0; list-style: none; } nav p { margin: 0; }
[data-porch-slot] { border: 1px solid #c9b99f; border-radius: 8px; padding: 12px 16px; margin: 12px 0; background: #fffaf1; }
a { color: #6d3b12; } iframe { border: 1px solid #c9b99f; width: 100%; }
`;
