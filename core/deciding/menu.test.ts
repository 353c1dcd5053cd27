import { describe, expect, it } from 'vitest';
import { audiencesOfMenu, briefEntry, fullEntry, siteMenu, withPath } from './menu.ts';
import { type MenuEntry, menuEntrySchema } from './release.ts';

describe('an entry of the menu', () => {
  const differing: MenuEntry = {
    page: 'membership',
    variants: [{ audience: 'gold', label: 'Yours' }],
    otherwise: null,
  };

  it('is written as briefly as it can be, and read back as it was', () => {
    for (const entry of ['shop', differing, { ...differing, variants: [], otherwise: 'Join' }])
      expect(briefEntry(fullEntry(entry))).toEqual(entry);
    expect(briefEntry({ page: 'shop', variants: [], otherwise: '' })).toBe('shop');
  });

  it('names the audiences that it asks for', () => {
    expect(audiencesOfMenu({ menu: ['shop', differing, differing] })).toEqual(['gold', 'gold']);
    expect(audiencesOfMenu({})).toEqual([]);
  });

  it('is refused where it is none', () => {
    for (const bad of [
      3,
      'x'.repeat(81),
      { page: 'a' },
      { page: 'a', variants: [{ audience: '', label: '' }], otherwise: '' },
      { page: 'a', variants: [], otherwise: 'x'.repeat(81) },
    ])
      expect(menuEntrySchema.safeParse(bad).success).toBe(false);
  });
});

describe('a menu with links and groups', () => {
  const pages = [
    { name: 'Shop', slug: 'shop', access: null },
    { name: 'Vault', slug: 'vault', access: { audience: 'gold', otherwise: 'not-found' as const } },
  ];
  const plain = { variants: [], otherwise: '' };
  const group: MenuEntry = { name: 'More', entries: ['vault', { page: 'shop', ...plain }], ...plain };

  it('leads to pages, anywhere else, and to what stands below an entry', () => {
    const link: MenuEntry = { name: 'Tickets', address: 'https://tickets.example.org/', ...plain };
    const found = siteMenu({ menu: ['shop', link, group, 'gone'] }, pages);
    expect(found.map(({ name, address }) => [name, address])).toEqual([
      ['Shop', '/site/shop'],
      ['Tickets', 'https://tickets.example.org/'],
      ['More', undefined],
    ]);
    expect(found[2]?.entries?.map(({ otherwise, access }) => [otherwise, access?.audience])).toEqual([
      ['Vault', 'gold'],
      ['Shop', undefined],
    ]);
    expect(
      siteMenu({}, [...pages, { name: 'Home', slug: '', access: null }]).map(({ slug }) => slug),
    ).toEqual(['shop', 'vault']);
  });

  it('keeps what stands below a page that was deleted', () => {
    const named = (name?: string): MenuEntry => ({
      page: 'gone',
      ...(name && { name }),
      entries: ['shop'],
      ...plain,
    });
    expect(siteMenu({ menu: [named()] }, pages).map(({ slug }) => slug)).toEqual(['shop']);
    expect(siteMenu({ menu: [named('Goods')] }, pages)).toMatchObject([
      { name: 'Goods', address: undefined, entries: [{ slug: 'shop' }] },
    ]);
  });

  it('follows a page to its new path, wherever it stands', () => {
    expect(withPath(['shop', group, { page: 'shop', ...plain, otherwise: null }], 'shop', 'store')).toEqual([
      'store',
      { name: 'More', entries: ['vault', { page: 'store', ...plain }], ...plain },
      { page: 'store', ...plain, otherwise: null },
    ]);
  });

  it('names the audiences of entries at each level', () => {
    const inner = { page: 'shop', variants: [{ audience: 'inner', label: null }], otherwise: '' };
    const outer: MenuEntry = {
      name: 'More',
      entries: [inner],
      variants: [{ audience: 'outer', label: '' }],
      otherwise: null,
    };
    expect(audiencesOfMenu({ menu: [outer] })).toEqual(['outer', 'inner']);
    expect(briefEntry(fullEntry(outer))).toEqual(outer);
  });

  it('is refused where an entry leads nowhere, to two places, to a script, or lies too deep', () => {
    const name = 'x';
    for (const bad of [
      { name, ...plain },
      { name, page: 'shop', address: '/site/', ...plain },
      { name, address: 'javascript:alert(1)', ...plain },
      { name: ' ', address: '/site/', ...plain },
      { name, entries: [{ name, entries: [], ...plain }], ...plain },
      { name, entries: [{ name, page: 'shop', address: '/site/', ...plain }], ...plain },
    ])
      expect([bad, menuEntrySchema.safeParse(bad).success]).toEqual([bad, false]);
    for (const good of [
      group,
      { name, address: 'mailto:a@example.org', ...plain },
      { name, entries: [], ...plain },
    ])
      expect(menuEntrySchema.parse(good)).toEqual(good);
  });
});
