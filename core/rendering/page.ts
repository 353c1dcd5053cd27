import type { Catalogue } from '../attributes/catalogue.ts';
import type { SiteSettings } from '../deciding/release.ts';
import { type Block, type Content, type Document, type Node, slotsOf } from '../documents/document.ts';
import {
  type Channel,
  inlineMarkup,
  linkAddress,
  nodesMarkup,
  type TextStyle,
  textMarkup,
} from './blocks.ts';
import { element, type Markup } from './markup.ts';

export interface Surrounding {
  readonly settings: SiteSettings;
  readonly catalogue: Catalogue;
  /** The pages a menu can lead to. */
  readonly pages: readonly Pick<Document, 'name' | 'slug'>[];
}

class PageChannel implements Channel {
  private readonly style: TextStyle;

  constructor(catalogue: Catalogue) {
    this.style = { catalogue, base: '', attributes: () => ({}) };
  }

  block(block: Block, inner: (nodes: readonly Node[]) => Markup[]): Markup[] {
    const { id } = block;
    switch (block.kind) {
      case 'heading':
        return [
          element(`h${block.level}`, { class: 'heading' }, inlineMarkup(block.content, this.style), id),
        ];
      case 'text':
        return [element('div', { class: 'text' }, textMarkup(block.content, this.style), id)];
      case 'picture':
        return [
          element('img', { class: 'picture', src: `/pictures/${block.picture}.svg`, alt: block.alt }, [], id),
        ];
      case 'button': {
        const href = linkAddress(block.address, '');
        const attributes = { class: 'button', ...(href !== undefined && { href }) };
        return [element('a', attributes, inlineMarkup(block.label, this.style), id)];
      }
      case 'section': {
        const className = `section tone-${block.tone} layout-${block.layout}`;
        return [element('section', { class: className }, inner(block.children), id)];
      }
      case 'line':
        return [];
    }
  }
}

/** The page's own part, without the site's head, menu and foot. */
export function pageBody(content: Content, catalogue: Catalogue): Markup[] {
  const slots = new Map(slotsOf(content).map((slot, index) => [slot.id, index]));
  return nodesMarkup(content.body, new PageChannel(catalogue), slots);
}

/** The site's header, the page and the site's foot, as they stand inside `<body>`. */
export function siteFrame(body: Markup[], { settings, pages, catalogue }: Surrounding): Markup[] {
  const name = { merge: catalogue.get('first-name'), attribute: 'first-name', fallback: 'Your account' };
  return [
    element('header', { class: 'site-head' }, [
      element('a', { class: 'site-name', href: '/site/' }, [settings.name]),
      element(
        'nav',
        { class: 'site-menu', 'aria-label': 'Site' },
        pages
          .filter((page) => page.slug !== '')
          .map((page) => element('a', { href: `/site/${page.slug}` }, [page.name])),
      ),
      element('div', { class: 'site-account' }, [
        {
          signedIn: [
            element('span', { class: 'site-person' }, [name]),
            element('form', { method: 'post', action: '/site/sign-out' }, [
              element('button', { type: 'submit', class: 'site-link' }, ['Sign out']),
            ]),
          ],
          signedOut: [element('a', { href: '/site/sign-in' }, ['Sign in'])],
        },
      ]),
    ]),
    element('main', { class: 'site-main' }, body),
    element('footer', { class: 'site-foot' }, [settings.name, ' · ', settings.postalAddress]),
  ];
}

/** A whole HTML document but for its doctype. */
export function siteDocument(title: string, body: Markup[], settings: SiteSettings): Markup {
  return element('html', { lang: settings.locale }, [
    element('head', {}, [
      element('meta', { charset: 'utf-8' }, []),
      element('meta', { name: 'viewport', content: 'width=device-width, initial-scale=1' }, []),
      element('title', {}, [title]),
      element('link', { rel: 'stylesheet', href: '/site-assets/site.css' }, []),
    ]),
    element('body', {}, [element('div', { class: 'site' }, body)]),
  ]);
}
