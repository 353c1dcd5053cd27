import { describe, expect, it } from 'vitest';
import { demoSnapshot } from '../../demo/scenario.ts';
import type { Document, Node } from '../documents/document.ts';
import { words } from '../documents/text.ts';
import { CompiledSnapshot } from './compiled.ts';

const base = 'http://127.0.0.1:4310';
const viewer = {
  contact: { tier: 'midnight', 'first-name': 'Noor' },
  signedIn: true,
  visit: {},
  item: null,
  instant: Date.parse('2026-11-24T12:00:00Z'),
};
const compiledWith = (...body: Node[]) => {
  const email: Document = {
    id: 'e',
    kind: 'email',
    name: 'E',
    slug: 'e',
    content: {
      subject: [{ kind: 'line', id: 'subject', content: words('Hello') }],
      preview: [],
      body,
    },
  };
  return new CompiledSnapshot({ ...demoSnapshot, documents: [...demoSnapshot.documents, email] }, base);
};
const mail = (...body: Node[]) => {
  const { html, text } = compiledWith(...body).emails.compose('e', viewer, `${base}/out`);
  return {
    html: html.slice(html.indexOf('<body'), html.indexOf('Dome Lane')),
    text: text.slice(0, text.lastIndexOf('--\n')),
  };
};

describe('around the blocks of a message', () => {
  const { settings } = demoSnapshot;
  it('the subject is its title, and the preview line stands hidden before the rest', () => {
    const email: Document = {
      id: 'e',
      kind: 'email',
      name: 'E',
      slug: 'e',
      content: {
        subject: [{ kind: 'line', id: 'subject', content: words('Tonight') }],
        preview: [{ kind: 'line', id: 'preview', content: words('The comet is near') }],
        body: [{ kind: 'heading', id: 'h', level: 1, content: words('Look up') }],
      },
    };
    const compiled = new CompiledSnapshot({ ...demoSnapshot, documents: [email] }, base);
    const { html, subject } = compiled.emails.compose('e', viewer, `${base}/out`);
    expect(subject).toBe('Tonight');
    expect(html).toContain('<title>Tonight</title>');
    expect(html).toMatch(/<body[^>]*><div style="display: none[^"]*">The comet is near<\/div><table/);
  });

  it('the foot says in plain text too who writes, from where, and how to stop it', () => {
    const { text } = compiledWith().emails.compose('e', viewer, `${base}/out`);
    expect(text).toBe(`--\n${settings.name}\n${settings.postalAddress}\nUnsubscribe: ${base}/out`);
    expect(settings.postalAddress).not.toBe('');
  });
});

it('a whole message is these bytes', () => {
  const email: Document = {
    id: 'e',
    kind: 'email',
    name: 'E',
    slug: 'e',
    content: {
      subject: [{ kind: 'line', id: 'subject', content: words('Tonight') }],
      preview: [{ kind: 'line', id: 'preview', content: words('The comet is near') }],
      body: [
        { kind: 'heading', id: 'h', level: 1, content: words('Look up') },
        { kind: 'divider', id: 'd' },
        { kind: 'spacer', id: 's', size: 'small' },
        { kind: 'button', id: 'b', label: words('Where?'), address: 'https://www.example.org/' },
      ],
    },
  };
  const compiled = new CompiledSnapshot({ ...demoSnapshot, documents: [email] }, base);
  // A change of what mail looks like changes this on purpose: look at it in a mail program first.
  expect(compiled.emails.compose('e', viewer, `${base}/out`).html).toMatchInlineSnapshot(`
    "<!doctype html>
    <html lang="en-GB"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>Tonight</title></head><body style="margin: 0; padding: 0; background: #f6f2e9"><div style="display: none; max-height: 0; overflow: hidden">The comet is near</div><table role="presentation" width="100%" cellpadding="0" cellspacing="0" border="0" style="background: #f6f2e9" bgcolor="#f6f2e9"><tbody><tr><td align="center" style="padding: 24px 12px"><table role="presentation" width="100%" cellpadding="0" cellspacing="0" border="0" style="max-width: 600px; background: #fffdf8" bgcolor="#fffdf8"><tbody><tr><td style="padding: 8px 32px"><h1 style="margin: 0; color: #26221c; font: bold 28px/34px &#39;Instrument Sans&#39;, Helvetica, Arial, sans-serif">Look up</h1></td></tr><tr><td style="padding: 12px 32px"><div style="border-top: 1px solid #e1d9c9; font-size: 0; line-height: 0"></div></td></tr><tr><td style="height: 12px; font-size: 0; line-height: 0"> </td></tr><tr><td style="padding: 8px 32px 20px"><a style="display: inline-block; padding: 12px 20px; border-radius: 8px; background: #2c6748; color: #ffffff; font: bold 16px/20px &#39;Instrument Sans&#39;, Helvetica, Arial, sans-serif; text-decoration: none" href="https://www.example.org/">Where?</a></td></tr><tr><td style="padding: 20px 32px; border-top: 1px solid #e1d9c9; color: #6a6256; font: 13px/20px &#39;Instrument Sans&#39;, Helvetica, Arial, sans-serif">Quillmere Observatory<br>1 Dome Lane, Quillmere QM1 0AA<br><a href="http://127.0.0.1:4310/out" style="color: #6a6256">Unsubscribe</a></td></tr></tbody></table></td></tr></tbody></table></body></html>"
  `);
});

