import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoSnapshot } from '../../demo/scenario.ts';
import { contentSchema } from '../documents/document.ts';
import { unsavable } from '../documents/validate.ts';
import { CompiledSnapshot } from '../rendering/compiled.ts';
import { blocksFromHtml } from './html.ts';

let made = 0;
const newId = () => `b${++made}`;
const read = (html: string) => blocksFromHtml(html, newId);
const kinds = (html: string) => read(html).blocks.map(({ kind }) => kind);
const instant = Date.parse('2026-11-24T12:00:00Z');
const render = (html: string): string => {
  const content = { subject: [], preview: [], body: read(html).blocks };
  const compiled = new CompiledSnapshot(
    { ...demoSnapshot, documents: [{ id: 'p', kind: 'page', name: 'P', slug: 'p', content }] },
    'http://127.0.0.1',
  );
  const answer = compiled.pages.at('p', { contact: null, signedIn: false, visit: {}, item: null, instant });
  const page = answer.kind === 'page' ? answer.html : '';
  return page.slice(page.indexOf('<main'), page.indexOf('</main>'));
};

describe('HTML as blocks', () => {
  it('keeps headings, text, pictures, lists, tables, quotations and lines', () => {
    expect(
      kinds(
        '<h1>A</h1><p>B<p>C<ul><li>D</ul><hr><img src=e alt=E><blockquote><p>F</blockquote><table><tr><td>G</table><h2>H</h2>',
      ),
    ).toEqual(['heading', 'text', 'divider', 'picture', 'text', 'heading']);
    expect(read('<title>A page</title><p>x').title).toBe('A page');
  });

  it('keeps no entry of a list that says nothing, and no list without one', () => {
    expect(render('<ul><li></li><li>A</li><li> </li></ul>').match(/<li/g)).toHaveLength(1);
    expect(kinds('<p>B</p><ol><li></li></ol>')).toEqual(['text']);
    expect(render('<p>B</p><ol><li></li></ol>')).not.toContain('<ol');
  });

  it('keeps three levels of headings, and none without words', () => {
    const levels = [1, 2, 3, 4, 5, 6].map((level) => {
      const [heading] = read(`<h${level}>Words</h${level}>`).blocks;
      return heading?.kind === 'heading' ? heading.level : undefined;
    });
    expect(levels).toEqual([1, 2, 3, 3, 3, 3]);
    expect(kinds('<h1> </h1><h2><br></h2><p>x</p>')).toEqual(['text']);
  });

  it('keeps bold, italic and safe links, single white space, and nothing that is nested too deep', () => {
    expect(render('<p> a <b>b  <i>c</i></b>\n<a href="https://example.org/?a=1&amp;b=2">d</a>')).toContain(
      '<p>a <strong>b </strong><strong><em>c</em></strong> <a href="https://example.org/?a=1&amp;b=2">d</a></p>',
    );
    const deep = `${'<div>'.repeat(5000)}deep${'</div>'.repeat(5000)}`;
    expect(read(deep).dropped).toEqual([{ what: 'part nested too deep', count: 1 }]);
    expect(read(`${'<b>'.repeat(100_000)}x`).blocks.length).toBeLessThanOrEqual(1);
  });

  it('reads what is not closed as a browser would (HTML Living Standard, 13.2)', () => {
    expect(render('<ul><li>one<li>two</ul>')).toContain('<li><p>one</p></li><li><p>two</p></li>');
    expect(render('<table><tr><th>a<td>b<tr><td>c</table>')).toContain(
      '<tr><th><p>a</p></th><td><p>b</p></td></tr>',
    );
    expect(render('<p>bold <b>until<p>here')).toContain('<strong>until</strong>');
  });

  it.each([
    ['paragraphs', '<p>x</p>'.repeat(2001)],
    ['items of a list', `<ul>${'<li>x</li>'.repeat(2001)}</ul>`],
    ['rows of a table', `<table>${'<tr><td>x</td></tr>'.repeat(2001)}</table>`],
    ['cells of a row', `<table><tr>${'<td>x</td>'.repeat(2001)}</tr></table>`],
    ['headings', '<h2>x</h2>'.repeat(2001)],
    ['links in a line', `<p>${'<a href="https://www.example.org/">x</a> '.repeat(6000)}</p>`],
    ['letters', `<p>${'x'.repeat(300_000)}</p>`],
    ['letters of an address', `<p><a href="https://www.example.org/${'x'.repeat(3000)}">x</a></p>`],
    ['words of a picture', `<img alt="x${'🔭'.repeat(200)}">`],
  ])('makes what can be stored of thousands of %s', (_what, html) => {
    const content = { subject: [], preview: [], body: read(html).blocks };
    expect(content.body.length).toBeGreaterThan(0);
    expect(contentSchema.safeParse(content).error?.issues).toBeUndefined();
    expect(unsavable('page', content)).toEqual([]);
    // No character is cut in two.
    expect(JSON.stringify(content)).not.toMatch(/\\ud[89a-f]/i);
  });

  it('says what it left out and how often', () => {
    expect(
      read('<script>a</script><script>b</script><style>c</style><form><input><p>kept</form>').dropped,
    ).toEqual([
      { what: 'script', count: 2 },
      { what: 'style sheet', count: 1 },
      { what: 'form', count: 1 },
      { what: 'form field', count: 1 },
    ]);
    expect(read('').blocks).toEqual([]);
    expect(read(Array.from({ length: 600 }, () => '<h2>x</h2>').join('')).dropped).toEqual([
      { what: 'block past the five hundredth', count: 100 },
    ]);
  });

  // OWASP XSS filter evasion style inputs.
  it.each([
    '<script>alert(1)</script>',
    '<p onclick=alert(1)>x',
    '<a href="javascript:alert(1)">x</a>',
    '<a href=" java\tscript:alert(1)">x</a>',
    '<img src=x onerror=alert(1)>',
    '<svg><script>alert(1)</script></svg>',
    '<iframe src=//evil.example></iframe>',
    '<p>&lt;script&gt;alert(1)&lt;/script&gt;',
    '<!--><script>alert(1)</script>',
    '<noscript><p title="</noscript><img src=x onerror=alert(1)>">',
  ])('%j does no harm', (html) => {
    const main = render(html);
    expect(main).not.toMatch(/<(script|svg|iframe)|href="javascript|<[^>]* on\w+=/i);
  });

  it('makes of anything at all a page that can be stored and shown (property)', () => {
    const tag = fc.constantFrom(
      'p',
      'b',
      'div',
      'ul',
      'li',
      'table',
      'tr',
      'td',
      'a',
      'h1',
      'blockquote',
      'script',
      'img',
      'br',
      'x',
    );
    const piece = fc.oneof(
      fc.string(),
      tag.map((name) => `<${name}>`),
      tag.map((name) => `</${name}>`),
      fc.constantFrom('<a href="', '"', '>', '<!--', '-->', '&#0;', '&amp', '\0'),
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 40 }), (pieces) => {
        const content = { subject: [], preview: [], body: read(pieces.join('')).blocks };
        expect(contentSchema.safeParse(content).error).toBeUndefined();
        expect(unsavable('page', content)).toEqual([]);
      }),
    );
  });
});
