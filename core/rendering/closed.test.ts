import { describe, expect, it } from 'vitest';
import { demoSnapshot } from '../../demo/scenario.ts';
import type { Viewer } from '../attributes/viewer.ts';
import { all, inAudience, test } from '../conditions/condition.ts';
import type { Snapshot } from '../deciding/release.ts';
import type { Access, Document, Node } from '../documents/document.ts';
import { words } from '../documents/text.ts';
import { CompiledSnapshot } from './compiled.ts';

const base = 'http://127.0.0.1:4310';
const viewer = (contact: Record<string, unknown> | null, visit: Record<string, unknown> = {}): Viewer => ({
  contact,
  signedIn: contact !== null,
  visit,
  item: null,
  instant: Date.parse('2026-11-24T12:00:00Z'),
});
const [nobody, dusk, midnight] = [viewer(null), viewer({ tier: 'dusk' }), viewer({ tier: 'midnight' })];
const heading = (id: string): Node => ({ kind: 'heading', id, level: 2, content: words(id) });
const form: Node = {
  kind: 'form',
  id: 'form',
  fields: [{ attribute: 'first-name', label: '', required: false }],
  submit: 'Send',
  next: '',
};
const picture: Node = { kind: 'picture', id: 'picture', picture: 'comet', alt: '', file: 'file-1234567' };
const slot = (id: string, audience: string, shown: Node[], otherwise: Node[] = []): Node => ({
  kind: 'slot',
  id,
  name: id,
  variants: [{ id: `${id} a`, audience, content: shown }],
  otherwise,
});
const page = (body: Node[], rest: Partial<Document> = {}): Document => ({
  id: 'p',
  kind: 'page',
  name: 'P',
  slug: 'p',
  content: { subject: [], preview: [], body },
  ...rest,
});
const siteOf = (document: Document, change: Partial<Snapshot> = {}) =>
  new CompiledSnapshot(
    {
      ...demoSnapshot,
      audiences: [
        ...demoSnapshot.audiences,
        {
          id: 'phones',
          name: 'phones',
          description: '',
          condition: test('visit-device', 'is-one-of', 'phone'),
        },
      ],
      documents: [document],
      ...change,
    },
    base,
  );
const access = (audience: string): Access => ({ audience, otherwise: 'not-found' });

describe('what stands inside a variant', () => {
  const inner = slot('inner', 'any-member', [heading('for members')], [heading('for the rest')]);
  const site = siteOf(
    page([slot('outer', 'midnight-members', [inner, form, picture], [heading('nothing')])]),
  );

  it.each([
    ['nobody', nobody, false],
    ['a Dusk member', dusk, false],
    ['a Midnight member', midnight, true],
  ])('is given to %s alone only where the variant is: %s', (_name, who, gets) => {
    expect(site.slots.get('p/inner', who) !== undefined).toBe(gets);
    expect(site.parts.form('p', 'form', who) !== undefined).toBe(gets);
    expect(site.parts.mayHaveFile('file-1234567', who)).toBe(gets);
    // The slot around is everybody's.
    expect(site.slots.get('p/outer', who)?.variant).toBe(gets ? 'outer a' : null);
  });

  it('of everyone else is for everyone else', () => {
    const other = siteOf(page([slot('outer', 'midnight-members', [], [inner, form, picture])]));
    for (const [who, gets] of [
      [nobody, true],
      [midnight, false],
    ] as const) {
      expect(other.slots.get('p/inner', who) !== undefined).toBe(gets);
      expect(other.parts.form('p', 'form', who) !== undefined).toBe(gets);
      expect(other.parts.mayHaveFile('file-1234567', who)).toBe(gets);
    }
  });

  it('is left to the page where the visit decides, since a file is asked for on another', () => {
    const visited = siteOf(page([slot('outer', 'phones', [picture, form])]));
    expect(visited.parts.mayHaveFile('file-1234567', nobody)).toBe(true);
    expect(visited.parts.form('p', 'form', nobody)).toBeDefined();
    expect(
      siteOf(page([slot('outer', 'phones', [slot('inner', 'phones', [])])])).slots.get('p/inner', nobody),
    ).toBe(undefined);
  });

  it('is not given to whom no visit would show it', () => {
    const mixed: Snapshot['audiences'] = [
      ...demoSnapshot.audiences,
      {
        id: 'midnight-phones',
        name: '',
        description: '',
        condition: all(inAudience('midnight-members'), test('visit-device', 'is-one-of', 'phone')),
      },
      {
        id: 'tomorrow',
        name: '',
        description: '',
        condition: test('moment', 'from', '2026-11-25T00:00'),
      },
    ];
    const gets = (content: Node[], who: Viewer) => {
      const own = siteOf(page(content), { audiences: mixed });
      const form = own.parts.form('p', 'form', who) !== undefined;
      expect(own.parts.mayHaveFile('file-1234567', who)).toBe(form);
      return form;
    };
    const within = [slot('outer', 'midnight-phones', [picture, form])];
    expect([gets(within, nobody), gets(within, dusk), gets(within, midnight)]).toEqual([false, false, true]);
    const rest = [slot('outer', 'any-member', [], [slot('inner', 'midnight-phones', [], [picture, form])])];
    expect([gets(rest, nobody), gets(rest, midnight)]).toEqual([true, false]);
    expect(gets([slot('outer', 'tomorrow', [picture, form])], midnight)).toBe(false);
  });

  it('of a page that only some may open is theirs alone', () => {
    const closed = siteOf(page([inner, form, picture], { access: access('midnight-members') }));
    for (const [who, gets] of [
      [dusk, false],
      [midnight, true],
    ] as const) {
      expect(closed.slots.get('p/inner', who) !== undefined).toBe(gets);
      expect(closed.parts.form('p', 'form', who) !== undefined).toBe(gets);
      expect(closed.parts.mayHaveFile('file-1234567', who)).toBe(gets);
    }
  });
});