describe('what a block is in mail, as HTML and as plain text', () => {
  it('a heading of each size', () => {
    for (const level of [1, 2, 3] as const) {
      const { html, text } = mail({ kind: 'heading', id: 'h', level, content: words('Look up') });
      expect(html).toMatch(new RegExp(`<h${level} style="[^"]+">Look up</h${level}>`));
      expect(text).toBe('Look up\n\n');
    }
  });

  it('a picture by its whole address, the site’s own or one brought in, and its words', () => {
    const own = mail({ kind: 'picture', id: 'p', picture: 'comet', alt: 'A comet' });
    expect(own.html).toContain(`src="${base}/pictures/comet.png" alt="A comet"`);
    expect(own.text).toBe('[A comet]\n\n');
    const brought = { kind: 'picture' as const, id: 'p', picture: 'comet', alt: '', file: 'file-123456' };
    const { html, text } = mail(brought);
    expect(html).toContain(`src="${base}/site/files/file-123456" alt=""`);
    expect(html).not.toContain('comet.png');
    expect(text).toBe('');
    // Mail programs ask for it as nobody; a file that stands nowhere is nobody’s.
    const nobody = { ...viewer, contact: null, signedIn: false };
    expect(compiledWith(brought).parts.mayHaveFile('file-123456', nobody)).toBe(true);
    expect(compiledWith().parts.mayHaveFile('file-123456', nobody)).toBe(false);
  });

  it('a button and a link, with the reader recognised on the site and nowhere else', () => {
    const known = compiledWith(
      { kind: 'button', id: 'b', label: words('Choose a night'), address: '/site/membership' },
      { kind: 'link', id: 'l', label: words('Elsewhere'), address: 'https://www.example.org/a?b=c&d' },
      { kind: 'button', id: 'x', label: words('Unsafe'), address: 'javascript:alert(1)' },
    ).emails.compose('e', viewer, `${base}/out`, 'token.1');
    expect(known.html).toContain(`href="${base}/site/membership?k=token.1">Choose a night</a>`);
    expect(known.html).toContain('href="https://www.example.org/a?b=c&amp;d">Elsewhere</a>');
    expect(known.html).not.toContain('javascript');
    expect(known.text).toContain(`Choose a night: ${base}/site/membership?k=token.1\n`);
    expect(known.text).toContain('Elsewhere: https://www.example.org/a?b=c&d\n');
  });

  it('text with lists, links, quotes and a table', () => {
    const paragraph = (text: string) => ({ type: 'paragraph' as const, content: words(text) });
    const { html, text } = mail({
      kind: 'text',
      id: 't',
      content: [
        {
          type: 'paragraph',
          content: [
            {
              type: 'text',
              text: 'the site',
              marks: [{ type: 'link', attrs: { href: 'https://www.example.org/' } }],
            },
            { type: 'hardBreak' },
            { type: 'text', text: 'below' },
          ],
        },
        {
          type: 'bulletList',
          content: [
            { type: 'listItem', content: [paragraph('one')] },
            { type: 'listItem', content: [paragraph('two')] },
          ],
        },
      ],
    });
    expect(html).toContain('<a');
    expect(html).toMatch(/<li[^>]*>.*one/);
    expect(text).toContain('the site (https://www.example.org/)\nbelow');
    expect(text).toMatch(/- one\s+- two/);
    expect(text).not.toMatch(/<\w/);
  });

  it('a table with a line for each row and something between its cells', () => {
    const cell = (type: 'tableHeader' | 'tableCell', text: string) => ({
      type,
      content: [{ type: 'paragraph' as const, content: words(text) }],
    });
    const row = (type: 'tableHeader' | 'tableCell', ...texts: string[]) => ({
      type: 'tableRow' as const,
      content: texts.map((text) => cell(type, text)),
    });
    const { text } = mail({
      kind: 'text',
      id: 't',
      content: [
        { type: 'table', content: [row('tableHeader', 'Night', 'Sky'), row('tableCell', 'Friday', 'Clear')] },
      ],
    });
    expect(text).toBe('Night | Sky\nFriday | Clear\n\n');
  });

  it('a quotation with its author, a divider, space, a section, a list of links', () => {
    const quotation: Node = { kind: 'quotation', id: 'q', content: words('Bring a flask'), by: 'Orla' };
    expect(mail(quotation).html).toMatch(/<p style="[^"]+"><span>Bring a flask<\/span><br>— Orla<\/p>/);
    expect(mail(quotation).text).toBe('“Bring a flask” — Orla\n\n');
    expect(mail({ ...quotation, by: '' }).text).toBe('“Bring a flask”\n\n');
    expect(mail({ kind: 'divider', id: 'd' }).text).toBe('----\n\n');
    for (const [size, height] of [
      ['small', 12],
      ['medium', 28],
      ['large', 56],
    ] as const) {
      const { html, text } = mail({ kind: 'spacer', id: 's', size });
      expect(html).toContain(`height: ${height}px`);
      expect(text).toBe('');
    }
    const link: Node = { kind: 'link', id: 'l', label: words('Guides'), address: '/site/sky-guides' };
    const links: Node = { kind: 'links', id: 'ls', name: 'Ways on', look: 'list', children: [link] };
    const section: Node = {
      kind: 'section',
      id: 'sec',
      name: '',
      tone: 'warm',
      layout: 'row',
      children: [quotation, links],
    };
    const { html, text } = mail(section);
    expect(html).toMatch(/bgcolor="#\w{6}"/);
    expect(text).toBe(`“Bring a flask” — Orla\n\nGuides: ${base}/site/sky-guides\n\n`);
  });

  it('nothing of what only a page can show', () => {
    const { html, text } = mail(
      { kind: 'account', id: 'a' },
      { kind: 'countdown', id: 'c', until: '2031-01-01T00:00', label: 'Until then', over: 'Now' },
      { kind: 'html', id: 'x', html: '<p>from elsewhere</p>' },
    );
    expect(html + text).not.toMatch(/Until then|from elsewhere|Sign out/);
  });
});
