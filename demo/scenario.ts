import type { SiteSettings } from '../core/deciding/release.ts';

export { demoAttributes } from './attributes.ts';
export { demoAudiences } from './audiences.ts';
export { demoDocuments } from './documents.ts';
export { demoPeople, demoSiteAccounts, demoSitePassword } from './people.ts';

export const demoSettings: SiteSettings = {
  name: 'Quillmere Observatory',
  zone: 'Europe/London',
  locale: 'en-GB',
  postalAddress: '1 Dome Lane, Quillmere QM1 0AA',
  fromAddress: 'almanac@example.org',
};

/** The team account of a demo instance. */
export const demoAccount = { email: 'maya@example.org', password: 'look-up-tonight', name: 'Maya Brook' };

export const demoSize = 2400;
export const demoSeed = 20_261_124;

/** Words for the drawings of the library, offered as alternative text. */
export const demoPictures: { name: string; alt: string }[] = [
  { name: 'moon', alt: 'The Moon over dark hills' },
  { name: 'dome', alt: 'The dome with its shutter open' },
  { name: 'double-cluster', alt: 'Two clusters of stars' },
  { name: 'star-chart', alt: 'A star chart' },
  { name: 'frost-lens', alt: 'A frosted lens' },
  { name: 'telescope', alt: 'A telescope on a hill at dusk' },
  { name: 'comet', alt: 'A comet over dark hills' },
  { name: 'lanterns', alt: 'People with lanterns on a hill' },
];
