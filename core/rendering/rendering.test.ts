import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoDocuments, demoPeople, demoSettings, demoSnapshot } from '../../demo/scenario.ts';
import { localDay } from '../attributes/calendar.ts';
import { test } from '../conditions/condition.ts';
import { LibraryView } from '../deciding/library-view.ts';
import type { MenuEntry, Snapshot } from '../deciding/release.ts';
import type { ListBlock } from '../documents/blocks/items.ts';
import type { Document, Node } from '../documents/document.ts';
import { words } from '../documents/text.ts';
import { CompiledSnapshot } from './compiled.ts';
import { oneLine } from './compiled-emails.ts';
import { emailParts } from './email.ts';
import { Flat } from './flatten.ts';
import type { Markup } from './markup.ts';
import { pageBody, siteFrame } from './page.ts';
import { resolve, toHtml } from './resolve.ts';

const instant = Date.parse('2026-11-24T12:00:00Z');
const base = 'http://127.0.0.1:4310';
const snapshot: Snapshot = demoSnapshot;
const compiled = new CompiledSnapshot(snapshot, base);
const { decider } = compiled;
const { catalogue } = decider;
const viewer = (contact: Record<string, unknown> | null) => ({
  contact,
  signedIn: contact !== null,
  visit: { 'visit-device': 'computer' },
  item: null,
  instant,
});
const pageWith = (...body: Node[]): CompiledSnapshot => {
  const document: Document = {
    id: 'p',
    kind: 'page',
    name: 'P',
    slug: 'p',
    content: { subject: [], preview: [], body },
  };
  return new CompiledSnapshot({ ...snapshot, documents: [document] }, base);
};
const htmlOf = (answer: ReturnType<CompiledSnapshot['pages']['at']>) =>
  answer.kind === 'page' ? answer.html : '';
const html = (node: Node, contact: Record<string, unknown> | null = null) =>
  htmlOf(pageWith(node).pages.at('p', viewer(contact)));

const heading2 = (text: string): Node => ({ kind: 'heading', id: text, level: 2, content: words(text) });

describe('what stands around every page', () => {
  it('names who is signed in, also where nothing else asks for a name', () => {
    const page = pageWith({ kind: 'divider', id: 'd' });
    const header = (contact: Record<string, unknown> | null) =>
      /<div class="site-account">(.*?)<\/div>/.exec(htmlOf(page.pages.at('p', viewer(contact))))?.[1] ?? '';
    expect(header({ 'first-name': 'Ines' })).toContain('<span class="site-person">Ines</span>');
    expect(header({})).toContain('<span class="site-person">Your account</span>');
    expect(header(null)).not.toContain('site-person');
  });

  it('leads to every page but the one that its name leads to, where no menu is set', () => {
    const { menu: _, ...settings } = snapshot.settings;
    const documents = ['', 'first', 'second'].map(
      (slug): Document => ({
        id: `p${slug}`,
        kind: 'page',
        name: `Page ${slug}`,
        slug,
        content: { subject: [], preview: [], body: [] },
      }),
    );
    const site = new CompiledSnapshot({ ...snapshot, settings, documents }, base);
    const menu = /<nav class="site-menu"[^>]*>(.*?)<\/nav>/.exec(
      htmlOf(site.pages.at('first', viewer(null))),
    );
    expect([...(menu?.[1] ?? '').matchAll(/href="([^"]*)"/g)].map(([, address]) => address)).toEqual([
      '/site/first',
      '/site/second',
    ]);
  });
});

