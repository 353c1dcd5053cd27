import type { Catalogue } from '../attributes/catalogue.ts';
import type { SiteSettings } from '../deciding/release.ts';
import { type Block, type Content, type Node, type Section, slotsOf } from '../documents/document.ts';
import {
  type Channel,
  inlineMarkup,
  linkTarget,
  nodesMarkup,
  type SlotPlaces,
  type TextStyle,
  textMarkup,
} from './blocks.ts';
import { element, type Markup } from './markup.ts';
import { fileAddress } from './page.ts';

const ink = '#26221c';
const leaf = '#2c6748';
const font = "'Instrument Sans', Helvetica, Arial, sans-serif";
const table = { role: 'presentation', width: '100%', cellpadding: '0', cellspacing: '0', border: '0' };

const textAttributes = {
  a: { style: `color: ${leaf}; text-decoration: underline` },
  p: { style: `margin: 0 0 12px; font: 16px/24px ${font}` },
  ul: { style: 'margin: 0 0 12px; padding-left: 24px' },
  ol: { style: 'margin: 0 0 12px; padding-left: 24px' },
  li: { style: `font: 16px/24px ${font}` },
  blockquote: { style: `margin: 0 0 12px; padding-left: 16px; border-left: 3px solid ${leaf}` },
  table: {
    style: 'margin: 0 0 12px; border-collapse: collapse',
    cellpadding: '0',
    cellspacing: '0',
    border: '0',
  },
  th: { style: `padding: 4px 12px 4px 0; text-align: left; font: bold 16px/24px ${font}`, scope: 'col' },
  td: { style: 'padding: 4px 12px 4px 0; vertical-align: top' },
};
const headingStyle = { 1: '28px/34px', 2: '22px/28px', 3: '18px/24px' };
const grounds: Record<Section['tone'], string> = {
  plain: '#fffdf8',
  panel: '#eef2ea',
  accent: '#dfe9f3',
  warm: '#f6ead0',
};

/** Blocks as table rows with their styling inline, since mail programs drop style sheets. */
class EmailChannel implements Channel {
  private readonly style: TextStyle;

  constructor(
    catalogue: Catalogue,
    private readonly base: string,
    places: SlotPlaces,
    locale: string,
  ) {
    this.style = { catalogue, locale, base, places, attributes: (tag) => textAttributes[tag] };
  }

  block(block: Block, inner: (nodes: readonly Node[]) => Markup[]): Markup[] {
    const { id } = block;
    const row = (style: string, children: Markup[]) => [
      element('tr', {}, [element('td', { style }, children)]),
    ];
    switch (block.kind) {
      case 'heading': {
        const style = `margin: 0; color: ${ink}; font: bold ${headingStyle[block.level]} ${font}`;
        const content = inlineMarkup(block.content, this.style);
        return row('padding: 8px 32px', [element(`h${block.level}`, { style }, content, id)]);
      }
      case 'text':
        return row('padding: 4px 32px', [
          element('div', { style: `color: ${ink}` }, textMarkup(block.content, this.style), id),
        ]);
      case 'picture': {
        const source = `${this.base}${block.file ? fileAddress(block.file) : `/pictures/${block.picture}.png`}`;
        const style = 'display: block; width: 100%; max-width: 600px; height: auto; border: 0';
        return row('padding: 0', [
          element('img', { src: source, alt: block.alt, width: '600', style }, [], id),
        ]);
      }
      case 'button': {
        const href = linkTarget(block.address, this.base);
        const style = `display: inline-block; padding: 12px 20px; border-radius: 8px; background: ${leaf}; color: #ffffff; font: bold 16px/20px ${font}; text-decoration: none`;
        const label = inlineMarkup(block.label, this.style);
        return row('padding: 8px 32px 20px', [
          element('a', href === undefined ? { style } : { style, href }, label, id),
        ]);
      }
      case 'section': {
        const ground = grounds[block.tone];
        return [
          element('tr', {}, [
            element('td', { style: 'padding: 0' }, [
              element(
                'table',
                { ...table, style: `background: ${ground}`, bgcolor: ground },
                [element('tbody', {}, inner(block.children))],
                id,
              ),
            ]),
          ]),
        ];
      }
      case 'link': {
        const href = linkTarget(block.address, this.base);
        const style = `color: ${leaf}; font: 16px/24px ${font}`;
        const label = inlineMarkup(block.label, this.style);
        return row('padding: 2px 32px', [
          element('a', href === undefined ? { style } : { style, href }, label, id),
        ]);
      }
      case 'links':
        return inner(block.children);
      case 'quotation': {
        const style = `margin: 0; padding-left: 16px; border-left: 3px solid ${leaf}; color: ${ink}; font: italic 18px/26px ${font}`;
        const by = block.by === '' ? [] : [element('br', {}, []), `— ${block.by}`];
        const content = [element('span', {}, inlineMarkup(block.content, this.style)), ...by];
        return row('padding: 8px 32px', [element('p', { style }, content, id)]);
      }
      case 'divider':
        return row('padding: 12px 32px', [
          element('div', { style: 'border-top: 1px solid #e1d9c9; font-size: 0; line-height: 0' }, [], id),
        ]);
      case 'spacer': {
        const height = { small: 12, medium: 28, large: 56 }[block.size];
        return [
          element('tr', {}, [
            element('td', { style: `height: ${height}px; font-size: 0; line-height: 0` }, ['\u00a0'], id),
          ]),
        ];
      }
      // What mail can't do; such blocks are refused when an email is saved.
      default:
        return [];
    }
  }
}

