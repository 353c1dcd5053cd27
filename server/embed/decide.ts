import express, { type Request, type Response, Router } from 'express';
import type { z } from 'zod';
import { type DecideAnswer, decideRequestSchema, tokenRequestSchema } from '../../contract/decide.ts';
import { decisionsDescribed } from '../../contract/openapi.ts';
import type { Viewer } from '../../core/attributes/viewer.ts';
import { say } from '../../core/conditions/words.ts';
import { escapeHtml } from '../../core/rendering/escape.ts';
import { visitOf } from '../../core/visits/visit.ts';
import { parse } from '../http/parse.ts';
import { contactKnownBy } from '../people/contact-rows.ts';
import { Refusal } from '../refusal.ts';
import { isBot, type Site } from '../site/site.ts';
import { agentHeaders } from '../visitors/visit.ts';
import type { ApiKeys, KnownKey } from './api-keys.ts';

/**
 * Decisions for other sites and for programs. A browser’s call comes from a page of a site that its key is for, and can
 * say who comes only by a signed token; a server’s key may name anybody, and is refused from a browser.
 */
export function decideRouter(site: Site, keys: ApiKeys, origin: string): Router {
  const router = Router({ caseSensitive: true, strict: true });
  // As text, so that a browser asks at once, without a question beforehand (Fetch, 4.9: CORS-safelisted types).
  router.use(express.text({ type: ['text/plain', 'application/json'], limit: '200kb' }));

  router.post('/decide', async (request, response) => {
    const asked = parse(decideRequestSchema, bodyOf(request));
    const key = await admitted(keys, asked.key, request, response);
    const { current } = site.live;
    if (!current) throw new Refusal(404, 'Nothing is live yet.');
    const named = asked.person && !('token' in asked.person);
    if (!key.isSecret && (named || asked.signedIn || asked.reasons))
      throw new Refusal(403, 'A browser’s key can’t name a person, a sign-in or ask for reasons.');
    const viewer = await viewerFor(site, asked, request);
    response.set('Cache-Control', 'private, no-store').json(decide(site, asked, viewer, origin));
  });

  router.post('/tokens', async (request, response) => {
    const asked = parse(tokenRequestSchema, bodyOf(request));
    const key = await admitted(keys, asked.key, request, response);
    if (!key.isSecret) throw new Refusal(403, 'Only a server’s key makes tokens.');
    const id = (await contactKnownBy(asked.person))?.id;
    if (id === undefined) throw new Refusal(404, 'There is no such contact.');
    response.set('Cache-Control', 'no-store').json({
      token: site.known.make('decision', id, Date.now(), asked.seconds),
    });
  });

  router.get('/openapi.json', (_request, response) => {
    response.set('Cross-Origin-Resource-Policy', 'cross-origin').json(decisionsDescribed(origin));
  });
  return router;
}

/** A slot in a page of its own, for frames on other sites; it tells them how tall it is. */
export function frameRouter(site: Site, keys: ApiKeys): Router {
  const router = Router({ caseSensitive: true, strict: true });
  router.get('/:page/:slot', async (request, response) => {
    const key = await keys.find(String(request.query.key ?? ''));
    if (!key || key.isSecret) throw new Refusal(403, 'This key is not known.');
    const viewer = await viewerFor(
      site,
      {
        person: typeof request.query.viewer === 'string' ? { token: request.query.viewer } : null,
        signedIn: false,
        visit: { url: request.originalUrl, referrer: request.get('referer') ?? '' },
      },
      request,
    );
    const slot = site.live.current?.compiled.slots.get(
      `${request.params.page}/${request.params.slot}`,
      viewer,
    );
    if (!slot) throw new Refusal(404, 'There is no such slot.');
    // What slots are called is for the team; the page is called what the site is.
    const { locale, name } = site.live.current?.snapshot.settings ?? { locale: 'en', name: '' };
    response.removeHeader('X-Frame-Options');
    response
      .set({
        'Content-Security-Policy': `default-src 'self'; style-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors ${key.origins.join(' ')}`,
        'Cache-Control': 'private, no-store',
      })
      .type('html')
      .send(
        `<!doctype html>\n<html lang="${escapeHtml(locale)}"><head><meta charset="utf-8"><title>${escapeHtml(name)}</title><base target="_top"><link rel="stylesheet" href="${site.live.assets}/site.css"><link rel="stylesheet" href="/site/theme.css"><script src="${site.live.assets}/frame.js" defer></script></head><body class="framed"><div class="site"><main class="site-main">${slot.html}</main></div></body></html>`,
      );
  });
  return router;
}