describe('words that differ within a line', () => {
  const heading = (...variants: [audience: string, words: string][]): Node => ({
    kind: 'heading',
    id: 'h',
    level: 2,
    content: [
      { type: 'text', text: 'Hello ' },
      {
        type: 'alternatives',
        attrs: {
          id: 'who',
          name: 'who',
          variants: variants.map(([audience, own], at) => ({ id: `v${at}`, audience, words: own })),
          otherwise: 'stranger',
        },
      },
      { type: 'text', text: '!' },
    ],
  });
  it('are those of the first audience that contains the viewer, nothing where these are none', () => {
    const node = heading(['midnight-members', 'night <owl>'], ['any-member', '']);
    expect(html(node)).toContain('>Hello stranger!</h2>');
    expect(html(node, { tier: 'midnight' })).toContain('>Hello night &lt;owl&gt;!</h2>');
    expect(html(node, { tier: 'dusk' })).toContain('>Hello !</h2>');
  });

  it('are one slot of its page that can be asked for alone', () => {
    const page = pageWith(
      heading(['midnight-members', 'night owl']),
      { kind: 'slot', id: 's', name: 'Offer', variants: [], otherwise: [{ kind: 'divider', id: 'd' }] },
      {
        kind: 'slot',
        id: 't',
        name: 'Gift',
        variants: [
          { id: 'first', audience: 'midnight-members', content: [{ kind: 'divider', id: 'e' }] },
          {
            id: 'second',
            audience: 'any-member',
            content: [{ kind: 'heading', id: 'inner', level: 2, content: words('Yours') }],
          },
        ],
        otherwise: [],
      },
    );
    const keyOf = (slot: string) => page.slots.keys().find((one) => one.slot === slot)?.key ?? '';
    const asked = (slot: string, contact: Record<string, unknown> | null) => {
      const found = page.slots.get(keyOf(slot), viewer(contact));
      return found && [found.variant, found.html.replace(/<[^>]*>/g, '')];
    };
    expect(asked('Gift', null)).toEqual([null, '']);
    expect(asked('Gift', { tier: 'dusk' })).toEqual(['second', 'Yours']);
    expect(asked('Gift', { tier: 'midnight' })).toEqual(['first', '']);
    expect(asked('Offer', null)).toEqual([null, '']);
    expect(page.slots.get('nowhere', viewer(null))).toBeUndefined();
  });
});

it('a slot that nothing was decided for is what everyone else gets, and nothing where that is nothing', () => {
  const page = pageWith(heading2('slot'));
  const tree = pageBody(
    {
      subject: [],
      preview: [],
      body: [
        {
          kind: 'slot',
          id: 's',
          name: 's',
          variants: [{ id: 'v', audience: 'any-member', content: [heading2('members')] }],
          otherwise: [heading2('rest')],
        },
      ],
    },
    { document: 'p', catalogue, locale: demoSettings.locale, collections: [], items: [] },
  );
  const shown = (...choices: number[]) => {
    const context = {
      facts: page.decider.facts(viewer(null)),
      choices: Int8Array.from(choices),
      links: {},
      instant,
      known: undefined,
      mayOpen: () => true,
      isIn: () => false,
      entries: () => [],
    };
    return toHtml(resolve(tree, context, catalogue)).replace(/<[^>]*>/g, '');
  };
  expect([shown(), shown(-1), shown(0), shown(7)]).toEqual(['rest', 'rest', 'members', '']);
});

describe('merge fields on the canvas', () => {
  it('are marked where the viewer has no value, and nowhere else', () => {
    const field = (attribute: string) => ({
      type: 'mergeField' as const,
      attrs: { attribute, fallback: 'friend' },
    });
    const body: Node[] = [
      { kind: 'heading', id: 'h', level: 1, content: [field('first-name'), field('last-name')] },
    ];
    const page = pageWith(...body);
    const tree = pageBody(
      { subject: [], preview: [], body },
      { document: 'p', catalogue, locale: demoSettings.locale, collections: [], items: [] },
    );
    const marked = (contact: Record<string, unknown>) => {
      const [heading] = resolve(
        tree,
        {
          facts: page.decider.facts(viewer(contact)),
          choices: page.decider.decide('p', page.decider.facts(viewer(contact))),
          links: {},
          instant,
          known: undefined,
          mayOpen: () => true,
          isIn: () => false,
          entries: () => [],
        },
        catalogue,
      );
      return typeof heading === 'object' && 'tag' in heading ? heading.children : [];
    };
    expect(marked({ 'first-name': 'Ines' })).toEqual([
      { attribute: 'first-name', missing: false, words: 'Ines' },
      { attribute: 'last-name', missing: true, words: 'friend' },
    ]);
    expect(marked({ 'last-name': 'Vale' })).toEqual([
      { attribute: 'first-name', missing: true, words: 'friend' },
      { attribute: 'last-name', missing: false, words: 'Vale' },
    ]);
  });
});

