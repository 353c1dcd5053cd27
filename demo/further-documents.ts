import type { Document, Node } from '../core/documents/document.ts';
import type { Inline } from '../core/documents/text.ts';
import { bold, button, field, first, heading, id, line, section, slot, text } from './writing.ts';

const body = (...nodes: Node[]): Document['content'] => ({ subject: [], preview: [], body: nodes });
const page = (slug: string, name: string, ...nodes: Node[]): Document => ({
  id: slug,
  kind: 'page',
  name,
  slug,
  content: body(...nodes),
});

const guides: Node = {
  kind: 'list',
  id: id(),
  collection: 'guides',
  layout: 'cards',
  where: null,
  sort: 'order',
  down: false,
  most: 12,
  empty: 'No guide is open to you yet.',
};

const skyGuides = page(
  'sky-guides',
  'Sky guides',
  heading(1, 'Sky guides'),
  slot(
    'How much is open',
    [
      ['midnight-members', [text(['Every guide is open to you.'])]],
      ['any-member', [text(['These are open to your tier. ', bold('Midnight'), ' opens the rest.'])]],
    ],
    [text(['These two are open to everybody. Members read more.'])],
  ),
  guides,
);

const guidePage: Document = {
  ...page(
    'guide',
    'A sky guide',
    heading(1, field('item-title', 'Sky guide')),
    { kind: 'field', id: id(), attribute: 'guides-picture' },
    text([field('item-teaser', 'From the dome.')]),
    text(['For: ', field('guides-level', 'everybody'), ' · ', field('guides-minutes', 'a few'), ' minutes']),
    { kind: 'field', id: id(), attribute: 'guides-text' },
    button('All sky guides', '/site/sky-guides'),
  ),
  collection: 'guides',
};

const shop = page(
  'shop',
  'Shop',
  heading(1, 'Shop'),
  slot(
    'Member price',
    [['any-member', [text(['Members pay a tenth less at the counter.'])]]],
    [text(['Collected at the gate, or sent to you.'])],
  ),
  {
    kind: 'list',
    id: id(),
    collection: 'goods',
    layout: 'cards',
    where: null,
    sort: 'title',
    down: false,
    most: 12,
    empty: 'The shelves are being filled.',
    remarks: {
      variants: [
        {
          audience: 'any-member',
          words: 'For you a tenth less than £',
          field: 'goods-price',
          look: 'two-decimals',
        },
      ],
      otherwise: { words: '£', field: 'goods-price', look: 'two-decimals' },
    },
  },
);

const price: Inline = {
  type: 'mergeField',
  attrs: { attribute: 'goods-price', fallback: 'ask us', look: 'two-decimals' },
};
const goodPage: Document = {
  ...page(
    'good',
    'Something from the shop',
    heading(1, field('item-title', 'From the shop')),
    text(['£', price]),
    text(['Sent to ', field('goods-ships-to', 'nowhere yet'), '.']),
    button('Back to the shop', '/site/shop'),
  ),
  collection: 'goods',
};

const welcome = page(
  'welcome',
  'Welcome',
  slot(
    'Greeting',
    [['any-member', [heading(1, 'Good to see you, ', first('stargazer'))]]],
    [heading(1, 'Welcome to Quillmere')],
  ),
  text(['Clear skies tonight from ten. The kiosk has soup.']),
  {
    kind: 'links',
    id: id(),
    name: 'Where to',
    look: 'list',
    children: [
      { kind: 'link', id: id(), label: [{ type: 'text', text: 'Sky guides' }], address: '/site/sky-guides' },
      { kind: 'link', id: id(), label: [{ type: 'text', text: 'Membership' }], address: '/site/membership' },
    ],
  },
);

const survey = page(
  'survey',
  'Survey',
  heading(1, 'What do you look at?'),
  text(['One question. The answer opens a page made for you.']),
  {
    kind: 'form',
    id: id(),
    fields: [
      { attribute: 'email', label: 'Email address, if we don’t know you yet', required: false },
      {
        attribute: 'tags',
        label: 'Most of all I look at',
        required: true,
        only: ['moon', 'planets', 'deep-sky', 'sun'],
      },
    ],
    submit: 'Show me',
    next: '/site/outcome',
  },
);

const outcome = page(
  'outcome',
  'Your sky',
  heading(1, 'Your sky'),
  slot(
    'Outcome',
    [
      ['moon-watchers', [text(['The Moon it is: come on the evenings around first quarter.'])]],
      ['planet-watchers', [text(['Planets it is: Jupiter stands high at ten.'])]],
      ['deep-sky-watchers', [text(['The deep sky it is: the nights without a Moon are yours.'])]],
      ['sun-watchers', [text(['The Sun it is: every clear noon behind the filter.'])]],
    ],
    [button('Answer one question first', '/site/survey')],
  ),
);

const foot = line('From the dome on the hill.');
const email = (slug: string, name: string, subject: Node, ...nodes: Node[]): Document => ({
  id: slug,
  kind: 'email',
  name,
  slug,
  content: { subject: [subject], preview: [{ ...foot, id: id() }], body: nodes },
});

const reminder = email(
  'renewal-reminder',
  'Renewal reminder',
  line('Your membership, ', first('stargazer')),
  heading(1, 'Before it runs out'),
  text(['Your membership runs until ', field('renewal', 'the end of the year'), '.']),
  slot(
    'What is kept',
    [
      [
        'midnight-members',
        [section('Dome', 'accent', 'stack', text(['Your key to the dome stays in your pocket.']))],
      ],
      [
        'twilight-members',
        [section('Hour', 'accent', 'stack', text(['Your hour at the dome stays in the calendar.']))],
      ],
    ],
    [section('Terrace', 'panel', 'stack', text(['The terrace stays yours on every clear evening.']))],
  ),
  button('Renew', '/site/membership'),
);

const announcement = email(
  'comet-announcement',
  'Comet announcement',
  line('A comet before breakfast'),
  heading(1, 'A comet before breakfast'),
  slot(
    'For educators',
    [
      [
        'educators',
        [
          text([
            'Classes are welcome at six. Write to us with the number of children and of thermos flasks.',
          ]),
        ],
      ],
    ],
    [text(['We open the terrace at six. Wrap up well.'])],
  ),
  button('How to find it', '/site/sky-guides'),
);

/** The rest of the site and its emails. */
export function furtherDocuments(): Document[] {
  return [skyGuides, guidePage, shop, goodPage, welcome, survey, outcome, reminder, announcement];
}
