import { describe, expect, it, vi } from 'vitest';
import { demoSnapshot } from '../../demo/scenario.ts';
import type { Attribute } from '../attributes/attribute.ts';
import { test } from '../conditions/condition.ts';
import type { Document, Node } from '../documents/document.ts';
import { words } from '../documents/text.ts';
import { instantOfLocal } from './blocks/people.ts';
import { shape } from './blocks/pictures.ts';
import { CompiledSnapshot } from './compiled.ts';

const base = 'http://127.0.0.1:4310';
const instant = Date.parse('2026-11-24T12:00:00Z');
const contact = { source: 'contact', description: '' } as const;
/** An attribute of each type that a form can ask for. */
const asked: Attribute[] = [
  { ...contact, id: 'a-number', label: 'size', type: 'number' },
  { ...contact, id: 'a-whole', label: 'seats', type: 'number', whole: true },
  { ...contact, id: 'a-date', label: 'birthday', type: 'date' },
  { ...contact, id: 'a-yes', label: 'by car', type: 'yes-no' },
];
const compiled = (...body: Node[]) => {
  const page: Document = {
    id: 'p',
    kind: 'page',
    name: 'P',
    slug: 'p',
    content: { subject: [], preview: [], body },
  };
  return new CompiledSnapshot(
    {
      ...demoSnapshot,
      attributes: [...demoSnapshot.attributes, ...asked],
      documents: [...demoSnapshot.documents, page],
    },
    base,
  );
};
/** The page's own part as somebody gets it. */
const main = (body: Node | Node[], who: Record<string, unknown> | null = null) => {
  const viewer = { contact: who, signedIn: who !== null, visit: {}, item: null, instant };
  const answer = compiled(...(Array.isArray(body) ? body : [body])).pages.at('p', viewer);
  const html = answer.kind === 'page' ? answer.html : '';
  return html.slice(html.indexOf('<main'), html.indexOf('</main>')).replace(/^<main[^>]*>/, '');
};