describe('one tree for the live site and the canvas', () => {
  const people = demoPeople(60, 7, localDay(instant, demoSettings.zone));
  const pageOf = ({ id }: Document) => ({
    document: id,
    catalogue,
    locale: demoSettings.locale,
    collections: snapshot.collections ?? [],
    items: snapshot.items ?? [],
  });
  const markup = (document: Document): Markup[] =>
    document.kind === 'page'
      ? siteFrame(pageBody(document.content, pageOf(document)), {
          settings: demoSettings,
          catalogue,
          pages: demoDocuments,
        })
      : emailParts(document.content, catalogue, demoSettings, base).body;

  it.each(demoDocuments)('$name: flattened and resolved give the same bytes for everybody', (document) => {
    const tree = markup(document);
    const flat = new Flat(tree, catalogue, 'html');
    for (const contact of [null, ...people.map((person) => person.values)]) {
      const facts = decider.facts(viewer(contact));
      const context = {
        facts,
        choices: decider.decide(document.id, facts),
        links: { unsubscribe: `${base}/u?a=1&b` },
        instant,
        known: 'a&b',
        mayOpen: (address: string) => compiled.pages.mayOpen(address, viewer(contact)),
        isIn: (audience: string) => decider.contains(audience, facts),
        entries: (list: ListBlock) => new LibraryView(compiled.library, viewer(contact)).shown(list),
      };
      expect(toHtml(resolve(tree, context, catalogue))).toBe(flat.join(context));
    }
  });
});

