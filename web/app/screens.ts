/** The screens by their places; each is loaded when it is opened first. */
export const screens = [
  ['people', () => import('../screens/people/people.tsx')],
  ['people/import', () => import('../screens/import/import.tsx')],
  ['people/import/:id', () => import('../screens/import/import.tsx')],
  ['people/attributes', () => import('../screens/attributes/attributes.tsx')],
  ['people/attributes/:id', () => import('../screens/attributes/attributes.tsx')],
  ['people/facts', () => import('../screens/facts/facts.tsx')],
  ['people/sync', () => import('../screens/crm/crm.tsx')],
  ['people/:id', () => import('../screens/contact/contact.tsx')],
  ['audiences', () => import('../screens/audiences/audiences.tsx')],
  ['audiences/compare', () => import('../screens/audiences/compare.tsx')],
  ['audiences/:id', () => import('../screens/audiences/audience.tsx')],
  ['pages', () => import('../screens/documents/pages.tsx')],
  ['emails', () => import('../screens/documents/emails.tsx')],
  ['pages/:id', () => import('../screens/documents/editor.tsx')],
  ['emails/:id', () => import('../screens/documents/editor.tsx')],
  ['shared', () => import('../screens/documents/shared.tsx')],
  ['shared/:id', () => import('../screens/documents/editor.tsx')],
  ['collections', () => import('../screens/collections/collections.tsx')],
  ['collections/:id', () => import('../screens/collections/collection.tsx')],
  ['media', () => import('../screens/pictures/pictures.tsx')],
  ['site-settings', () => import('../screens/site/settings.tsx')],
  ['other-sites', () => import('../screens/site/other-sites.tsx')],
  ['lineup', () => import('../screens/lineup/lineup.tsx')],
  ['lineup/:id', () => import('../screens/lineup/lineup.tsx')],
  ['activity', () => import('../screens/activity/activity.tsx')],
  ['releases', () => import('../screens/releases/releases.tsx')],
  ['mailbox', () => import('../screens/mailbox/mailbox.tsx')],
  ['mailbox/:id', () => import('../screens/mailbox/mailbox.tsx')],
] as const;

/** Where the studio opens. */
export const firstPlace = 'people';

/** Starts loading the screen at a path, in parallel with everything else that is loaded. */
export function beginScreen(path: string): void {
  const wanted = placeOf(path);
  const isAt = (place: string) => new RegExp(`^${place.replace(/:id/, '[^/]+')}$`).test(wanted);
  const [, load] = screens.find(([place]) => isAt(place)) ?? [];
  // A screen that fails to load says so where it is opened.
  load?.().catch(() => undefined);
}

/**
 * The requests without which the screen at an address shows nothing, in the order in which it needs them: for the two
 * screens that are opened most.
 */
export function firstRequests({ pathname, search }: { pathname: string; search: string }): readonly string[] {
  const wanted = placeOf(pathname);
  if (wanted === 'people' && search === '')
    return [
      '/api/contacts?search=&sort=name&direction=up&page=0',
      '/api/attributes',
      '/api/settings',
      '/api/audiences',
    ];
  const [, document] = /^(?:pages|emails)\/([^/]+)$/.exec(wanted) ?? [];
  if (document === undefined) return [];
  return [
    `/api/documents/${document}`,
    '/api/attributes',
    '/api/settings',
    '/api/audiences',
    '/api/library',
    '/api/documents/shared',
    '/api/documents',
    '/site-assets/site.css',
  ];
}

function placeOf(path: string): string {
  return path.replace(/^\/|\/$/g, '') || firstPlace;
}
