import type { Value } from '../core/attributes/attribute.ts';
import { isoDate } from '../core/attributes/calendar.ts';
import { Random } from './random.ts';

export interface DemoPerson {
  email: string;
  values: { [attribute: string]: Value };
  hasAccount: boolean;
}

const given = [
  'Ada',
  'Bram',
  'Cleo',
  'Dario',
  'Edda',
  'Femi',
  'Greta',
  'Hugo',
  'Ida',
  'Jonas',
  'Kaia',
  'Leif',
  'Mina',
  'Nils',
  'Oona',
  'Pascal',
  'Quinn',
  'Rosa',
  'Silas',
  'Tilda',
  'Umar',
  'Vera',
  'Wanda',
  'Xenia',
  'Yusuf',
  'Zora',
  'Anouk',
  'Bela',
  'Chidi',
  'Dunja',
  'Emil',
  'Farah',
  'Gideon',
  'Hana',
  'Ivo',
  'Juno',
  'Kofi',
  'Lotte',
  'Malik',
  'Nadia',
  'Odile',
  'Piet',
  'Rafael',
  'Suki',
  'Thora',
  'Ulla',
  'Viggo',
  'Wren',
  'Yael',
  'Zeno',
  'Amara',
  'Björn',
  'Élise',
  'Nuño',
  'Zoë',
] as const satisfies [string, ...string[]];
const family = [
  'Arkwell',
  'Brindle',
  'Coldwater',
  'Dunmore',
  'Eastley',
  'Farrowdale',
  'Greenhalt',
  'Harkness',
  'Inkpen',
  'Jessop',
  'Kestrel',
  'Lindqvist',
  'Mosswood',
  'Netherby',
  'Oakhanger',
  'Pendrell',
  'Quarry',
  'Ravenhall',
  'Stillwater',
  'Thistlewood',
  'Underhill',
  'Vantongeren',
  'Wetherby',
  'Yarrow',
  'Zellweg',
  'Abara',
  'Bellacourt',
  'Castellane',
  'Dahlström',
  'Eskola',
  'Fontanel',
  'Grisewood',
  'Holloway',
  'Imber',
  'Jarrahdale',
  'Kowalik',
  'Lacewing',
  'Marchetti',
  'Nakagami',
  'Osei',
] as const satisfies [string, ...string[]];
const homeTowns = [
  'Larkhaven',
  'Stonebarrow',
  'Fennick Cross',
  'Ashwold',
  'Merrow Bay',
  'Tarnley',
  'Oxmoor Green',
] as const;
const awayTowns = [
  'Sankt Veltlin',
  'Bruckental',
  'Vieuxpré',
  'Port-Lunaire',
  'Villacielo',
  'Monteluz',
] as const;
const countryOf: { [town: string]: [country: string, language: string] } = {
  'Sankt Veltlin': ['Austria', 'german'],
  Bruckental: ['Germany', 'german'],
  Vieuxpré: ['France', 'french'],
  'Port-Lunaire': ['France', 'french'],
  Villacielo: ['Spain', 'spanish'],
  Monteluz: ['Spain', 'spanish'],
};
const telescopes = [
  '6-inch Dobsonian',
  '80 mm refractor',
  '8-inch reflector',
  'binoculars',
  'none yet',
] as const;

interface Cast {
  first: string;
  last: string;
  values: { [attribute: string]: Value };
  renewsIn?: number;
}

/** People of the scenario who are met by name; those with an account can be signed in as on the demo site. */
const cast: Cast[] = [
  {
    first: 'Ines',
    last: 'Marlow',
    values: {
      tier: 'twilight',
      plan: 'almanac-print',
      roles: ['member'],
      stage: 'member',
      city: 'Larkhaven',
      visits: 6,
      orders: 4,
    },
    renewsIn: 140,
  },
  {
    first: 'Tobias',
    last: 'Orrin',
    values: {
      tier: 'dusk',
      plan: 'almanac-digital',
      roles: ['member'],
      stage: 'member',
      city: 'Tarnley',
      visits: 2,
      orders: 1,
    },
    renewsIn: 210,
  },
  {
    first: 'Noor',
    last: 'Vale',
    values: {
      tier: 'midnight',
      plan: 'almanac-print',
      roles: ['member', 'volunteer-guide'],
      stage: 'patron',
      city: 'Stonebarrow',
      visits: 14,
      orders: 9,
    },
    renewsIn: 75,
  },
  {
    first: 'Ruth',
    last: 'Pellow',
    values: { stage: 'newcomer', city: 'Ashwold', visits: 1, tags: ['family'], lists: ['newsletter'] },
  },
  {
    first: 'Yara',
    last: 'Addo-Finch',
    values: {
      tier: 'twilight',
      plan: 'almanac-digital',
      roles: ['member'],
      stage: 'member',
      city: 'Merrow Bay',
      visits: 5,
      orders: 3,
    },
    renewsIn: 22,
  },
  {
    first: 'Dean',
    last: 'Hallow',
    values: { roles: ['staff'], stage: 'member', city: 'Quillmere', visits: 40 },
  },
  {
    first: 'Petra',
    last: 'Kolm',
    values: {
      tier: 'dusk',
      plan: 'almanac-print',
      roles: ['member'],
      stage: 'member',
      city: 'Oxmoor Green',
      visits: 4,
      lists: ['newsletter', 'telescope-night-waitlist'],
    },
    renewsIn: 10,
  },
];

