import { itemAttributes } from '../core/collections/collection.ts';
import type { SiteSettings, Snapshot } from '../core/deciding/release.ts';
import { demoAttributes } from './attributes.ts';
import { demoAudiences } from './audiences.ts';
import { demoCollections, demoItems } from './collections.ts';
import { demoDocuments } from './documents.ts';

export { demoAttributes } from './attributes.ts';
export { demoAudiences } from './audiences.ts';
export { demoCollections, demoFiles, demoItems } from './collections.ts';
export { demoDocuments } from './documents.ts';
export { demoPeople, demoSiteAccounts, demoSitePassword } from './people.ts';

export const demoSettings: SiteSettings = {
  name: 'Quillmere Observatory',
  zone: 'Europe/London',
  locale: 'en-GB',
  postalAddress: '1 Dome Lane, Quillmere QM1 0AA',
  fromAddress: 'almanac@example.org',
  menu: ['membership', 'sky-guides', 'shop', 'survey'],
};

/** The team accounts of a demo instance; the second is for trying what two people at once do. */
export const demoAccount = { email: 'maya@example.org', password: 'look-up-tonight', name: 'Maya Brook' };
export const demoColleague = { email: 'theo@example.org', name: 'Theo Lund' };

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

/** Everything of the demo that is released when it is loaded. */
export const demoSnapshot: Snapshot = {
  settings: demoSettings,
  attributes: [...demoAttributes, ...itemAttributes(demoCollections)],
  audiences: demoAudiences,
  documents: demoDocuments,
  facts: [],
  collections: demoCollections,
  items: demoItems,
};
