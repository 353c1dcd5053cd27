import type { Request, Response } from 'express';
import type { Viewer } from '../../core/attributes/viewer.ts';
import { isBotAgent } from '../../core/visits/agent.ts';
import type { SharedCounts } from '../http/limit-rows.ts';
import type { Metrics } from '../http/metrics.ts';
import type { UnsubscribeTokens } from '../mail/unsubscribe.ts';
import type { People } from '../people/people.ts';
import type { LiveSite } from '../snapshots/live.ts';
import { answersCookie, type SealedAnswers } from '../visitors/answers.ts';
import type { KnownTokens } from '../visitors/known.ts';
import { visitFor, visitOfRequest } from '../visitors/visit.ts';
import { knownCookie, visitorOf } from '../visitors/visitor.ts';
import type { ItemViews } from './item-views.ts';

export interface Trying {
  readonly people: readonly { readonly email: string; readonly kind: string }[];
  readonly password: string;
}

/** What the live site serves from. */
export interface Site {
  readonly live: LiveSite;
  readonly people: People;
  readonly tokens: UnsubscribeTokens;
  readonly known: KnownTokens;
  readonly answers: SealedAnswers;
  readonly views: ItemViews;
  readonly counts: SharedCounts;
  readonly metrics: Metrics;
  /** People that anybody may sign in as, on an instance that is there to be tried. */
  readonly trying: Trying | undefined;
}

/** The contact that a request comes from, signed in or recognised; undefined for anybody else, and for a bot. */
export function contactOf({ known }: Site, request: Request): { id: number; signedIn: boolean } | undefined {
  const { cookies, signedIn } = visitorOf(request);
  const id = signedIn ?? known.read('link', cookies[knownCookie], Date.now());
  return id === undefined || isBot(request) ? undefined : { id, signedIn: signedIn !== undefined };
}

/**
 * Whom a request is answered for. A bot is anonymous, and has no visit.
 *
 * @param itemFor the item that is opened, if any, by whoever it is as far as the visit without it tells
 */
export async function viewerOf(
  site: Site,
  request: Request,
  response: Response,
  itemFor?: (viewer: Viewer) => string | undefined,
): Promise<Viewer> {
  const contact = contactOf(site, request);
  const person = contact && (await site.people.get(contact.id));
  const viewer: Viewer = {
    contact: person?.values ?? answersOf(site, request),
    signedIn: person !== undefined && contact?.signedIn === true,
    visit: {},
    item: null,
    instant: Date.now(),
  };
  const opened = itemFor?.({ ...viewer, visit: visitOfRequest(request, site.live) });
  return { ...viewer, visit: visitFor(request, response, site.live, opened) };
}

/** The answers of a visitor who is not recognised, as a contact's values; null for no answers and for bots. */
function answersOf({ answers }: Site, request: Request): Viewer['contact'] {
  const own = answers.open(visitorOf(request).cookies[answersCookie], Date.now());
  return own && !isBot(request) ? { ...own.values, email: own.email } : null;
}

export function isBot(request: Request): boolean {
  return isBotAgent(request.headers['user-agent']);
}

/** Whether anything in a request tells one visitor from another for the site. */
export function hasSiteCookie(request: Request): boolean {
  return request.headers.cookie?.includes('porch_') ?? false;
}