describe('the page that shows the items of a collection', () => {
  const shown = (rest: Partial<Document>) =>
    page([slot('inner', 'any-member', [heading('for members')]), form, picture], {
      collection: 'guides',
      slug: 'guides',
      ...rest,
    });

  it('closes them everywhere to whom it is closed: their address, search, lists of addresses and links', () => {
    const site = siteOf(shown({ access: access('midnight-members') }));
    const found = (who: Viewer) => [
      site.pages.item('guides/star-chart', who).kind,
      site.search.find('chart', who, 50).filter(({ address }) => address.includes('/guides/')).length > 0,
      site.pages.addresses(who).some((address) => address.includes('/guides/')),
      site.pages.mayOpen('/site/guides/star-chart', who),
      site.pages.mayOpen('/site/guides/star-chart?from=mail#top', who),
      site.parts.mayHaveFile('file-1234567', who),
    ];
    expect(found(nobody)).toEqual(['nothing', false, false, false, false, false]);
    expect(found(dusk)).toEqual(['nothing', false, false, false, false, false]);
    expect(found(midnight)).toEqual(['page', true, true, true, true, true]);
  });

  it('has its slots and forms closed with the collection', () => {
    const collections = (demoSnapshot.collections ?? []).map((one) => ({
      ...one,
      access: 'midnight-members',
    }));
    const site = siteOf(shown({}), { collections });
    for (const [who, gets] of [
      [dusk, false],
      [midnight, true],
    ] as const) {
      expect(site.slots.get('p/inner', who) !== undefined).toBe(gets);
      expect(site.parts.form('p', 'form', who) !== undefined).toBe(gets);
      expect(site.parts.mayHaveFile('file-1234567', who)).toBe(gets);
    }
  });
});

describe('a page in the place of a closed one', () => {
  it('is not shown where it is closed itself', () => {
    const closed = page([heading('secret')], {
      access: { audience: 'midnight-members', otherwise: { page: 'q' } },
    });
    const notice = (rest: Partial<Document>) =>
      page([heading('members only')], { id: 'q', slug: 'q', name: 'Q', ...rest });
    const answer = (own: Document) => siteOf(closed, { documents: [closed, own] }).pages.at('p', dusk);
    expect(answer(notice({}))).toMatchObject({ kind: 'page', notice: true });
    expect(answer(notice({ access: access('midnight-members') })).kind).toBe('nothing');
    expect(answer(notice({ access: access('any-member') })).kind).toBe('nothing');
  });
});