describe('pages', () => {
  it('holds nothing of what the viewer does not get', () => {
    const anonymous = htmlOf(compiled.pages.at('', viewer(null)));
    const midnight = htmlOf(compiled.pages.at('', viewer({ tier: 'midnight', 'first-name': 'Noor' })));
    expect(anonymous).toContain('Come and look up');
    expect(anonymous).not.toContain('The dome is yours');
    expect(anonymous).toContain('Sign in');
    expect(midnight).toContain('The dome is yours tonight, Noor');
    expect(midnight).not.toContain('Come and look up');
    expect(midnight).toContain('Sign out');
    expect(compiled.pages.at('nowhere', viewer(null))).toEqual({ kind: 'nothing' });
  });

  it('says of an entry what its viewer is to read, and no field of one that is locked', () => {
    const shop = (contact: Record<string, unknown> | null) =>
      htmlOf(compiled.pages.at('shop', viewer(contact)));
    const said = (page: string) =>
      [...page.matchAll(/<p class="entry-remark">([^<]*)</g)].map(([, one]) => one);
    const [first] = said(shop(null));
    expect(first).toMatch(/^£\d+\.\d\d$/);
    expect(said(shop({ tier: 'dusk' }))[0]).toBe(`For you a tenth less than ${first}`);
    const locked = new CompiledSnapshot(
      {
        ...snapshot,
        collections: (snapshot.collections ?? []).map((one) => ({
          ...one,
          locked: true,
          access: 'any-member',
        })),
      },
      base,
    );
    const teased = htmlOf(locked.pages.at('shop', viewer(null)));
    expect(said(teased)[0]).toBe('£');
    expect(teased).not.toMatch(/£\d/);
  });

  it('has a menu whose entries say what their viewer is to read, and none of another’s', () => {
    const menu: MenuEntry[] = [
      {
        page: 'membership',
        variants: [
          { audience: 'gone', label: 'Never' },
          { audience: 'midnight-members', label: 'Your <nights>' },
          { audience: 'any-member', label: '' },
        ],
        otherwise: 'Join us',
      },
      { page: 'shop', variants: [{ audience: 'any-member', label: 'Member prices' }], otherwise: null },
      'survey',
      'nowhere',
    ];
    const site = new CompiledSnapshot({ ...snapshot, settings: { ...snapshot.settings, menu } }, base);
    const entries = (contact: Record<string, unknown> | null) =>
      [
        ...(
          /<nav class="site-menu"[^>]*>(.*?)<\/nav>/.exec(htmlOf(site.pages.at('', viewer(contact))))?.[1] ??
          ''
        ).matchAll(/<a href="([^"]*)">([^<]*)</g),
      ].map(([, address, words]) => `${address} ${words}`);
    expect(entries(null)).toEqual(['/site/membership Join us', '/site/survey Survey']);
    expect(entries({ tier: 'dusk' })).toEqual([
      '/site/membership Membership',
      '/site/shop Member prices',
      '/site/survey Survey',
    ]);
    expect(entries({ tier: 'midnight' })[0]).toBe('/site/membership Your &lt;nights&gt;');
  });

  it('has groups in its menu, which are there for whom something stands in them', () => {
    const plain = { variants: [], otherwise: '' };
    const hidden = { variants: [{ audience: 'midnight-members', label: null }], otherwise: '' };
    const menu: MenuEntry[] = [
      { name: 'Tickets & more', address: 'https://tickets.example.org/?a=1&b=2', ...hidden },
      { name: 'Members', ...plain, entries: [{ page: 'shop', variants: [], otherwise: null }, 'membership'] },
      { page: 'survey', ...plain, entries: [{ name: 'Vault', address: '/site/shop', ...plain }] },
    ];
    const closed = (slug: string) => ({ audience: slug === 'shop' ? 'midnight-members' : 'any-member' });
    const documents = snapshot.documents.map((one) =>
      one.slug === 'shop' || one.slug === 'membership'
        ? { ...one, access: { ...closed(one.slug), otherwise: 'not-found' as const } }
        : one,
    );
    const site = new CompiledSnapshot(
      { ...snapshot, documents, settings: { ...snapshot.settings, menu } },
      base,
    );
    const nav = (contact: Record<string, unknown> | null) =>
      /<nav class="site-menu"[^>]*>(.*?)<\/nav>/.exec(htmlOf(site.pages.at('', viewer(contact))))?.[1];
    const tickets = '<a href="https://tickets.example.org/?a=1&amp;b=2">Tickets &amp; more</a>';
    const group = (label: string, ...links: string[]) =>
      `<details class="site-menu-more" name="site-menu"><summary>${label}</summary><div class="site-menu-below">${links.join('')}</div></details>`;
    const survey = '<a href="/site/survey">Survey</a>';
    const membership = '<a href="/site/membership">Membership</a>';
    // A group of pages that are closed to its viewer is not even named.
    expect(nav(null)).toBe(tickets + group('Survey', survey));
    expect(nav({ tier: 'dusk' })).toBe(tickets + group('Members', membership) + group('Survey', survey));
    expect(nav({ tier: 'midnight' })).toBe(
      group('Members', membership) + group('Survey', survey, '<a href="/site/shop">Vault</a>'),
    );
  });

  it('is the same for all no longer where its menu asks for the visit', () => {
    const audiences = [
      ...snapshot.audiences,
      {
        id: 'phones',
        name: 'Phones',
        description: '',
        condition: test('visit-device', 'is-one-of', 'phone'),
      },
    ];
    const menu: MenuEntry[] = [
      { page: 'shop', variants: [{ audience: 'phones', label: 'x' }], otherwise: '' },
    ];
    const sameForAll = (settings: Snapshot['settings']) => {
      const answer = new CompiledSnapshot({ ...snapshot, audiences, settings }, base).pages.at(
        'membership',
        viewer(null),
      );
      return answer.kind === 'page' && answer.sameForAll;
    };
    expect(sameForAll(snapshot.settings)).toBe(true);
    expect(sameForAll({ ...snapshot.settings, menu })).toBe(false);
    // An entry that leads to an item comes and goes with it.
    const leadingTo = (address: string): MenuEntry => ({
      name: 'Chart',
      address,
      variants: [],
      otherwise: '',
    });
    const withEntry = (address: string) => sameForAll({ ...snapshot.settings, menu: [leadingTo(address)] });
    expect(withEntry('/site/guides/star-chart')).toBe(false);
    expect(withEntry('https://tickets.example.org/')).toBe(true);
  });

  it('marks a block for some screens only, whatever kind it is, and sends it to all', () => {
    const on = (node: Node) => html(node).slice(html(node).indexOf('<main'), html(node).indexOf('</main>'));
    const heading = { kind: 'heading', id: 'h', level: 2, content: words('Only here') } as const;
    expect(on({ ...heading, screens: 'narrow' })).toContain('<h2 class="heading only-narrow">Only here</h2>');
    expect(on(heading)).not.toContain('only-');
    const section = { kind: 'section', id: 's', name: '', tone: 'plain', layout: 'row' } as const;
    expect(on({ ...section, screens: 'wide', children: [heading] })).toMatch(
      /<section class="[^"]* only-wide"/,
    );
    // An entry that depends on what its viewer may open is marked within.
    const link = {
      kind: 'link',
      id: 'l',
      label: words('Shop'),
      address: '/site/shop',
      screens: 'wide',
    } as const;
    expect(on(link)).toContain('<a class="link only-wide" href="/site/shop">');
  });

  it('crops a picture to a ratio, keeping the side that is asked for', () => {
    const picture = { kind: 'picture', id: 'p', picture: 'moon', alt: 'The Moon' } as const;
    const classOf = (node: Node) => /<img class="([^"]*)"/.exec(html(node))?.[1];
    expect(classOf(picture)).toBe('picture');
    expect(classOf({ ...picture, ratio: '16-9' })).toBe('picture ratio-16-9');
    expect(classOf({ ...picture, ratio: '1-1', keeps: 'top' })).toBe('picture ratio-1-1 keeps-top');
    expect(classOf({ ...picture, keeps: 'top' })).toBe('picture');
  });

  // OWASP XSS filter evasion style inputs.
  const hostile = [
    '<script>alert(1)</script>',
    '"><img src=x onerror=alert(1)>',
    "' onmouseover='alert(1)",
    '</h1><svg/onload=alert(1)>',
    '&lt;b&gt;',
    '<!--',
    '{{constructor}}',
  ];
  it.each(hostile)('shows %j as text wherever a person can write it', (bad) => {
    const plain = html({ kind: 'heading', id: 'h', level: 1, content: words(bad) });
    const alt = html({ kind: 'picture', id: 'i', picture: 'moon', alt: bad });
    const label = html({ kind: 'button', id: 'b', label: words(bad), address: '/' });
    const merged = html(
      {
        kind: 'heading',
        id: 'm',
        level: 2,
        content: [{ type: 'mergeField', attrs: { attribute: 'city', fallback: '' } }],
      },
      { city: bad },
    );
    const fallback = html({
      kind: 'heading',
      id: 'f',
      level: 2,
      content: [{ type: 'mergeField', attrs: { attribute: 'city', fallback: bad } }],
    });
    for (const page of [plain, alt, label, merged, fallback]) {
      const main = page.slice(page.indexOf('<main'), page.indexOf('</main>'));
      expect(main).not.toMatch(/<(script|svg|b>|!--)/);
      expect(main).not.toMatch(/<[^>]* on\w+=(?![^"]*"[^"]*$)[^"]*>/);
      expect(main.match(/</g)?.length).toBe(main.match(/<\/?(main|h1|h2|img|a)\b/g)?.length);
    }
  });

  it('escapes every text so that a parser gives it back', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', minLength: 1 }), (said) => {
        const page = html({ kind: 'heading', id: 'h', level: 1, content: words(said) });
        const found = /<h1 class="heading">([\s\S]*?)<\/h1>/.exec(page)?.[1] ?? '';
        const back = found
          .replaceAll('&lt;', '<')
          .replaceAll('&gt;', '>')
          .replaceAll('&quot;', '"')
          .replaceAll('&#39;', "'")
          .replaceAll('&amp;', '&');
        expect(back).toBe(said);
      }),
    );
  });

  it('drops an address in a text that may not be linked to', () => {
    const link = (href: string): Node => ({
      kind: 'text',
      id: 't',
      content: [
        {
          type: 'paragraph',
          content: [{ type: 'text', text: 'here', marks: [{ type: 'link', attrs: { href } }] }],
        },
      ],
    });
    expect(html(link('javascript:alert(1)'))).toContain('<p>here</p>');
    expect(html(link('/site/shop'))).toContain('<a href="/site/shop">here</a>');
  });

  it('drops an address that would run a script and keeps the words', () => {
    const page = html({ kind: 'button', id: 'b', label: words('Go'), address: 'javascript:alert(1)' });
    expect(page).toContain('<a class="button">Go</a>');
  });

  it('prints personal values as readers expect, and the fallback where there is none', () => {
    const node: Node = {
      kind: 'heading',
      id: 'h',
      level: 1,
      content: [
        { type: 'mergeField', attrs: { attribute: 'renewal', fallback: 'soon' } },
        ...words(', '),
        { type: 'mergeField', attrs: { attribute: 'tier', fallback: 'friend' } },
      ],
    };
    expect(html(node, { renewal: '2026-12-12', tier: 'dusk' })).toContain('12 December 2026, Dusk');
    expect(html(node, { renewal: 'never' })).toContain('soon, friend');
  });

  it('draws every mark and block of text', () => {
    const page = html({
      kind: 'text',
      id: 't',
      content: [
        {
          type: 'paragraph',
          content: [
            { type: 'text', text: 'a', marks: [{ type: 'bold' }, { type: 'italic' }] },
            { type: 'hardBreak' },
            {
              type: 'text',
              text: 'b',
              marks: [{ type: 'link', attrs: { href: 'https://example.org/?a&b' } }],
            },
          ],
        },
        {
          type: 'orderedList',
          content: [{ type: 'listItem', content: [{ type: 'paragraph', content: words('one') }] }],
        },
      ],
    });
    expect(page).toContain(
      '<div class="text"><p><strong><em>a</em></strong><br><a href="https://example.org/?a&amp;b">b</a></p><ol><li><p>one</p></li></ol></div>',
    );
  });
});

