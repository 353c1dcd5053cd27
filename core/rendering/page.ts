import type { Attribute } from '../attributes/attribute.ts';
import { choicesOf } from '../attributes/attribute.ts';
import { instantOf, readLocalTime } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { readValue } from '../attributes/parse.ts';
import { type Collection, type Item, itemAddress } from '../collections/collection.ts';
import { fullEntry } from '../deciding/menu.ts';
import type { SiteSettings } from '../deciding/release.ts';
import type { ListBlock, Remark } from '../documents/blocks/items.ts';
import type { FormBlock } from '../documents/blocks/people.ts';
import {
  type Block,
  type Content,
  type Document,
  type Node,
  type Slot,
  slotsOf,
} from '../documents/document.ts';
import {
  type Channel,
  inlineMarkup,
  linkAddress,
  nodesMarkup,
  type SlotPlaces,
  type TextStyle,
  textMarkup,
} from './blocks.ts';
import { element, type Markup } from './markup.ts';
import { sayValue } from './say-value.ts';

export interface Surrounding {
  readonly settings: SiteSettings;
  readonly catalogue: Catalogue;
  /** The pages a menu can lead to, each with who may open it. */
  readonly pages: readonly Pick<Document, 'name' | 'slug' | 'access'>[];
}

/** What the blocks of a page draw on. */
export interface PageOf {
  /** The id of the page, which its forms are sent to. */
  readonly document: string;
  readonly catalogue: Catalogue;
  /** The site’s language. */
  readonly locale: string;
  readonly collections: readonly Collection[];
  readonly items: readonly Item[];
}

class PageChannel implements Channel {
  private readonly style: TextStyle;

  constructor(
    private readonly of: PageOf,
    places: SlotPlaces,
  ) {
    this.style = { catalogue: of.catalogue, locale: of.locale, base: '', places, attributes: () => ({}) };
  }

  block(block: Block, inner: (nodes: readonly Node[]) => Markup[]): Markup[] {
    const { id } = block;
    const { style } = this;
    switch (block.kind) {
      case 'heading':
        return [element(`h${block.level}`, { class: 'heading' }, inlineMarkup(block.content, style), id)];
      case 'text':
        return [element('div', { class: 'text' }, textMarkup(block.content, style), id)];
      case 'picture': {
        const src = block.file ? fileAddress(block.file) : `/pictures/${block.picture}.svg`;
        return [element('img', { class: 'picture', src, alt: block.alt }, [], id)];
      }
      case 'button':
      case 'link': {
        const href = linkAddress(block.address, '');
        const attributes = {
          class: block.kind === 'button' ? 'button' : 'link',
          ...(href !== undefined && { href }),
        };
        const link = element('a', attributes, inlineMarkup(block.label, style), id);
        // An entry that leads to what is closed tells that it is there; a button may lead to the way in.
        return block.kind === 'link' && href?.startsWith('/site/')
          ? [{ kind: 'open', mayOpen: href, shown: [link] }]
          : [link];
      }
      case 'links':
        return [
          element(
            'nav',
            { class: `links look-${block.look}`, 'aria-label': block.name || 'Links' },
            inner(block.children),
            id,
          ),
        ];
      case 'section': {
        const className = `section tone-${block.tone} layout-${block.layout}`;
        return [element('section', { class: className }, inner(block.children), id)];
      }
      case 'quotation':
        return [
          element(
            'figure',
            { class: 'quotation' },
            [
              element('blockquote', {}, [element('p', {}, inlineMarkup(block.content, style))]),
              ...(block.by === '' ? [] : [element('figcaption', {}, [block.by])]),
            ],
            id,
          ),
        ];
      case 'divider':
        return [element('hr', { class: 'divider' }, [], id)];
      case 'spacer':
        return [element('div', { class: `spacer size-${block.size}` }, [], id)];
      case 'video':
        return [
          element(
            'figure',
            { class: 'video' },
            [
              block.file
                ? element('video', { controls: '', preload: 'metadata', src: fileAddress(block.file) }, [])
                : element('div', { class: 'empty-note' }, ['No video chosen yet']),
              ...(block.caption === '' ? [] : [element('figcaption', {}, [block.caption])]),
            ],
            id,
          ),
        ];
      case 'list':
        return [this.list(block)];
      case 'field':
        return this.field(block.attribute, id);
      case 'form':
        return [this.form(block)];
      case 'account':
        return [element('div', { class: 'account' }, [accountPoint(this.of.catalogue)], id)];
      case 'notice': {
        const href = linkAddress(block.address, '');
        return [
          element(
            'div',
            { class: 'notice', role: 'note' },
            [
              {
                kind: 'sign-in',
                signedOut: [
                  element('p', {}, [block.signedOut]),
                  element('a', { class: 'button', href: '/site/sign-in' }, ['Sign in']),
                ],
                signedIn: [
                  element('p', {}, [block.signedIn]),
                  ...(href === undefined
                    ? []
                    : [element('a', { class: 'button', href }, ['See what opens it'])]),
                ],
              },
            ],
            id,
          ),
        ];
      }
      case 'countdown': {
        const until = instantOfLocal(block.until, this.of.catalogue.zone);
        return [
          element(
            'p',
            {
              class: 'countdown',
              'data-until': new Date(until).toISOString(),
              'data-over': block.over,
              role: 'timer',
            },
            [
              ...(block.label === '' ? [] : [element('span', { class: 'countdown-label' }, [block.label])]),
              element('strong', { class: 'countdown-left' }, [
                { kind: 'countdown', until, over: block.over },
              ]),
            ],
            id,
          ),
        ];
      }
      case 'html':
        return [element('div', { class: 'html' }, [{ kind: 'raw', raw: block.html }], id)];
      // Lines are titles, and shared content is put in its place before anything is drawn.
      case 'line':
      case 'shared':
        return [];
    }
  }

