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

/** Begins to load the screen at a path, so that it is there as soon as the rest is. */
export function beginScreen(path: string): void {
  const wanted = path.replace(/^\/|\/$/g, '') || firstPlace;
  const isAt = (place: string) => new RegExp(`^${place.replace(/:id/, '[^/]+')}$`).test(wanted);
  const [, load] = screens.find(([place]) => isAt(place)) ?? [];
  // One that can't be loaded says so where it is opened.
  load?.().catch(() => undefined);
}
