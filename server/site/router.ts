import { type Request, type Response, Router, urlencoded } from 'express';
import { z } from 'zod';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import type { Viewer } from '../../core/attributes/viewer.ts';
import { Flat } from '../../core/rendering/flatten.ts';
import { element, type Markup } from '../../core/rendering/markup.ts';
import { siteDocument, siteFrame } from '../../core/rendering/page.ts';
import { demoSiteAccounts, demoSitePassword } from '../../demo/scenario.ts';
import { sameOriginOnly } from '../http/guards.ts';
import { beginSession } from '../http/new-session.ts';
import { signInLimit } from '../http/session.ts';
import type { UnsubscribeTokens } from '../mail/unsubscribe.ts';
import { findSiteUser } from '../services/accounts.ts';
import type { People } from '../services/people.ts';
import { ContactRow } from '../store/models.ts';
import type { LiveSite } from './live.ts';
import { visitFor } from './visit.ts';

interface Site {
  readonly live: LiveSite;
  readonly people: People;
  readonly tokens: UnsubscribeTokens;
  readonly demo: boolean;
}

const credentials = z.object({ email: z.string().trim().max(254), password: z.string().max(1000) });

/** The live site: released pages for signed-out visitors and known users, rendered on the server. */
export function siteRouter(site: Site): Router {
  const router = Router();
  const form = urlencoded({ extended: false, limit: '10kb' });

  router.use((_request, response, next) => {
    // A face must never reach another person through a shared cache (RFC 9111, 5.2.2).
    response.set({ 'Cache-Control': 'private, no-cache', Vary: 'Cookie' });
    next();
  });

  router.get('/sign-in', (request, response) => {
    if (signedInContact(request) !== undefined) return response.redirect(303, '/site/');
    sendPage(site, response, 200, 'Sign in', signInPage(site, ''));
  });
  router.post('/sign-in', sameOriginOnly, signInLimit(), form, async (request, response) => {
    const { email = '', password = '' } = credentials.safeParse(request.body).data ?? {};
    const contactId = await findSiteUser(email, password);
    if (contactId === undefined) {
      sendPage(
        site,
        response,
        401,
        'Sign in',
        signInPage(site, 'This email and password do not fit together.'),
      );
      return;
    }
    await beginSession(request, { contactId });
    response.redirect(303, '/site/');
  });
  router.post('/sign-out', sameOriginOnly, async (request, response) => {
    await new Promise<void>((resolve) => request.session.destroy(() => resolve()));
    response.clearCookie('porch_site', { path: '/site' });
    response.redirect(303, '/site/');
  });

  router.get('/unsubscribe', (request, response) => {
    const token = String(request.query.token ?? '');
    if (site.tokens.read(token) === undefined) return badToken(site, response);
    sendPage(site, response, 200, 'Stop these emails', [
      element('h1', { class: 'heading' }, ['Stop these emails']),
      element('form', { method: 'post', action: `/site/unsubscribe?token=${encodeURIComponent(token)}` }, [
        element('button', { type: 'submit', class: 'button' }, ['Stop sending me emails']),
      ]),
    ]);
  });
  // Mail programs post here without a page open, so this one change may come from anywhere (RFC 8058, 3.1).
  router.post('/unsubscribe', form, async (request, response) => {
    const contactId = site.tokens.read(String(request.query.token ?? ''));
    if (contactId === undefined) return badToken(site, response);
    await ContactRow.update(
      { unsubscribedAt: new Date() },
      { where: { id: contactId, unsubscribedAt: null } },
    );
    sendPage(site, response, 200, 'Done', [
      element('h1', { class: 'heading' }, ['You will get no more of these emails']),
    ]);
  });

  router.get('/{:slug}', async (request, response) => {
    const slug = request.params.slug ?? '';
    const html = site.live.current?.compiled.page(slug, await viewerOf(site, request, response));
    if (html !== undefined) return response.type('html').send(html);
    if (!site.live.current)
      return sendPage(site, response, 404, 'Not open yet', [
        element('h1', { class: 'heading' }, ['This site opens with its first release']),
      ]);
    notFoundPage(site, response);
  });
  router.use((_request, response) => notFoundPage(site, response));
  return router;
}

/** Who is signed in on the site; a visitor without the cookie has no session at all. */
function signedInContact(request: { session?: { contactId?: number } }): number | undefined {
  return request.session?.contactId;
}

async function viewerOf({ people, live }: Site, request: Request, response: Response): Promise<Viewer> {
  const contactId = signedInContact(request);
  const person = contactId === undefined ? undefined : await people.get(contactId);
  return {
    contact: person?.values ?? null,
    signedIn: person !== undefined,
    visit: visitFor(request, response, live),
    item: null,
    instant: Date.now(),
  };
}

function notFoundPage(site: Site, response: Response): void {
  sendPage(site, response, 404, 'Not found', [
    element('h1', { class: 'heading' }, ['There is no page here']),
    element('p', {}, [element('a', { href: '/site/' }, ['Go to the home page'])]),
  ]);
}

function badToken(site: Site, response: Response): void {
  sendPage(site, response, 404, 'Not found', [
    element('h1', { class: 'heading' }, ['This link is damaged']),
    element('p', {}, ['Open it again from the email; nothing was changed.']),
  ]);
}

function signInPage({ demo }: Site, problem: string): Markup[] {
  const field = (name: string, label: string, type: string, autocomplete: string) =>
    element('label', { class: 'site-field' }, [
      label,
      element('input', { name, type, autocomplete, required: '' }, []),
    ]);
  return [
    element('h1', { class: 'heading' }, ['Sign in']),
    ...(problem ? [element('p', { class: 'site-problem', role: 'alert' }, [problem])] : []),
    element('form', { method: 'post', action: '/site/sign-in', class: 'site-form' }, [
      field('email', 'Email address', 'email', 'username'),
      field('password', 'Password', 'password', 'current-password'),
      element('button', { type: 'submit', class: 'button' }, ['Sign in']),
    ]),
    ...(demo ? demoAccounts() : []),
  ];
}

function demoAccounts(): Markup[] {
  return [
    element('h2', { class: 'heading' }, ['People to sign in as']),
    element('p', {}, ['Their password is ', element('code', {}, [demoSitePassword]), '.']),
    element(
      'ul',
      {},
      demoSiteAccounts.map(({ email, kind }) =>
        element('li', {}, [element('code', {}, [email]), ` — ${kind}`]),
      ),
    ),
  ];
}

/** A page of the server's own in the site's frame, for a visitor who is signed out. */
function sendPage(site: Site, response: Response, status: number, title: string, body: Markup[]): void {
  const snapshot = site.live.current?.snapshot;
  const catalogue = new Catalogue(snapshot?.attributes ?? [], snapshot?.settings.zone ?? 'UTC');
  const settings = snapshot?.settings ?? {
    name: 'Apple Porch',
    zone: 'UTC',
    locale: 'en',
    postalAddress: '',
    fromAddress: '',
  };
  const pages = snapshot?.documents.filter((document) => document.kind === 'page') ?? [];
  const frame = siteFrame([element('div', { class: 'site-own' }, body)], { settings, catalogue, pages });
  const flat = new Flat([siteDocument(`${title} · ${settings.name}`, frame, settings)], catalogue, 'html');
  const facts = { values: [], today: 0 };
  const html = flat.join({ facts, choices: new Int8Array(0), links: {} });
  response.status(status).type('html').send(`<!doctype html>\n${html}`);
}
