import { describe, expect, it } from 'vitest';
import { demoSnapshot } from '../../demo/scenario.ts';
import type { Viewer } from '../attributes/viewer.ts';
import type { MenuEntry, Snapshot } from '../deciding/release.ts';
import { CompiledSnapshot } from '../rendering/compiled.ts';
import { differenceOf, pair } from './difference.ts';
import { pairMenu } from './menu-difference.ts';

const instant = Date.parse('2026-11-24T12:00:00Z');
const withMenu = (menu: MenuEntry[], rest: Partial<Snapshot> = {}): Snapshot => ({
  ...demoSnapshot,
  ...rest,
  settings: { ...demoSnapshot.settings, menu },
});
const menuChange = (before: Snapshot, after: Snapshot) =>
  differenceOf(pairMenu(before, after), after, instant).transitions;
const dusk = (label: string): MenuEntry => ({
  page: 'membership',
  variants: [{ audience: 'dusk-members', label }],
  otherwise: '',
});

/** The menu of a page as a reader gets it, by the renderer; an oracle that knows nothing of differences. */
function menuFor(snapshot: Snapshot, viewer: Viewer): string {
  const answer = new CompiledSnapshot(snapshot, 'http://127.0.0.1').pages.at('', viewer);
  return answer.kind === 'page'
    ? (/<nav class="site-menu"[^>]*>.*?<\/nav>/.exec(answer.html)?.[0] ?? '')
    : '';
}

describe('a word of the menu for some', () => {
  const [before, after] = [
    withMenu([dusk('Your evenings'), 'shop']),
    withMenu([dusk('Your nights'), 'shop']),
  ];

  it('is told of the menu, for exactly those who get another one', () => {
    const found = menuChange(before, after);
    expect(found.length).toBeGreaterThan(0);
    for (const { witness } of found) expect(menuFor(before, witness)).not.toBe(menuFor(after, witness));
    const tiers = [null, 'dusk', 'twilight', 'midnight'];
    const differs = tiers.filter((tier) => {
      const viewer = {
        contact: tier === null ? null : { tier },
        signedIn: tier !== null,
        visit: {},
        item: null,
        instant,
      };
      return menuFor(before, viewer) !== menuFor(after, viewer);
    });
    expect(differs).toEqual(['dusk']);
    expect(new Set(found.map(({ witness }) => witness.contact?.tier))).toEqual(new Set(['dusk']));
  });

  it('changes no page and no email', () => {
    for (const { id } of demoSnapshot.documents.filter(({ kind }) => kind !== 'shared'))
      expect([id, differenceOf(pair(before, after, id), after, instant).transitions]).toEqual([id, []]);
  });
});

describe('a menu', () => {
  it('differs by who may open what it leads to, by names, order and what is left out', () => {
    const plain = withMenu(['membership', 'shop']);
    const documents = demoSnapshot.documents.map((one) =>
      one.slug === 'shop'
        ? { ...one, access: { audience: 'midnight-members', otherwise: 'not-found' as const } }
        : one,
    );
    const closed = menuChange(plain, withMenu(['membership', 'shop'], { documents }));
    expect(closed.length).toBeGreaterThan(0);
    for (const { witness } of closed) expect(witness.contact?.tier).not.toBe('midnight');
    const renamed = demoSnapshot.documents.map((one) =>
      one.slug === 'shop' ? { ...one, name: 'Store' } : one,
    );
    expect(menuChange(plain, withMenu(['membership', 'shop'], { documents: renamed }))).toHaveLength(1);
    expect(menuChange(plain, withMenu(['shop', 'membership']))).toHaveLength(1);
    expect(menuChange(plain, withMenu(['membership']))).toHaveLength(1);
    expect(menuChange(plain, withMenu(['membership', 'shop', 'no-such-page']))).toEqual([]);
  });
});