  private field(attributeId: string, id: string): Markup[] {
    const attribute = this.of.catalogue.get(attributeId);
    const use = this.of.collections
      .flatMap(({ fields }) => fields)
      .find((field) => field.attribute.id === attributeId)?.use;
    const shown =
      use === 'picture'
        ? element('img', { class: 'picture', src: { file: attributeId }, alt: '' }, [], id)
        : element(
            'div',
            { class: use === 'long-text' ? 'field long-text' : 'field' },
            [
              {
                kind: 'merge',
                merge: attribute,
                attribute: attributeId,
                fallback: '',
                locale: this.of.locale,
              },
            ],
            id,
          );
    return [{ kind: 'value', has: attributeId, shown: [shown] }];
  }

  private list(block: ListBlock): Markup {
    const { collections, items } = this.of;
    const collection = collections.find(({ id }) => id === block.collection);
    const empty = [element('p', { class: 'empty-note' }, [block.empty])];
    if (!collection) return element('div', { class: 'list' }, empty, block.id);
    const picture = collection.fields.find(({ use }) => use === 'picture')?.attribute.id;
    const entries: ReadonlyMap<string, { open: Markup[]; locked: Markup[] }> = new Map(
      items
        .filter((item) => item.collection === collection.id)
        .map((item): [string, { open: Markup[]; locked: Markup[] }] => {
          const file = picture === undefined ? undefined : item.values[picture];
          const words = [
            ...(item.teaser === '' ? [] : [element('p', { class: 'entry-teaser' }, [item.teaser])]),
          ];
          return [
            item.id,
            {
              open: [
                element('li', { class: 'entry' }, [
                  ...(typeof file === 'string' && file !== ''
                    ? [element('img', { class: 'picture', src: fileAddress(file), alt: '' }, [])]
                    : []),
                  element('a', { class: 'entry-title', href: itemAddress(collection, item) }, [item.title]),
                  ...words,
                  ...this.remarks(block, item),
                ]),
              ],
              // Nothing of the item but what is meant for everybody.
              locked: [
                element('li', { class: 'entry locked' }, [
                  element('a', { class: 'entry-title', href: itemAddress(collection, item) }, [item.title]),
                  element('span', { class: 'entry-lock' }, ['For members who may open it']),
                  ...words,
                  ...this.remarks(block, undefined),
                ]),
              ],
            },
          ];
        }),
    );
    return element(
      'div',
      { class: 'list' },
      [
        element('ul', { class: `entries layout-${block.layout}` }, [
          { kind: 'list', list: block, entries, empty: [element('li', { class: 'entry empty' }, empty)] },
        ]),
      ],
      block.id,
    );
  }