export interface EmailParts {
  subject: Markup[];
  preview: Markup[];
  /** What stands inside `<body>`: the message and the foot, which never varies. */
  body: Markup[];
  text: Markup[];
}

/**
 * An email as markup for its subject, preview line, HTML body and plain text.
 *
 * @param base the site's origin, such as `http://127.0.0.1:4310`; mail has no addresses relative to itself
 */
export function emailParts(
  content: Content,
  catalogue: Catalogue,
  settings: SiteSettings,
  base: string,
): EmailParts {
  const slots = new Map(slotsOf(content).map((slot, index) => [slot.id, index]));
  const channel = new EmailChannel(catalogue, base, slots, settings.locale);
  const lines = new LineChannel(catalogue, base, slots, settings.locale);
  return {
    subject: nodesMarkup(content.subject, lines, slots),
    preview: nodesMarkup(content.preview, lines, slots),
    body: emailFrame(nodesMarkup(content.body, channel, slots), settings),
    text: [...nodesMarkup(content.body, lines, slots), ...textFoot(settings)],
  };
}

function emailFrame(rows: Markup[], settings: SiteSettings): Markup[] {
  const small = `color: #6a6256; font: 13px/20px ${font}`;
  const foot = element('tr', {}, [
    element('td', { style: `padding: 20px 32px; border-top: 1px solid #e1d9c9; ${small}` }, [
      settings.name,
      element('br', {}, []),
      settings.postalAddress,
      element('br', {}, []),
      element('a', { href: { link: 'unsubscribe' }, style: 'color: #6a6256' }, ['Stop these emails']),
    ]),
  ]);
  const column = { ...table, style: 'max-width: 600px; background: #fffdf8', bgcolor: '#fffdf8' };
  return [
    element('table', { ...table, style: 'background: #f6f2e9', bgcolor: '#f6f2e9' }, [
      element('tbody', {}, [
        element('tr', {}, [
          element('td', { align: 'center', style: 'padding: 24px 12px' }, [
            element('table', column, [element('tbody', {}, [...rows, foot])]),
          ]),
        ]),
      ]),
    ]),
  ];
}

/** The whole HTML of a message but for its doctype; the preview line stands hidden before the body. */
export function emailDocument(parts: EmailParts, settings: SiteSettings): Markup {
  const hidden = 'display: none; max-height: 0; overflow: hidden';
  return element('html', { lang: settings.locale }, [
    element('head', {}, [
      element('meta', { charset: 'utf-8' }, []),
      element('meta', { name: 'viewport', content: 'width=device-width, initial-scale=1' }, []),
      element('title', {}, parts.subject),
    ]),
    element('body', { style: 'margin: 0; padding: 0; background: #f6f2e9' }, [
      element('div', { style: hidden }, parts.preview),
      ...parts.body,
    ]),
  ]);
}

/** Blocks as lines of plain text. */
class LineChannel implements Channel {
  private readonly style: TextStyle;

  constructor(
    catalogue: Catalogue,
    private readonly base: string,
    places: SlotPlaces,
    locale: string,
  ) {
    this.style = { catalogue, locale, base, places, attributes: () => ({}) };
  }

  block(block: Block, inner: (nodes: readonly Node[]) => Markup[]): Markup[] {
    switch (block.kind) {
      case 'line':
        return this.run(inlineMarkup(block.content, this.style));
      case 'heading':
        return [...this.run(inlineMarkup(block.content, this.style)), '\n\n'];
      case 'text':
        return this.run(textMarkup(block.content, this.style));
      case 'picture':
        return block.alt === '' ? [] : [`[${block.alt}]\n\n`];
      case 'button':
      case 'link': {
        const href = linkTarget(block.address, this.base) ?? '';
        const address: Markup = typeof href === 'string' ? href : { kind: 'address', address: href };
        return [...this.run(inlineMarkup(block.label, this.style)), ': ', address, '\n\n'];
      }
      case 'quotation':
        return [
          '“',
          ...this.run(inlineMarkup(block.content, this.style)),
          '”',
          ...(block.by === '' ? [] : [` — ${block.by}`]),
          '\n\n',
        ];
      case 'divider':
        return ['----\n\n'];
      case 'section':
      case 'links':
        return inner(block.children);
      default:
        return [];
    }
  }

  /** Elements turned into what stands for them in plain text. */
  private run(markup: readonly Markup[]): Markup[] {
    return markup.flatMap((node): Markup[] => {
      if (typeof node === 'string' || node.kind !== 'element') return [node];
      const inside = this.run(node.children);
      switch (node.tag) {
        case 'br':
          return ['\n'];
        case 'p':
          return [...inside, '\n\n'];
        case 'li':
          return ['- ', ...inside];
        case 'a': {
          const { href } = node.attributes;
          if (typeof href === 'string') return [...inside, ` (${href})`];
          return href && 'known' in href
            ? [...inside, ' (', { kind: 'address', address: href }, ')']
            : inside;
        }
        case 'th':
        case 'td':
          return inside.at(-1) === '\n\n' ? inside.slice(0, -1) : inside;
        case 'tr':
          return [
            ...node.children.flatMap((cell, at) =>
              at === 0 ? this.run([cell]) : [' | ', ...this.run([cell])],
            ),
            '\n',
          ];
        case 'table':
          return [...inside, '\n'];
        default:
          return inside;
      }
    });
  }
}

function textFoot(settings: SiteSettings): Markup[] {
  return [
    '--\n',
    settings.name,
    '\n',
    settings.postalAddress,
    '\nStop these emails: ',
    { kind: 'address', address: 'unsubscribe' },
  ];
}