describe('what a block is on a page', () => {
  it('a quotation, with its author where there is one', () => {
    const quotation: Node = { kind: 'quotation', id: 'q', content: words('Bring a flask'), by: 'Orla' };
    expect(main(quotation)).toBe(
      '<figure class="quotation"><blockquote><p>Bring a flask</p></blockquote><figcaption>Orla</figcaption></figure>',
    );
    expect(main({ ...quotation, by: '' })).not.toContain('figcaption');
  });

  // HTML Standard 4.8.3: width and height reserve the place; with loading=lazy it is asked for when it comes into view.
  it('a picture with its size, as far as it is known, and loaded late where it is not in view first', () => {
    const picture = (id: string): Node => ({ kind: 'picture', id, file: id, picture: 'moon', alt: '' });
    const page: Document = {
      id: 'p',
      kind: 'page',
      name: 'P',
      slug: 'p',
      content: {
        subject: [],
        preview: [],
        body: [picture('first'), { kind: 'divider', id: 'd' }, { kind: 'divider', id: 'e' }, picture('late')],
      },
    };
    const sizes = new Map([['/site/files/first', { width: 640, height: 480, isScalable: false }]]);
    const site = new CompiledSnapshot({ ...demoSnapshot, documents: [page] }, base, { sizes });
    const answer = site.pages.at('p', { contact: null, signedIn: false, visit: {}, item: null, instant });
    const html = answer.kind === 'page' ? answer.html : '';
    expect(html).toContain('<img class="picture" src="/site/files/first" alt="" width="640" height="480">');
    expect(html).toContain('<img class="picture" src="/site/files/late" alt="" loading="lazy">');
  });

  it('a picture in the widths that are smaller than its own, where it can be made smaller', () => {
    const drawn = (width: number, isScalable: boolean, isLate: boolean) =>
      shape('/a', { sizes: new Map([['/a', { width, height: 10, isScalable }]]) }, isLate);
    expect(drawn(480, true, false)).toEqual({ width: '480', height: '10' });
    expect(drawn(4000, false, false)).toEqual({ width: '4000', height: '10' });
    expect(drawn(961, true, false)).toEqual({
      width: '961',
      height: '10',
      srcset: '/a/480.webp 480w, /a/960.webp 960w, /a 961w',
      sizes: '(max-width: 1040px) 100vw, 1040px',
    });
    expect(drawn(4000, true, true)).toEqual({
      width: '4000',
      height: '10',
      srcset: '/a/480.webp 480w, /a/960.webp 960w, /a/1600.webp 1600w, /a 4000w',
      sizes: 'auto, (max-width: 1040px) 100vw, 1040px',
      loading: 'lazy',
    });
  });

  it('a divider, and space of each size', () => {
    expect(main({ kind: 'divider', id: 'd' })).toBe('<hr class="divider">');
    for (const size of ['small', 'medium', 'large'] as const)
      expect(main({ kind: 'spacer', id: 's', size })).toBe(`<div class="spacer size-${size}"></div>`);
  });

  it('a video from its file, or a word that there is none yet', () => {
    const video: Node = { kind: 'video', id: 'v', file: 'file-1234567', caption: 'The comet' };
    expect(main(video)).toBe(
      '<figure class="video"><video controls="" preload="metadata" src="/site/files/file-1234567"></video><figcaption>The comet</figcaption></figure>',
    );
    expect(main({ ...video, file: null, caption: '' })).toContain('No video chosen yet');
  });

  it('a notice and an account box by who is signed in', () => {
    const notice: Node = {
      kind: 'notice',
      id: 'n',
      signedOut: 'Come in first',
      signedIn: 'Not with this card',
      address: '/site/membership',
    };
    expect(main(notice)).toContain('<p>Come in first</p><a class="button" href="/site/sign-in">');
    expect(main(notice)).not.toContain('Not with this card');
    const inside = main(notice, { tier: 'dusk' });
    expect(inside).toContain('<p>Not with this card</p><a class="button" href="/site/membership">');
    expect(inside).not.toContain('Come in first');
    expect(main({ ...notice, address: 'javascript:alert(1)' }, { tier: 'dusk' })).not.toContain('<a ');
    const account: Node = { kind: 'account', id: 'a' };
    expect(main(account)).toBe('<div class="account"><a href="/site/sign-in">Sign in</a></div>');
    expect(main(account, { 'first-name': 'Ines' })).toMatch(/Ines.*Sign out/);
  });

  it('a countdown that says the moment for the script, and its words without one', () => {
    const html = main({
      kind: 'countdown',
      id: 'c',
      until: '2026-11-26T12:00',
      label: 'Until the comet',
      over: 'It is here',
    });
    expect(html).toContain('data-until="2026-11-26T12:00:00.000Z"');
    expect(html).toContain('<strong class="countdown-left">2 days</strong>');
    // The clocks of the site's zone: in July an hour before those of UTC.
    expect(instantOfLocal('2026-07-01T12:00', 'Europe/London')).toBe(Date.parse('2026-07-01T11:00Z'));
    expect(instantOfLocal('no moment', 'Europe/London')).toBe(0);
  });

  it('links to what the viewer may open, and a button to what is closed as well', () => {
    const link = (address: string): Node => ({ kind: 'link', id: address, label: words(address), address });
    const closed = '/site/guides/dome-by-yourself';
    const links: Node = {
      kind: 'links',
      id: 'l',
      name: '',
      look: 'menu',
      children: [link(closed), link('/site/membership'), link('https://www.example.org/')],
    };
    expect(main(links)).toContain('<nav class="links look-menu" aria-label="Links">');
    expect(main(links).match(/<a /g)).toHaveLength(2);
    expect(main(links, { tier: 'midnight' }).match(/<a /g)).toHaveLength(3);
    const button: Node = { kind: 'button', id: 'b', label: words('Read it'), address: closed };
    expect(main(button)).toContain(`href="${closed}"`);
  });

  it('a countdown’s words as text, whatever is in them', () => {
    const html = main({
      kind: 'countdown',
      id: 'c',
      until: '2020-01-01T00:00',
      label: '<i>label</i>',
      over: '<i>over</i>"',
    });
    expect(html).not.toContain('<i>');
    expect(html).toContain('data-over="&lt;i&gt;over&lt;/i&gt;&quot;"');
    expect(html).toContain('<strong class="countdown-left">&lt;i&gt;over&lt;/i&gt;&quot;</strong>');
  });

  it('a list of which the viewer may open nothing as its own words', () => {
    const list: Node = {
      kind: 'list',
      id: 'l',
      collection: 'guides',
      layout: 'rows',
      where: test('tier', 'has-value'),
      sort: 'order',
      down: false,
      most: 3,
      empty: 'Nothing for you yet',
    };
    expect(main(list)).toContain('<p class="empty-note">Nothing for you yet</p>');
    expect(main(list, { tier: 'midnight' })).not.toContain('Nothing for you yet');
  });

  it('HTML from elsewhere as it was stored, and of a list without a collection what it says then', () => {
    expect(main({ kind: 'html', id: 'x', html: '<p>From <b>elsewhere</b></p>' })).toBe(
      '<div class="html"><p>From <b>elsewhere</b></p></div>',
    );
    const list: Node = {
      kind: 'list',
      id: 'l',
      collection: 'gone',
      layout: 'rows',
      where: null,
      sort: 'order',
      down: false,
      most: 3,
      empty: 'Nothing yet',
    };
    expect(main(list)).toBe('<div class="list"><p class="empty-note">Nothing yet</p></div>');
  });
});

