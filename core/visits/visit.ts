import { z } from 'zod';
import type { Attribute, Value, Values } from '../attributes/attribute.ts';
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
/** What stands behind so many characters of an address is not read. */
const longestUrl = 8000;

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
 * @param asked the attributes that will be asked for; nothing is read for others. All when not given
 */
export function visitOf(
  request: PageRequest,
  attributes: readonly Attribute[],
  asked?: ReadonlySet<string>,
): Values {
  const reading = new Reading(request);
  if (reading.agent.isBot) return {};
  const values: { [attribute: string]: Value | undefined } = {};
  for (const id of asked ?? builtIn.keys()) {
    const read = builtIn.get(id);
    if (read) values[id] = read(reading);
  }
  for (const attribute of attributes) {
    if (attribute.source !== 'visit' || attribute.type !== 'text' || !attribute.reads) continue;
    if (asked && !asked.has(attribute.id)) continue;
    const { from, name } = attribute.reads;
    values[attribute.id] = text(from === 'query' ? reading.query.get(name) : request.cookies[name]);
  }
  return values;
}

/** A request with what is read of it for several attributes, read once and only where it is asked for. */
class Reading {
  readonly agent;
  private readonly at: number;
  private queried: URLSearchParams | undefined;
  private came: ReturnType<typeof originOf> | undefined;
  private located: { place: ReturnType<typeof placeOf> } | undefined;

  constructor(readonly request: PageRequest) {
    this.agent = readAgent(request.headers);
    this.at = request.url.indexOf('?');
  }

  get path(): string {
    const { url } = this.request;
    return (this.at < 0 ? url : url.slice(0, this.at)).slice(0, longestUrl);
  }

  get query(): URLSearchParams {
    this.queried ??= new URLSearchParams(this.at < 0 ? '' : this.request.url.slice(this.at + 1, longestUrl));
    return this.queried;
  }

  get origin(): ReturnType<typeof originOf> {
    const { headers } = this.request;
    const ownHost = (headers.host ?? '').replace(/:\d+$/, '').replace(/^www\./, '');
    this.came ??= originOf(headers.referer, this.query, ownHost);
    return this.came;
  }

  get place(): ReturnType<typeof placeOf> {
    this.located ??= { place: placeOf(this.request.address) };
    return this.located.place;
  }
}

const builtIn = new Map<string, (reading: Reading) => Value | undefined>([
  ['visit-device', ({ agent }) => agent.device],
  ['visit-browser', ({ agent }) => agent.browser],
  ['visit-system', ({ agent }) => agent.system],
  ['visit-language', ({ request }) => languagesOf(request.headers['accept-language'])],
  ['visit-address', ({ request }) => readAddress(request.address)],
  ['visit-country', ({ place }) => place?.country],
  ['visit-region', ({ place }) => place?.region],
  ['visit-came-by', ({ origin }) => origin.cameBy],
  ['visit-referrer', ({ origin }) => origin.host],
  ['visit-campaign', ({ query }) => text(query.get('utm_campaign'))],
  ['visit-campaign-source', ({ query }) => text(query.get('utm_source'))],
  ['visit-campaign-medium', ({ query }) => text(query.get('utm_medium'))],
  ['visit-campaign-term', ({ query }) => text(query.get('utm_term'))],
  ['visit-campaign-content', ({ query }) => text(query.get('utm_content'))],
  ['visit-path', ({ path }) => decodedPath(path)],
  ['visit-pages', ({ request }) => request.record?.pages],
  ['visit-count', ({ request }) => request.record?.visits],
  ['visit-returning', ({ request: { record } }) => record && record.visits > 1],
  [
    'visit-item-views',
    ({ request: { item, record } }) => (item === undefined ? undefined : record?.items[item]),
  ],
  ['visit-seconds', ({ request: { record } }) => record && Math.floor((record.seen - record.began) / 1000)],
]);

function languagesOf(header: string | undefined): string[] | undefined {
  const languages = readLanguages(header ?? '');
  return languages.length > 0 ? languages : undefined;
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