describe('emails', () => {
  const message = (contact: Record<string, unknown>) =>
    compiled.emails.compose(
      'monthly-almanac',
      { ...viewer(contact), signedIn: false },
      `${base}/site/unsubscribe?token=1.x`,
    );

  it('composes subject, HTML and plain text for one reader', () => {
    const mail = message({ tier: 'midnight', 'first-name': 'Noor' });
    expect(mail.subject).toBe('The dome is yours this month, Noor');
    expect(mail.html).toContain('Your nights at the dome');
    expect(mail.html).toContain(`src="${base}/pictures/comet.png"`);
    expect(mail.text).toContain('Good evening, Noor.');
    expect(mail.text).toContain(`Choose a night: ${base}/site/membership`);
    expect(mail.text).not.toContain('Your hour at the dome');
    expect(mail.text).not.toMatch(/<\w/);
  });

  it('carries the foot that never varies, with the reader’s own way out', () => {
    for (const mail of [message({}), message({ tier: 'dusk' })]) {
      expect(mail.html).toContain('1 Dome Lane, Quillmere QM1 0AA');
      expect(mail.html).toContain(`href="${base}/site/unsubscribe?token=1.x"`);
      expect(mail.text).toContain(`Unsubscribe: ${base}/site/unsubscribe?token=1.x`);
    }
  });

  it('keeps a line break in a value out of the subject (RFC 5322, 2.2)', () => {
    const mail = message({ tier: 'midnight', 'first-name': 'Noor\r\nBcc: all@example.org' });
    expect(mail.subject).toBe('The dome is yours this month, Noor Bcc: all@example.org');
    expect(oneLine('a\u2028b\0c')).toBe('a b c');
  });
});
