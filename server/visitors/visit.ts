import type { Request, Response } from 'express';
import type { Values } from '../../core/attributes/attribute.ts';
import { nextRecord, type VisitRecord, visitOf, visitRecordSchema } from '../../core/visits/visit.ts';
import type { LiveSite } from '../snapshots/live.ts';
import { visitorOf } from './visitor.ts';

const cookieName = 'porch_visit';
const year = 365 * 24 * 3600 * 1000;

/**
 * What the request tells of the visit, as far as the live release asks for it; nothing is remembered in the visitor's
 * browser unless the release asks for something that needs it.
 */
export function visitFor(request: Request, response: Response, live: LiveSite, item?: string): Values {
  const record = recordOf(request, live, item);
  if (record)
    response.cookie(cookieName, Buffer.from(JSON.stringify(record)).toString('base64url'), {
      path: '/site',
      httpOnly: true,
      sameSite: 'lax',
      secure: request.secure,
      maxAge: year,
    });
  return visitOfRequest(request, live, record, item);
}

/** What is remembered of the visitor from this request on; undefined where the release needs nothing remembered. */
function recordOf(request: Request, { current }: LiveSite, item?: string): VisitRecord | undefined {
  if (!current?.remembers || current.asksOfVisit.size === 0) return undefined;
  return nextRecord(readRecord(visitorOf(request).cookies[cookieName]), Date.now(), item);
}

/** The same without remembering anything. */
export function visitOfRequest(
  request: Request,
  live: LiveSite,
  record = recordOf(request, live),
  item?: string,
): Values {
  const { current } = live;
  if (!current || current.asksOfVisit.size === 0) return {};
  const { asksOfVisit, snapshot } = current;
  const { cookies } = visitorOf(request);
  return visitOf(
    {
      url: request.originalUrl,
      headers: agentHeaders(request),
      address: request.ip ?? '',
      cookies,
      record,
      ...(item !== undefined && { item }),
    },
    snapshot.attributes,
    asksOfVisit,
  );
}

/** A record that somebody changed by hand into something else is begun anew. */
function readRecord(text: string | undefined): VisitRecord | undefined {
  if (!text || text.length > 4000) return undefined;
  try {
    return visitRecordSchema.safeParse(JSON.parse(Buffer.from(text, 'base64url').toString())).data;
  } catch {
    return undefined;
  }
}

/** What a request says of itself, of the program it comes from, and of the languages that its user reads. */
export function agentHeaders({ headers }: Request): { [name: string]: string | undefined } {
  return {
    host: headers.host,
    referer: headers.referer,
    'user-agent': headers['user-agent'],
    'accept-language': headers['accept-language'],
    'sec-ch-ua': oneOf(headers['sec-ch-ua']),
    'sec-ch-ua-mobile': oneOf(headers['sec-ch-ua-mobile']),
    'sec-ch-ua-platform': oneOf(headers['sec-ch-ua-platform']),
  };
}

function oneOf(header: string | string[] | undefined): string | undefined {
  return Array.isArray(header) ? header.join(', ') : header;
}
