import { type Request, type RequestHandler, type Response, Router, urlencoded } from 'express';
import { siteSignInSchema } from '../../contract/sign-in.ts';
import type { Viewer } from '../../core/attributes/viewer.ts';
import type { Answer } from '../../core/rendering/answer.ts';
import { element, type Markup } from '../../core/rendering/markup.ts';
import { compressed } from '../http/compressed.ts';
import { sameOriginOnly } from '../http/guards.ts';
import { inTurn } from '../http/in-turn.ts';
import { stopMail } from '../people/contact-rows.ts';
import { findSiteUser } from '../team/accounts.ts';
import { beginSession } from '../team/new-session.ts';
import { signInLimit } from '../team/session.ts';
import { answersCookie } from '../visitors/answers.ts';
import { knownFor } from '../visitors/known.ts';
import { knownCookie, signedInCookie, visitorOf } from '../visitors/visitor.ts';
import { findingRouter } from './finding.ts';
import { formsRouter } from './forms.ts';
import { beginningOf, sendClosed, sendNotFound, sendOwnPage } from './own-pages.ts';
import { hasSiteCookie, isBot, type Site, type Trying, viewerOf } from './site.ts';

/**
 * The live site: released pages for signed-out visitors and known users, rendered on the server. Addresses are exact:
 * another case or a slash more is another address, so that nothing is reached by a way round (OWASP, path confusion).
 *
 * @param origin the site's origin, for what must be absolute
 * @param before what each request goes through first
 */
export function siteRouter(site: Site, origin: string, before: readonly RequestHandler[]): Router {
  const router = Router({ caseSensitive: true, strict: true });
  const form = urlencoded({ extended: false, limit: '10kb' });

  const prepare: RequestHandler = (request, response, next) => {
    // A face must never reach another person through a shared cache (RFC 9111, 5.2.2).
    response.setHeader('Cache-Control', 'private, no-cache');
    response.setHeader('Vary', 'Cookie');
    // A link from an email says who comes; the address is then as it is for anybody.
    if (!request.url.includes('k=') || request.method !== 'GET') return next();
    const { k } = request.query;
    if (typeof k !== 'string') return next();
    const contactId = site.known.read('link', k, Date.now());
    if (contactId !== undefined)
      response.cookie(knownCookie, k, {
        path: '/site',
        httpOnly: true,
        sameSite: 'lax',
        secure: request.secure,
        maxAge: knownFor * 1000,
      });
    const address = new URL(request.originalUrl, origin);
    address.searchParams.delete('k');
    response.redirect(302, `${address.pathname}${address.search}`);
  };
  router.use(inTurn(...before, prepare));

  // First, as most ask for it; the addresses below are refused as a page's own.
  router.get('/{:slug}', async (request, response, next) => {
    const slug = request.params.slug ?? '';
    const { current } = site.live;
    if (!current?.compiled.pages.has(slug)) return next();
    // The home page has one address, its folder's.
    if (slug === '' && !request.originalUrl.split('?')[0]?.endsWith('/'))
      return response.redirect(301, '/site/');
    const viewer = await viewerOf(site, request, response);
    const page = site.metrics.timed(() => current.compiled.pages.at(slug, viewer));
    send(site, request, response, page, viewer);
  });

  router.use(compressed());
  router.get('/sign-in', (request, response) => {
    if (visitorOf(request).signedIn !== undefined) return response.redirect(303, afterSignIn(site, request));
    sendSignIn(site, response, 200, '', queryOf(request));
  });
  router.post(
    '/sign-in',
    sameOriginOnly,
    signInLimit(site.counts, 'site'),
    form,
    async (request, response) => {
      const { email = '', password = '' } = siteSignInSchema.safeParse(request.body).data ?? {};
      const contactId = await findSiteUser(email, password);
      if (contactId === undefined) {
        sendSignIn(site, response, 401, 'This email and password don’t match.', queryOf(request), email);
        return;
      }
      await beginSession(request, { contactId });
      response.redirect(303, afterSignIn(site, request));
    },
  );
  router.post('/sign-out', sameOriginOnly, async (request, response) => {
    await new Promise<void>((resolve) => request.session.destroy(() => resolve()));
    response.clearCookie(signedInCookie, { path: '/site' });
    for (const cookie of [knownCookie, answersCookie]) response.clearCookie(cookie, { path: '/site' });
    response.redirect(303, '/site/');
  });

  router.get('/unsubscribe', (request, response) => {
    const token = String(request.query.token ?? '');
    if (site.tokens.read(token) === undefined) return badToken(site, response);
    const { title, beginning } = beginningOf(site, 'unsubscribe');
    sendOwnPage(site, response, 200, title, [
      ...beginning,
      element('form', { method: 'post', action: `/site/unsubscribe?token=${encodeURIComponent(token)}` }, [
        element('button', { type: 'submit', class: 'button' }, ['Unsubscribe me']),
      ]),
    ]);
  });
  // Mail programs post here without a page open, so this one change may come from anywhere (RFC 8058, 3.1).
  router.post('/unsubscribe', form, async (request, response) => {
    const contactId = site.tokens.read(String(request.query.token ?? ''));
    if (contactId === undefined) return badToken(site, response);
    await stopMail(contactId);
    const { title, beginning } = beginningOf(site, 'unsubscribed');
    sendOwnPage(site, response, 200, title, beginning);
  });

  router.use('/forms', formsRouter(site));
  router.use(findingRouter(site, origin));

  router.get('/:collection/:item', async (request, response) => {
    const address = `${request.params.collection}/${request.params.item}`;
    const { compiled } = site.live.current ?? {};
    const found = compiled?.library.find(address);
    const item = found?.item;
    // What a visitor can't open must leave no trace in what their browser keeps, which would tell that it exists.
    const viewer = await viewerOf(site, request, response, (seen) =>
      found && compiled?.pages.viewOf(seen).accessLevel(found.collection, found.item) === 'open'
        ? item?.id
        : undefined,
    );
    const answer = compiled?.pages.item(address, viewer);
    // Programs that read everything are no sign that anybody is interested.
    if (item && answer?.kind === 'page' && !answer.notice && request.method === 'GET' && !isBot(request))
      site.views.add(item.id);
    send(site, request, response, answer, viewer);
  });
  router.use(async (request, response) => {
    sendNotFound(site, response, await viewerOf(site, request, response));
  });
  return router;
}