describe('groups of a menu', () => {
  const plain = { variants: [], otherwise: '' };
  const tiers = [null, 'dusk', 'twilight', 'midnight'];
  const viewerOf = (tier: string | null): Viewer => ({
    contact: tier === null ? null : { tier },
    signedIn: tier !== null,
    visit: {},
    item: null,
    instant,
  });
  const documents = demoSnapshot.documents.map((one) =>
    one.slug === 'shop'
      ? { ...one, access: { audience: 'midnight-members', otherwise: 'not-found' as const } }
      : one,
  );
  const group = (name: string, entries: NonNullable<Exclude<MenuEntry, string>['entries']>): MenuEntry => ({
    name,
    entries,
    ...plain,
  });
  const hiddenFromDusk = {
    page: 'survey',
    variants: [{ audience: 'dusk-members', label: null }],
    otherwise: '',
  };
  const menus: MenuEntry[][] = [
    ['shop'],
    [group('More', ['shop'])],
    [group('Other', ['shop'])],
    [group('More', ['shop', 'survey'])],
    [group('More', ['shop', hiddenFromDusk])],
    [group('More', [hiddenFromDusk, 'shop'])],
    [{ page: 'survey', ...plain, entries: ['shop'] }],
    [{ page: 'survey', ...plain, variants: [{ audience: 'dusk-members', label: 'Ask' }], entries: ['shop'] }],
    [{ name: 'Away', address: 'https://away.example.org/', ...plain }],
    [
      {
        name: 'Away',
        address: 'https://away.example.org/',
        ...plain,
        otherwise: null,
        variants: [{ audience: 'dusk-members', label: '' }],
      },
    ],
    [{ name: 'Vault', address: '/site/shop?from=menu', ...plain }],
    [group('More', [{ name: 'Vault', address: '/site/shop', ...plain }])],
    [],
  ];

  it('differ for exactly those for whom the site writes another menu', () => {
    for (const [from, before] of menus.entries())
      for (const [to, after] of menus.entries()) {
        const [old, now] = [withMenu(before, { documents }), withMenu(after, { documents })];
        const found = menuChange(old, now);
        const told = new Set(found.map(({ witness }) => String(witness.contact?.tier ?? null)));
        for (const { witness } of found) expect(menuFor(old, witness)).not.toBe(menuFor(now, witness));
        const differing = tiers.filter(
          (tier) => menuFor(old, viewerOf(tier)) !== menuFor(now, viewerOf(tier)),
        );
        expect([from, to, told.size > 0]).toEqual([from, to, differing.length > 0]);
      }
  });
});

describe('the parts of a document that differ', () => {
  const parts = (change: Partial<Snapshot>, id = 'membership') =>
    pair(demoSnapshot, { ...demoSnapshot, ...change }, id).parts;
  const page = (change: object) => ({
    documents: demoSnapshot.documents.map((one) => (one.id === 'membership' ? { ...one, ...change } : one)),
  });

  it('are told apart', () => {
    expect(parts(page({ name: 'Join' }))).toEqual(['title']);
    expect(parts(page({ slug: 'join' }))).toEqual(['address']);
    expect(parts(page({ access: { audience: 'dusk-members', otherwise: 'sign-in' } }))).toEqual(['access']);
    expect(parts(page({ name: 'Join', content: { subject: [], preview: [], body: [] } }))).toEqual([
      'content',
      'title',
    ]);
    expect(parts({ settings: { ...demoSnapshot.settings, name: 'Another' } })).toEqual(['site']);
    // An audience decides what is shown, which is content.
    expect(parts({ audiences: [] })).toEqual(['content']);
  });

  it('leave out what nobody gets to see: what an email is called, and where it is from on a page', () => {
    const email = demoSnapshot.documents.find(({ kind }) => kind === 'email');
    if (!email) throw new Error('the demo has an email');
    const documents = demoSnapshot.documents.map((one) =>
      one === email ? { ...one, name: 'Another' } : one,
    );
    const renamed = { ...demoSnapshot, documents };
    expect(differenceOf(pair(demoSnapshot, renamed, email.id), renamed, instant).transitions).toEqual([]);
    const settings = { ...demoSnapshot.settings, fromAddress: 'other@example.org' };
    const moved = { ...demoSnapshot, settings };
    expect(differenceOf(pair(demoSnapshot, moved, 'membership'), moved, instant).transitions).toEqual([]);
    expect(
      differenceOf(pair(demoSnapshot, moved, email.id), moved, instant).transitions.length,
    ).toBeGreaterThan(0);
  });
});
