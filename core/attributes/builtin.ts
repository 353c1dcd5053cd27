import type { Attribute, AttributeSource, Choice } from './attribute.ts';

const described =
  (source: AttributeSource) =>
  (id: string, label: string, description = '') => ({ id, source, label, description });
const contact = described('contact');
const visit = described('visit');
const moment = described('moment');

/** What every contact has besides the attributes an organisation defines. */
export const contactBasics: readonly Attribute[] = [
  { ...contact('first-name', 'first name'), type: 'text' },
  { ...contact('last-name', 'last name'), type: 'text' },
  { ...contact('email', 'email address'), type: 'text' },
];

/** What is known from how the viewer came in rather than from the contact. */
export const signInAttributes: readonly Attribute[] = [
  {
    ...described('sign-in')(
      'signed-in',
      'signed in',
      'Whether the visitor has signed in on the site. Nobody is signed in while reading an email.',
    ),
    type: 'yes-no',
  },
];

function choices(...labels: string[]): Choice[] {
  return labels.map((label) => ({ id: label.toLowerCase().replaceAll(' ', '-'), label }));
}

/** What a page request tells, see core/visits; an email has none of it. */
export const visitAttributes: readonly Attribute[] = [
  {
    ...visit('visit-device', 'device'),
    type: 'choice',
    ordered: false,
    choices: choices('computer', 'tablet', 'phone'),
  },
  {
    ...visit('visit-browser', 'browser'),
    type: 'choice',
    ordered: false,
    choices: choices('Chrome', 'Edge', 'Firefox', 'Opera', 'Safari', 'Samsung Internet', 'another browser'),
  },
  {
    ...visit('visit-system', 'operating system'),
    type: 'choice',
    ordered: false,
    choices: choices('Android', 'ChromeOS', 'iOS', 'Linux', 'macOS', 'Windows', 'another system'),
  },
  {
    ...visit('visit-language', 'language of the browser', 'In the order that the visitor prefers.'),
    type: 'language',
  },
  { ...visit('visit-address', 'IP address'), type: 'address' },
  { ...visit('visit-country', 'country of the visit', 'Looked up from the IP address.'), type: 'country' },
  { ...visit('visit-region', 'region of the visit', 'Looked up from the IP address.'), type: 'text' },
  {
    ...visit('visit-came-by', 'came by', 'What kind of place the visitor came from.'),
    type: 'choice',
    ordered: false,
    choices: choices('direct', 'own site', 'search', 'social', 'email', 'advert', 'another site'),
  },
  { ...visit('visit-referrer', 'referring site', 'Its host name, such as news.example.org.'), type: 'text' },
  { ...visit('visit-campaign', 'campaign', 'utm_campaign in the address.'), type: 'text' },
  { ...visit('visit-campaign-source', 'campaign source', 'utm_source in the address.'), type: 'text' },
  { ...visit('visit-campaign-medium', 'campaign medium', 'utm_medium in the address.'), type: 'text' },
  { ...visit('visit-campaign-term', 'campaign term', 'utm_term in the address.'), type: 'text' },
  { ...visit('visit-campaign-content', 'campaign content', 'utm_content in the address.'), type: 'text' },
  { ...visit('visit-path', 'page address'), type: 'path' },
  { ...visit('visit-pages', 'pages seen in this visit'), type: 'number', whole: true },
  { ...visit('visit-count', 'visits to the site'), type: 'number', whole: true },
  { ...visit('visit-returning', 'has been here before'), type: 'yes-no' },
  { ...visit('visit-item-views', 'views of this item'), type: 'number', whole: true },
  { ...visit('visit-seconds', 'seconds on the site'), type: 'number' },
];

const seasons = choices('spring', 'summer', 'autumn', 'winter');

/** When somebody looks, in the site's time zone. */
export const momentAttributes: readonly Attribute[] = [
  { ...moment('moment', 'date and time', 'When somebody looks.'), type: 'date-time' },
  {
    ...moment('moment-weekday', 'day of the week'),
    type: 'choice',
    ordered: true,
    choices: choices('Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'),
  },
  {
    ...moment('moment-month', 'month'),
    type: 'choice',
    ordered: true,
    choices: choices(
      'January',
      'February',
      'March',
      'April',
      'May',
      'June',
      'July',
      'August',
      'September',
      'October',
      'November',
      'December',
    ),
  },
  {
    ...moment(
      'moment-season-north',
      'season, north of the equator',
      'By whole months: spring begins in March.',
    ),
    type: 'choice',
    ordered: false,
    choices: seasons,
  },
  {
    ...moment(
      'moment-season-south',
      'season, south of the equator',
      'By whole months: spring begins in September.',
    ),
    type: 'choice',
    ordered: false,
    choices: seasons,
  },
  { ...moment('moment-time', 'time of day'), type: 'time' },
];

/** What every item has besides the fields of its collection. */
export const itemBasics: readonly Attribute[] = [
  { ...described('item')('item-title', 'title of the item'), type: 'text' },
  { ...described('item')('item-teaser', 'teaser of the item'), type: 'text' },
  {
    ...described('item')('item-views', 'views of the item', 'By everybody together, on the live site.'),
    type: 'number',
    whole: true,
  },
];