/** Sends what stands at an address for a viewer. */
function send(
  site: Site,
  request: Request,
  response: Response,
  answer: Answer | undefined,
  viewer: Viewer,
): void {
  switch (answer?.kind) {
    case 'page': {
      // What is the same for all may be kept by anybody, to be asked about again (RFC 9111, 5.2.2.4 and 5.2.2.9).
      const isEverybodys =
        answer.sameForAll && !hasSiteCookie(request) && response.getHeader('set-cookie') === undefined;
      if (isEverybodys) response.set('Cache-Control', 'public, no-cache');
      response.status(answer.notice ? 403 : 200).type('html');
      site.live.ready.send(request, response, answer.html, answer.sameForAll);
      return;
    }
    case 'sign-in':
      response.redirect(303, `/site/sign-in?to=${encodeURIComponent(request.originalUrl)}`);
      return;
    case 'closed':
      sendClosed(site, response, viewer);
      return;
    default:
      sendNotFound(site, response, viewer);
  }
}

function badToken(site: Site, response: Response): void {
  sendOwnPage(site, response, 404, 'Not found', [
    element('h1', { class: 'heading' }, ['This link is damaged']),
    element('p', {}, ['Open it again from the email; nothing was changed.']),
  ]);
}

/** Where one goes after signing in: the page that asked for it, the one that is set for it, or the home page. */
function afterSignIn(site: Site, request: Request): string {
  const to = String(request.query.to ?? '');
  if (/^\/site\/(?![/\\])[\w/?=&%.-]*$/.test(to) && !to.startsWith('/site/sign-')) return to;
  const { snapshot } = site.live.current ?? {};
  const page = snapshot?.documents.find(({ id }) => id === snapshot.settings.afterSignIn);
  return `/site/${page?.slug ?? ''}`;
}

function sendSignIn(
  site: Site,
  response: Response,
  status: number,
  problem: string,
  to: string,
  email = '',
): void {
  const { trying } = site;
  const { title, beginning } = beginningOf(site, 'sign-in');
  const field = (name: string, label: string, type: string, autocomplete: string, value = '') =>
    element('label', { class: 'site-field' }, [
      label,
      element('input', { name, type, autocomplete, required: '', ...(value !== '' && { value }) }, []),
    ]);
  sendOwnPage(site, response, status, title, [
    ...beginning,
    ...(problem ? [element('p', { class: 'site-problem', role: 'alert' }, [problem])] : []),
    element('form', { method: 'post', action: `/site/sign-in${to}`, class: 'site-form' }, [
      field('email', 'Email address', 'email', 'username', email),
      field('password', 'Password', 'password', 'current-password'),
      element('button', { type: 'submit', class: 'button' }, ['Sign in']),
    ]),
    ...(trying ? peopleToTry(trying) : []),
  ]);
}

function queryOf(request: Request): string {
  const to = String(request.query.to ?? '');
  return to === '' ? '' : `?to=${encodeURIComponent(to)}`;
}

function peopleToTry({ people, password }: Trying): Markup[] {
  return [
    element('h2', { class: 'heading' }, ['People to sign in as']),
    element('p', {}, ['Their password is ', element('code', {}, [password]), '.']),
    element(
      'ul',
      {},
      people.map(({ email, kind }) => element('li', {}, [element('code', {}, [email]), ` — ${kind}`])),
    ),
  ];
}
