import type { Attribute, Choice } from '../core/attributes/attribute.ts';

function choices(...labels: string[]): Choice[] {
  return labels.map((label) => ({ id: label.toLowerCase().replace(/[^a-z0-9]+/g, '-'), label }));
}

const contact = { source: 'contact', description: '' } as const;

/** What Quillmere Observatory keeps about its people. */
export const demoAttributes: Attribute[] = [
  {
    ...contact,
    id: 'tier',
    type: 'choice',
    label: 'membership tier',
    ordered: true,
    choices: choices('Dusk', 'Twilight', 'Midnight'),
  },
  {
    ...contact,
    id: 'plan',
    type: 'choice',
    label: 'plan',
    ordered: false,
    choices: choices('Almanac Digital', 'Almanac Print'),
  },
  {
    ...contact,
    id: 'roles',
    type: 'set',
    label: 'roles',
    choices: choices('member', 'volunteer guide', 'educator', 'staff'),
    exclusiveGroups: [],
  },
  {
    ...contact,
    id: 'lists',
    type: 'set',
    label: 'lists',
    choices: choices('Newsletter', 'Telescope night waitlist', 'School groups'),
    exclusiveGroups: [],
  },
  {
    ...contact,
    id: 'stage',
    type: 'choice',
    label: 'lifecycle stage',
    ordered: false,
    choices: choices('newcomer', 'enquirer', 'member', 'patron', 'lapsed'),
  },
  {
    ...contact,
    id: 'tags',
    type: 'set',
    label: 'tags',
    choices: choices('family', 'astrophotography', 'step-free access', 'Moon', 'planets', 'deep sky', 'Sun'),
    exclusiveGroups: [{ name: 'Survey outcome', members: ['moon', 'planets', 'deep-sky', 'sun'] }],
  },
  { ...contact, id: 'city', type: 'text', label: 'city' },
  { ...contact, id: 'country', type: 'text', label: 'country' },
  {
    ...contact,
    id: 'language',
    type: 'choice',
    label: 'language',
    ordered: false,
    choices: choices('English', 'German', 'French', 'Spanish'),
  },
  { ...contact, id: 'visits', type: 'number', whole: true, label: 'visits this year' },
  { ...contact, id: 'orders', type: 'number', whole: true, label: 'orders' },
  { ...contact, id: 'last-gift', type: 'number', label: 'last gift' },
  { ...contact, id: 'joined', type: 'date', label: 'joined' },
  { ...contact, id: 'renewal', type: 'date', label: 'renewal date' },
  { ...contact, id: 'telescope', type: 'text', label: 'telescope owned' },
  { ...contact, id: 'referred-by', type: 'text', label: 'referred by' },
];
