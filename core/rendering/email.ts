import type { Catalogue } from '../attributes/catalogue.ts';
import type { SiteSettings } from '../deciding/release.ts';
import { type Content, slotsOf } from '../documents/document.ts';
import { type DrawBlock, drawingOf, nodesMarkup } from './blocks/blocks.ts';
import { font, leaf, table } from './mail-style.ts';
import { element, type Markup } from './markup.ts';
import type { TextStyle } from './text-markup.ts';

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
  const common = { catalogue, locale: settings.locale, base, places: slots };
  const inMail: TextStyle = { ...common, attributes: (tag) => textAttributes[tag] };
  const asText: TextStyle = { ...common, attributes: () => ({}) };
  const rows: DrawBlock = (block, inner) =>
    drawingOf(block).mail?.(block, { base, style: inMail, inner }) ?? [];
  const lines: DrawBlock = (block, inner) =>
    drawingOf(block).lines?.(block, { base, style: asText, inner, plain: plainText }) ?? [];
  return {
    subject: nodesMarkup(content.subject, lines, slots),
    preview: nodesMarkup(content.preview, lines, slots),
    body: emailFrame(nodesMarkup(content.body, rows, slots), settings),
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
      element('a', { href: { link: 'unsubscribe' }, style: 'color: #6a6256' }, ['Unsubscribe']),
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

/** Elements turned into what stands for them in plain text. */
function plainText(markup: readonly Markup[]): Markup[] {
  return markup.flatMap((node): Markup[] => {
    if (typeof node === 'string' || node.kind !== 'element') return [node];
    const inside = plainText(node.children);
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
        return href && 'known' in href ? [...inside, ' (', { kind: 'address', address: href }, ')'] : inside;
      }
      case 'th':
      case 'td':
        return inside.at(-1) === '\n\n' ? inside.slice(0, -1) : inside;
      case 'tr':
        return [
          ...node.children.flatMap((cell, at) =>
            at === 0 ? plainText([cell]) : [' | ', ...plainText([cell])],
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

function textFoot(settings: SiteSettings): Markup[] {
  return [
    '--\n',
    settings.name,
    '\n',
    settings.postalAddress,
    '\nUnsubscribe: ',
    { kind: 'address', address: 'unsubscribe' },
  ];
}
