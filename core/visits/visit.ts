import { z } from 'zod';
import type { Attribute, Values } from '../attributes/attribute.ts';
import { readLanguages } from '../attributes/languages.ts';
import { readAddress } from '../attributes/networks.ts';
import { longestText } from '../attributes/parse.ts';
import { readAgent } from './agent.ts';
import { originOf } from './origin.ts';
import { placeOf } from './places.ts';

/** What is remembered of a visitor from page to page; kept by the visitor's own browser. */
export const visitRecordSchema = z.object({
  visits: z.number().int().min(1).max(1_000_000),
  /** Pages seen in this visit. */
  pages: z.number().int().min(0).max(1_000_000),
  /** When this visit began and when it was last heard of, in milliseconds since 1970 UTC. */
  began: z.number(),
  seen: z.number(),
  /** Views of items by their id, the latest last. */
  items: z.record(z.string().max(64), z.number().int().min(1)),
});
export type VisitRecord = z.infer<typeof visitRecordSchema>;

/** Without a page for so long, the next one begins another visit (common practice, no source). */
export const visitEnds = 30 * 60 * 1000;
const mostItems = 40;

/** The record after one more page at a moment; `item` is what the page shows, if it shows one. */
export function nextRecord(record: VisitRecord | undefined, now: number, item?: string): VisitRecord {
  const goesOn = record !== undefined && now - record.seen < visitEnds && now >= record.seen;
  const items = { ...record?.items };
  if (item !== undefined) {
    const views = (items[item] ?? 0) + 1;
    delete items[item];
    items[item] = views;
  }
  return {
    visits: record ? record.visits + (goesOn ? 0 : 1) : 1,
    pages: (goesOn ? record.pages : 0) + 1,
    began: goesOn ? record.began : now,
    seen: now,
    items: Object.fromEntries(Object.entries(items).slice(-mostItems)),
  };
}

export interface PageRequest {
  /** Path and query, `/guides/moon?utm_source=almanac`. */
  readonly url: string;
  /** By lower-case name. */
  readonly headers: { readonly [name: string]: string | undefined };
  readonly address: string;
  readonly cookies: { readonly [name: string]: string | undefined };
  /** The record with this page in it; undefined where nothing is remembered. */
  readonly record: VisitRecord | undefined;
  readonly item?: string;
}

/**
 * The values of the visit's attributes that a page request tells, by attribute id. A bot has none, so that it gets what
 * anybody gets.
 *
 * @param attributes the organisation's own, of which those of the visit read a query parameter or a cookie
 */
export function visitOf(request: PageRequest, attributes: readonly Attribute[]): Values {
  const { headers, record } = request;
  const agent = readAgent(headers);
  if (agent.isBot) return {};
  const [path = '/', queryText = ''] = request.url.slice(0, 8000).split(/\?(.*)/s);
  const query = new URLSearchParams(queryText);
  const ownHost = (headers.host ?? '').replace(/:\d+$/, '').replace(/^www\./, '');
  const origin = originOf(headers.referer, query, ownHost);
  const address = readAddress(request.address);
  const place = placeOf(request.address);
  const languages = readLanguages(headers['accept-language'] ?? '');
  const own = attributes.flatMap((attribute): [string, string | undefined][] => {
    if (attribute.source !== 'visit' || attribute.type !== 'text' || !attribute.reads) return [];
    const { from, name } = attribute.reads;
    return [[attribute.id, text(from === 'query' ? query.get(name) : request.cookies[name])]];
  });
  return {
    ...Object.fromEntries(own),
    'visit-device': agent.device,
    'visit-browser': agent.browser,
    'visit-system': agent.system,
    'visit-language': languages.length > 0 ? languages : undefined,
    'visit-address': address,
    'visit-country': place?.country,
    'visit-region': place?.region,
    'visit-came-by': origin.cameBy,
    'visit-referrer': origin.host,
    'visit-campaign': text(query.get('utm_campaign')),
    'visit-campaign-source': text(query.get('utm_source')),
    'visit-campaign-medium': text(query.get('utm_medium')),
    'visit-campaign-term': text(query.get('utm_term')),
    'visit-campaign-content': text(query.get('utm_content')),
    'visit-path': decodedPath(path),
    'visit-pages': record?.pages,
    'visit-count': record?.visits,
    'visit-returning': record && record.visits > 1,
    'visit-item-views': request.item === undefined ? undefined : record?.items[request.item],
    'visit-seconds': record && Math.floor((record.seen - record.began) / 1000),
  };
}

function text(value: string | null | undefined): string | undefined {
  return value ? value.slice(0, longestText) : undefined;
}

/** The path as people write it, or as it came where its escapes are broken. */
function decodedPath(path: string): string {
  try {
    return decodeURIComponent(path);
  } catch {
    return path;
  }
}
