import type { OwnPage, OwnPageWords, SiteSettings } from '../deciding/release.ts';

/** What the site's own pages say where the settings say nothing else. */
export const usualWords: { readonly [Page in OwnPage]: OwnPageWords } = {
  'sign-in': { title: 'Sign in', text: '' },
  closed: {
    title: 'You don’t have access to this page',
    text: 'Your account doesn’t include it. Nothing is wrong with your sign-in.',
  },
  'not-found': {
    title: 'Page not found',
    text: 'The address may be wrong, or the page may have moved.',
  },
  search: { title: 'Search', text: '' },
  unsubscribe: { title: 'Unsubscribe', text: '' },
  unsubscribed: { title: 'You are unsubscribed', text: '' },
};

/** What one of the site's own pages says. */
export function ownWords({ ownPages }: Pick<SiteSettings, 'ownPages'>, page: OwnPage): OwnPageWords {
  return ownPages?.[page] ?? usualWords[page];
}
