import { describe, expect, it } from 'vitest';
import { audiencesOfMenu, briefEntry, fullEntry } from './menu.ts';
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