/** Emails of the five people listed on the demo site's sign-in page: one of each kind. */
export const demoSiteAccounts: { email: string; kind: string }[] = [
  { email: 'tobias.orrin@example.org', kind: 'Dusk member' },
  { email: 'ines.marlow@example.org', kind: 'Twilight member' },
  { email: 'noor.vale@example.org', kind: 'Midnight member' },
  { email: 'yara.addo-finch@example.org', kind: 'Twilight member about to renew' },
  { email: 'ruth.pellow@example.org', kind: 'signed in, no membership' },
];
export const demoSitePassword = 'porch-light';

/**
 * The demo's contacts, the same for the same seed and day. About one value in eight is missing.
 *
 * @param today the local day number that dates are laid around
 */
export function demoPeople(count: number, seed: number, today: number): DemoPerson[] {
  const random = new Random(seed);
  const people = cast.map((member): DemoPerson => {
    const email = `${member.first}.${member.last}@example.org`.toLowerCase();
    const values: DemoPerson['values'] = {
      'first-name': member.first,
      'last-name': member.last,
      country: 'United Kingdom',
      language: 'english',
      ...member.values,
      joined: isoDate(today - random.between(90, 2000)),
    };
    if (member.renewsIn !== undefined) values.renewal = isoDate(today + member.renewsIn);
    return { email, values, hasAccount: true };
  });
  while (people.length < count) people.push(somebody(random, people.length, today));
  return people;
}

function somebody(random: Random, number: number, today: number): DemoPerson {
  const first = random.pick(given);
  const last = random.pick(family);
  const place = random.chance(0.82) ? random.pick(homeTowns) : random.pick(awayTowns);
  const [country, language] = countryOf[place] ?? ['United Kingdom', 'english'];
  const luck = random.next();
  const tier = luck < 0.3 ? 'dusk' : luck < 0.5 ? 'twilight' : luck < 0.59 ? 'midnight' : undefined;
  const values: DemoPerson['values'] = { city: place, country, language };
  values['first-name'] = first;
  values['last-name'] = last;
  const roles: string[] = [];
  if (tier) {
    values.tier = tier;
    values.plan = random.chance(0.6) ? 'almanac-digital' : 'almanac-print';
    values.stage = random.chance(0.12) ? 'patron' : 'member';
    values.renewal = isoDate(today + random.between(-20, 345));
    roles.push('member');
  } else values.stage = random.pick(['newcomer', 'enquirer', 'enquirer', 'lapsed']);
  if (random.chance(0.03)) roles.push('volunteer-guide');
  if (random.chance(0.05)) roles.push('educator');
  if (random.chance(0.016)) roles.push('staff');
  if (roles.length > 0) values.roles = roles;
  const lists = [
    ...(random.chance(0.7) ? ['newsletter'] : []),
    ...(random.chance(0.12) ? ['telescope-night-waitlist'] : []),
    ...(random.chance(0.06) ? ['school-groups'] : []),
  ];
  if (lists.length > 0) values.lists = lists;
  const tags = [
    ...(random.chance(0.25) ? ['family'] : []),
    ...(random.chance(0.15) ? ['astrophotography'] : []),
    ...(random.chance(0.05) ? ['step-free-access'] : []),
    ...(random.chance(0.4) ? [random.pick(['moon', 'planets', 'deep-sky', 'sun'])] : []),
  ];
  if (tags.length > 0) values.tags = tags;
  values.visits = random.between(0, tier ? 14 : 4);
  values.orders = random.between(0, tier ? 8 : 3);
  if (random.chance(0.35)) values['last-gift'] = random.between(1, 40) * 5;
  values.joined = isoDate(today - random.between(1, 3000));
  values.telescope = random.pick(telescopes);
  if (random.chance(0.2)) values['referred-by'] = `${random.pick(given)} ${random.pick(family)}`;
  // Gaps as in real life; what makes somebody a member is known more often than the rest.
  for (const attribute of Object.keys(values)) {
    const gap =
      attribute === 'tier' ? 0 : attribute === 'first-name' || attribute === 'last-name' ? 0.016 : 0.125;
    if (random.chance(gap)) delete values[attribute];
  }
  const plain = `${first}.${last}`
    .toLowerCase()
    .normalize('NFD')
    .replace(/[^a-z.]/g, '');
  return {
    email: `${plain}.${number}@${random.chance(0.7) ? 'example.org' : 'example.com'}`,
    values,
    hasAccount: random.chance(tier ? 0.85 : 0.3),
  };
}
