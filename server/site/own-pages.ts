import type { NextFunction, Request, Response } from 'express';
import type { Logger } from 'pino';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { Facts, type Viewer } from '../../core/attributes/viewer.ts';
import { type OwnPage, unsetSettings } from '../../core/deciding/release.ts';
import { Flat } from '../../core/rendering/flatten.ts';
import { element, emptyContext, type Markup } from '../../core/rendering/markup.ts';
import { ownWords } from '../../core/rendering/own-pages.ts';
import { siteDocument, siteFrame } from '../../core/rendering/page.ts';
import { asRefusal } from '../http/guards.ts';
import { isUnreachable } from '../store/reach.ts';
import type { Site } from './site.ts';

// Pages of the server's own in the site's frame.

const nobody: Viewer = { contact: null, signedIn: false, visit: {}, item: null, instant: 0 };

/** The title of one of the site's own pages, and the heading and text that it begins with. */
export function beginningOf(site: Site, page: OwnPage): { title: string; beginning: Markup[] } {
  const { title, text } = ownWords(site.live.current?.snapshot.settings ?? unsetSettings, page);
  const paragraphs = text.split(/\n+/).filter((paragraph) => paragraph.trim() !== '');
  return {
    title,
    beginning: [
      element('h1', { class: 'heading' }, [title]),
      ...paragraphs.map((paragraph) => element('p', {}, [paragraph])),
    ],
  };
}

/** Sends a page of the server's own as a viewer gets the frame around it. */
export function sendOwnPage(
  site: Site,
  response: Response,
  status: number,
  title: string,
  body: Markup[],
  viewer: Viewer = nobody,
): void {
  const { current } = site.live;
  const decider = current?.compiled.decider;
  const snapshot = current?.snapshot;
  const catalogue = decider?.catalogue ?? new Catalogue([], 'UTC');
  const settings = snapshot?.settings ?? unsetSettings;
  const pages = snapshot?.documents.filter(({ kind, collection }) => kind === 'page' && !collection) ?? [];
  const { assets } = site.live;
  const frame = siteFrame([element('div', { class: 'site-own' }, body)], { settings, catalogue, pages });
  const flat = new Flat(
    [siteDocument([`${title} · ${settings.name}`], frame, { settings, assets })],
    catalogue,
    'html',
  );
  const facts = decider?.facts(viewer) ?? Facts.of([], 0);
  const html = flat.join({
    ...emptyContext,
    facts,
    choices: new Int8Array(0),
    instant: viewer.instant,
    mayOpen: (address) => current?.compiled.pages.mayOpen(address, viewer) ?? true,
    isIn: (audience) => decider?.contains(audience, facts) ?? false,
  });
  response.status(status).type('html').send(`<!doctype html>\n${html}`);
}

export function sendNotFound(site: Site, response: Response, viewer: Viewer = nobody): void {
  const { current } = site.live;
  const own = current?.snapshot.settings.notFoundPage;
  const answer = own ? current.compiled.pages.named(own, viewer) : undefined;
  if (answer?.kind === 'page') {
    response.status(404).type('html').send(answer.html);
    return;
  }
  if (current) {
    const { title, beginning } = beginningOf(site, 'not-found');
    sendOwnPage(site, response, 404, title, [...beginning, homeButton()], viewer);
    return;
  }
  sendOwnPage(site, response, 404, 'Not open yet', [
    element('h1', { class: 'heading' }, ['This site opens soon']),
    element('p', {}, ['Its first pages have not been released yet.']),
  ]);
}

/** What goes wrong on the site is told people in its own looks, and programs as data; what it was stands in the log. */
export function siteTroubles(site: Site, log: Logger) {
  return (error: unknown, request: Request, response: Response, next: NextFunction): void => {
    if (response.headersSent || request.accepts(['html', 'json']) !== 'html') {
      next(error);
      return;
    }
    const refusal = asRefusal(error);
    if (refusal?.status === 404) sendNotFound(site, response);
    else if (refusal) sendOwnPage(site, response, refusal.status, 'Not possible', trouble(refusal.message));
    else {
      const isOut = isUnreachable(error);
      if (isOut)
        log.warn(
          { request: request.id, path: request.path },
          'a page could not be sent without the database',
        );
      else log.error({ err: error, request: request.id, path: request.path }, 'a page could not be sent');
      if (isOut) response.set('Retry-After', '10');
      const message = 'Please try again in a minute.';
      sendOwnPage(site, response, isOut ? 503 : 500, 'Please wait a moment', trouble(message));
    }
  };
}

function trouble(message: string): Markup[] {
  return [element('h1', { class: 'heading' }, ['That didn’t work']), element('p', {}, [message])];
}

function homeButton(): Markup {
  return element('p', {}, [element('a', { class: 'button', href: '/site/' }, ['Go to the home page'])]);
}

/** For who is signed in, and may still not open something. */
export function sendClosed(site: Site, response: Response, viewer: Viewer): void {
  const { title, beginning } = beginningOf(site, 'closed');
  sendOwnPage(site, response, 403, title, [...beginning, homeButton()], viewer);
}