function bodyOf(request: Request): unknown {
  try {
    return JSON.parse(typeof request.body === 'string' ? request.body : '');
  } catch {
    throw new Refusal(400, 'The body is not JSON.');
  }
}

/** The key of a call that may be made from where it comes; says to the browser that its page may read the answer. */
async function admitted(
  keys: ApiKeys,
  text: string,
  request: Request,
  response: Response,
): Promise<KnownKey> {
  const key = await keys.find(text);
  if (!key) throw new Refusal(401, 'This key is not known.');
  const from = request.get('origin');
  if (key.isSecret) {
    if (from !== undefined) throw new Refusal(403, 'A server’s key must not be used in a browser.');
    return key;
  }
  if (from === undefined || !key.origins.includes(from))
    throw new Refusal(403, 'This key is not for the site that asks.');
  response.set({
    'Access-Control-Allow-Origin': from,
    'Cross-Origin-Resource-Policy': 'cross-origin',
    Vary: 'Origin',
  });
  return key;
}

type Asked = Pick<z.infer<typeof decideRequestSchema>, 'person' | 'signedIn' | 'visit'>;

async function viewerFor(site: Site, { person, signedIn, visit }: Asked, request: Request): Promise<Viewer> {
  const id =
    person === null || isBot(request)
      ? undefined
      : 'token' in person
        ? site.known.read('decision', person.token, Date.now())
        : (await contactKnownBy(person))?.id;
  const contact = id === undefined ? undefined : await site.people.get(id);
  const headers = {
    ...agentHeaders(request),
    referer: visit.referrer === '' ? undefined : visit.referrer,
    host: request.get('origin')?.replace(/^https?:\/\//, ''),
  };
  const url =
    /^https?:\/\/[^/]*(\/.*)?$/.exec(visit.url)?.[1] ?? (visit.url.startsWith('/') ? visit.url : '/');
  return {
    contact: contact?.values ?? null,
    signedIn: contact !== undefined && signedIn,
    visit: visitOf(
      { url, headers, address: request.ip ?? '', cookies: {}, record: undefined },
      site.live.current?.snapshot.attributes ?? [],
      site.live.current?.asksOfVisit,
    ),
    item: null,
    instant: Date.now(),
  };
}

function decide(
  site: Site,
  asked: z.infer<typeof decideRequestSchema>,
  viewer: Viewer,
  origin: string,
): DecideAnswer {
  const { current } = site.live;
  if (!current) throw new Refusal(404, 'Nothing is live yet.');
  const { compiled, snapshot, release } = current;
  const { decider } = compiled;
  const names = new Map(snapshot.audiences.map(({ id, name }) => [id, name]));
  const slots: DecideAnswer['slots'] = {};
  const unknown: string[] = [];
  for (const key of new Set(asked.slots)) {
    const found = compiled.slots.get(key, viewer);
    if (!found) {
      unknown.push(key);
      continue;
    }
    slots[key] = {
      variant: found.variant,
      // On another site what stands here must be asked for by its whole address. Quotes in text are escaped.
      html: found.html.replace(/ (src|href|action)="\//g, ` $1="${escapeHtml(origin)}/`),
      ...(asked.reasons && {
        reasons: decider.trace(found.slot, decider.facts(viewer)).map(({ audience, holds, problem }) => ({
          audience: names.get(audience) ?? audience,
          holds,
          because: problem === undefined ? sayAudience(audience, current.snapshot, decider) : null,
        })),
      }),
    };
  }
  return { release, slots, unknown };
}

function sayAudience(
  id: string,
  { audiences }: NonNullable<Site['live']['current']>['snapshot'],
  { catalogue }: NonNullable<Site['live']['current']>['compiled']['decider'],
): string | null {
  const audience = audiences.find((one) => one.id === id);
  return audience
    ? say(audience.condition, catalogue, (other) => audiences.find((one) => one.id === other)?.name)
    : null;
}