  /** What an entry says besides; words alone, and no field, of an item that is locked. */
  private remarks({ remarks }: ListBlock, item: Item | undefined): Markup[] {
    if (!remarks) return [];
    const { catalogue, locale } = this.of;
    const said = ({ words, field, look }: Remark): Markup[] => {
      const attribute = field === null || !item ? undefined : catalogue.get(field);
      const value = attribute && readValue(attribute, item?.values[attribute.id]);
      const shown =
        attribute && value !== undefined
          ? sayValue(attribute, value, look ?? undefined, locale, catalogue.zone)
          : '';
      // A sign that stands right before what it is for, as that of a currency does.
      const between = words === '' || shown === '' || /[\p{Sc}\p{Ps}]$/u.test(words) ? '' : ' ';
      const text = words + between + shown;
      return text === '' ? [] : [element('p', { class: 'entry-remark' }, [text])];
    };
    return [{ kind: 'remark', remarks: remarks.variants.map(said), otherwise: said(remarks.otherwise) }];
  }

  private form(block: FormBlock): Markup {
    const { catalogue, document } = this.of;
    return element(
      'form',
      {
        class: 'form',
        method: 'post',
        action: `/site/forms/${encodeURIComponent(document)}/${encodeURIComponent(block.id)}`,
      },
      [
        ...block.fields.flatMap((field) => {
          const attribute = catalogue.get(field.attribute);
          return attribute ? [formField(attribute, field)] : [];
        }),
        decoy,
        element('button', { type: 'submit', class: 'button' }, [block.submit]),
      ],
      block.id,
    );
  }
}

/** The name of a field that nobody sees. */
export const decoyField = 'leave-blank';

/** Filled by programs that fill every field; hidden from people, their keyboards and screen readers. */
const decoy = element('div', { class: 'form-decoy', 'aria-hidden': 'true' }, [
  element(
    'input',
    { name: decoyField, tabindex: '-1', autocomplete: 'off', 'aria-label': 'Leave this blank' },
    [],
  ),
]);

const inputTypes: { readonly [type in Attribute['type']]?: string } = {
  number: 'number',
  date: 'date',
  'date-time': 'datetime-local',
  time: 'time',
};

function formField(attribute: Attribute, field: FormBlock['fields'][number]): Markup {
  const { required, only } = field;
  const label = field.label || attribute.label;
  const common = { name: attribute.id, ...(required && { required: '' }) };
  const offered = choicesOf(attribute).filter(({ id }) => only?.includes(id) ?? true);
  if (attribute.type === 'set') {
    // Of choices that exclude each other one is picked.
    const isOne = attribute.exclusiveGroups.some(({ members }) =>
      offered.every(({ id }) => members.includes(id)),
    );
    return element('fieldset', { class: 'form-set' }, [
      element('legend', {}, [label]),
      ...offered.map((choice) =>
        element('label', {}, [
          element(
            'input',
            {
              type: isOne ? 'radio' : 'checkbox',
              name: attribute.id,
              value: choice.id,
              ...(isOne && required && { required: '' }),
            },
            [],
          ),
          ' ',
          choice.label,
        ]),
      ),
    ]);
  }
  if (attribute.type === 'choice' || attribute.type === 'yes-no') {
    const choices =
      attribute.type === 'choice'
        ? offered
        : [
            { id: 'yes', label: 'yes' },
            { id: 'no', label: 'no' },
          ];
    return element('label', { class: 'form-field' }, [
      label,
      element('select', common, [
        element('option', { value: '' }, ['choose …']),
        ...choices.map((choice) => element('option', { value: choice.id }, [choice.label])),
      ]),
    ]);
  }
  const type = attribute.id === 'email' ? 'email' : (inputTypes[attribute.type] ?? 'text');
  return element('label', { class: 'form-field' }, [
    label,
    element(
      'input',
      { ...common, type, ...(attribute.type === 'number' && !attribute.whole && { step: 'any' }) },
      [],
    ),
  ]);
}

/** A local date and time in a zone as milliseconds since 1970 UTC. */
export function instantOfLocal(local: string, zone: string): number {
  const read = readLocalTime(local);
  return read === undefined ? 0 : instantOf(read, zone);
}

export function fileAddress(file: string): string {
  return `/site/files/${encodeURIComponent(file)}`;
}

