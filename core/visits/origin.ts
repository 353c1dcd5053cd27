/** Kinds of places that visitors come from, as the ids of the built-in choices. */
export type CameBy = 'direct' | 'own-site' | 'search' | 'social' | 'email' | 'advert' | 'another-site';

/** Hosts by kind; a host counts with everything under it. Names that end with a dot stand for any country's. */
export const knownHosts: { readonly [kind in 'search' | 'social' | 'email']: readonly string[] } = {
  search: [
    'google.',
    'bing.com',
    'duckduckgo.com',
    'ecosia.org',
    'qwant.com',
    'startpage.com',
    'yandex.',
    'baidu.com',
    'search.yahoo.com',
  ],
  social: [
    'facebook.com',
    'instagram.com',
    'linkedin.com',
    'reddit.com',
    'pinterest.',
    'x.com',
    't.co',
    'youtube.com',
    'tiktok.com',
    'bsky.app',
    'mastodon.social',
  ],
  email: ['mail.google.com', 'outlook.live.com', 'outlook.office.com', 'mail.yahoo.com', 'mail.proton.me'],
};
/** Campaign media (utm_medium) by kind. */
export const knownMedia: { readonly [medium: string]: CameBy } = {
  cpc: 'advert',
  ppc: 'advert',
  cpm: 'advert',
  paid: 'advert',
  'paid-search': 'advert',
  'paid-social': 'advert',
  display: 'advert',
  banner: 'advert',
  email: 'email',
  newsletter: 'email',
  social: 'social',
  organic: 'search',
};
/** Parameters that advertisers put on the address of a click. */
export const clickParameters: readonly string[] = ['gclid', 'msclkid', 'dclid', 'wbraid', 'gbraid'];

/**
 * What kind of place a visitor came from, and its host: by what the campaign says, by an advertiser's parameter, or by
 * the referring address; without any of them directly.
 *
 * @param ownHost the site's own host name
 */
export function originOf(
  referrer: string | undefined,
  query: URLSearchParams,
  ownHost: string,
): { cameBy: CameBy; host: string | undefined } {
  const host = hostOf(referrer);
  const medium = knownMedia[(query.get('utm_medium') ?? '').toLowerCase()];
  if (medium) return { cameBy: medium, host };
  if (clickParameters.some((name) => query.has(name))) return { cameBy: 'advert', host };
  if (host === undefined) return { cameBy: 'direct', host };
  if (host === ownHost) return { cameBy: 'own-site', host };
  for (const kind of ['email', 'search', 'social'] as const)
    if (knownHosts[kind].some((known) => isUnder(host, known))) return { cameBy: kind, host };
  return { cameBy: 'another-site', host };
}

function hostOf(address: string | undefined): string | undefined {
  if (!address || address.length > 4000 || !URL.canParse(address)) return undefined;
  const { protocol, hostname } = new URL(address);
  return protocol === 'http:' || protocol === 'https:' ? hostname.replace(/^www\./, '') : undefined;
}

function isUnder(host: string, known: string): boolean {
  if (!known.endsWith('.')) return host === known || host.endsWith(`.${known}`);
  return host.startsWith(known) || host.includes(`.${known}`);
}
