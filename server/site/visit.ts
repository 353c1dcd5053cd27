import { parse } from 'cookie';
import type { Request, Response } from 'express';
import type { Values } from '../../core/attributes/attribute.ts';
import { nextRecord, type VisitRecord, visitOf, visitRecordSchema } from '../../core/visits/visit.ts';
import type { LiveSite } from './live.ts';

const cookieName = 'porch_visit';
const year = 365 * 24 * 3600 * 1000;
/** Attributes that need something to be remembered from page to page. */
const remembered = ['visit-pages', 'visit-count', 'visit-returning', 'visit-item-views', 'visit-seconds'];

/**
 * What the request tells of the visit, as far as the live release asks for it; nothing is remembered in the visitor's
 * browser unless the release asks for something that needs it.
 */
export function visitFor(request: Request, response: Response, { current }: LiveSite, item?: string): Values {
  if (!current) return {};
  const { decider, snapshot } = current.compiled;
  const asked = [...decider.asked].filter((id) => decider.catalogue.get(id)?.source === 'visit');
  if (asked.length === 0) return {};
  const cookies = parse(request.headers.cookie ?? '');
  const record = remembered.some((id) => decider.asked.has(id))
    ? nextRecord(readRecord(cookies[cookieName]), Date.now(), item)
    : undefined;
  if (record)
    response.cookie(cookieName, Buffer.from(JSON.stringify(record)).toString('base64url'), {
      path: '/site',
      httpOnly: true,
      sameSite: 'lax',
      maxAge: year,
    });
  return visitOf(
    {
      url: request.originalUrl,
      headers: singleHeaders(request),
      address: request.ip ?? '',
      cookies,
      record,
      ...(item !== undefined && { item }),
    },
    snapshot.attributes,
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

function singleHeaders({ headers }: Request): { [name: string]: string | undefined } {
  return Object.fromEntries(
    Object.entries(headers).map(([name, value]) => [name, Array.isArray(value) ? value.join(', ') : value]),
  );
}