/** The page's own part, without the site's head, menu and foot. */
export function pageBody(content: Content, of: PageOf): Markup[] {
  const places = new Map(slotsOf(content).map((slot, index) => [slot.id, index]));
  return nodesMarkup(content.body, new PageChannel(of, places), places);
}

/** What one slot of a page shows for each of its variants in order, and for everyone else last. */
export function pageBranches(slot: Slot, content: Content, of: PageOf): Markup[][] {
  const places = new Map(slotsOf(content).map((other, index) => [other.id, index]));
  const channel = new PageChannel(of, places);
  const branch = (nodes: readonly Node[]) => nodesMarkup(nodes, channel, places);
  return [...slot.variants.map((variant) => branch(variant.content)), branch(slot.otherwise)];
}

/** The page's own title, where it has one: plain words, some of which may differ. */
export function pageTitle(
  content: Content,
  { catalogue, locale }: Pick<PageOf, 'catalogue' | 'locale'>,
): Markup[] {
  const places = new Map(slotsOf(content).map((slot, index) => [slot.id, index]));
  const style: TextStyle = { catalogue, locale, base: '', places, attributes: () => ({}) };
  const channel: Channel = {
    block: (block) => (block.kind === 'line' ? inlineMarkup(block.content, style) : []),
  };
  return nodesMarkup(content.subject, channel, places);
}

function accountPoint(catalogue: Catalogue): Markup {
  const name: Markup = {
    kind: 'merge',
    merge: catalogue.get('first-name'),
    attribute: 'first-name',
    fallback: 'Your account',
  };
  return {
    kind: 'sign-in',
    signedIn: [
      element('span', { class: 'site-person' }, [name]),
      element('form', { method: 'post', action: '/site/sign-out' }, [
        element('button', { type: 'submit', class: 'site-link' }, ['Sign out']),
      ]),
    ],
    signedOut: [element('a', { href: '/site/sign-in' }, ['Sign in'])],
  };
}

/** The site's header, the page and the site's foot, as they stand inside `<body>`. */
export function siteFrame(body: Markup[], { settings, pages, catalogue }: Surrounding): Markup[] {
  const wanted = settings.menu ?? pages.filter(({ slug }) => slug !== '').map(({ slug }) => slug);
  const entries = wanted.map(fullEntry).flatMap(({ page: slug, variants, otherwise }): Markup[] => {
    const page = pages.find((one) => one.slug === slug);
    if (!page) return [];
    const address = `/site/${page.slug}`;
    const entry = (label: string) => [element('a', { href: address }, [label || page.name])];
    const rest = otherwise === null ? [] : entry(otherwise);
    const shown: Markup[] =
      variants.length === 0
        ? rest
        : [
            {
              kind: 'audience',
              audiences: variants.map(({ audience }) => audience),
              shown: variants.map(({ label }) => entry(label)),
              otherwise: rest,
            },
          ];
    return page.access ? [{ kind: 'open', mayOpen: address, shown }] : shown;
  });
  return [
    element('header', { class: 'site-head' }, [
      element('a', { class: 'site-name', href: '/site/' }, [settings.name]),
      element('nav', { class: 'site-menu', 'aria-label': 'Site' }, entries),
      element('div', { class: 'site-account' }, [accountPoint(catalogue)]),
    ]),
    element('main', { class: 'site-main' }, body),
    element('footer', { class: 'site-foot' }, [
      [settings.name, settings.postalAddress].filter((part) => part !== '').join(' · '),
    ]),
  ];
}

/** A whole HTML document but for its doctype. */
export function siteDocument(title: Markup[], body: Markup[], settings: SiteSettings): Markup {
  return element('html', { lang: settings.locale }, [
    element('head', {}, [
      element('meta', { charset: 'utf-8' }, []),
      element('meta', { name: 'viewport', content: 'width=device-width, initial-scale=1' }, []),
      element('title', {}, title),
      element('link', { rel: 'stylesheet', href: '/site-assets/site.css' }, []),
      ...(settings.theme ? [element('link', { rel: 'stylesheet', href: '/site/theme.css' }, [])] : []),
      element('script', { src: '/site-assets/site.js', defer: '' }, []),
    ]),
    element('body', {}, [element('div', { class: 'site' }, body)]),
  ]);
}