describe('a form', () => {
  const form = (attribute: string, rest: { required?: boolean; only?: string[]; label?: string } = {}) =>
    main({
      kind: 'form',
      id: 'f',
      fields: [{ attribute, label: '', required: false, ...rest }],
      submit: 'Send',
      next: '',
    });

  it('asks for each type with the field that fits it', () => {
    expect(form('email')).toContain('type="email"');
    expect(form('first-name')).toContain('type="text"');
    expect(form('a-number')).toMatch(/type="number" step="any"/);
    expect(form('a-whole')).toMatch(/type="number"/);
    expect(form('a-whole')).not.toContain('step=');
    expect(form('a-date')).toContain('type="date"');
    const yesNo = form('a-yes');
    expect([...yesNo.matchAll(/<option value="([^"]*)"/g)].map(([, value]) => value)).toEqual([
      '',
      'yes',
      'no',
    ]);
  });

  it('offers choices by their names, all or those that are left', () => {
    expect(form('tier').match(/<option/g)).toHaveLength(4);
    const some = form('tier', { only: ['dusk', 'midnight'] });
    expect([...some.matchAll(/<option value="([^"]*)"/g)].map(([, value]) => value)).toEqual([
      '',
      'dusk',
      'midnight',
    ]);
    expect(form('tags').match(/type="checkbox"/g)?.length).toBeGreaterThan(2);
    expect(form('tags', { label: 'What do you like?' })).toContain('<legend>What do you like?</legend>');
  });

  it('has one of several that exclude each other picked, and any of those that do not', () => {
    const group = (...members: string[]) =>
      new CompiledSnapshot(
        {
          ...demoSnapshot,
          attributes: [
            {
              ...contact,
              id: 'meals',
              label: 'meals',
              type: 'set',
              choices: ['soup', 'salad', 'cake'].map((id) => ({ id, label: id })),
              exclusiveGroups: [{ name: 'one of these', members }],
            },
          ],
          audiences: [],
          documents: [
            {
              id: 'p',
              kind: 'page',
              name: 'P',
              slug: 'p',
              content: {
                subject: [],
                preview: [],
                body: [
                  {
                    kind: 'form',
                    id: 'f',
                    fields: [{ attribute: 'meals', label: '', required: true }],
                    submit: 'Send',
                    next: '',
                  },
                ],
              },
            },
          ],
        },
        base,
      ).pages.at('p', { contact: null, signedIn: false, visit: {}, item: null, instant });
    const types = (answer: ReturnType<typeof group>) =>
      answer.kind === 'page' ? [...answer.html.matchAll(/<input type="(\w+)"/g)].map(([, type]) => type) : [];
    expect(types(group('soup', 'salad', 'cake'))).toEqual(['radio', 'radio', 'radio']);
    expect(types(group('soup', 'salad'))).toEqual(['checkbox', 'checkbox', 'checkbox']);
  });

  it('is sent to its own page’s address, says what it asks, and what must be answered', () => {
    const html = form('first-name', { required: true, label: 'What shall we call you?' });
    expect(html).toContain('method="post" action="/site/forms/p/f"');
    expect(html).toContain('What shall we call you?');
    expect(html).toMatch(/<input [^>]*required=""/);
    expect(form('first-name')).not.toContain('required');
    // A field for an attribute that is gone asks nothing.
    expect(form('never-was')).not.toContain('never-was');
  });
});

it('reads a viewer once for a page, however many links and menu entries ask who may open what', () => {
  const audience = demoSnapshot.audiences[0]?.id ?? '';
  const pages = Array.from({ length: 12 }, (_, at) => ({
    id: `closed-${at}`,
    kind: 'page' as const,
    name: `Closed ${at}`,
    slug: `closed-${at}`,
    content: { subject: [], preview: [], body: [] },
    access: { audience, otherwise: 'not-found' as const },
  }));
  const compiled = new CompiledSnapshot(
    { ...demoSnapshot, documents: [...demoSnapshot.documents, ...pages] },
    'http://127.0.0.1',
  );
  const viewer = { contact: { tier: 'midnight' }, signedIn: true, visit: {}, item: null, instant };
  const read = vi.spyOn(compiled.decider, 'facts');
  expect(compiled.pages.at('', viewer).kind).toBe('page');
  expect(read).toHaveBeenCalledTimes(1);
});
