import { describe, expect, it } from 'vitest';
import { themeSchema } from '../deciding/release.ts';
import { contrast } from './contrast.ts';
import { namedThemes } from './themes.ts';

describe.each(namedThemes)('the theme $name', ({ theme }) => {
  it('can be stored as it is', () => {
    expect(themeSchema.parse(theme)).toEqual(theme);
  });

  // WCAG 2.2, 1.4.3: text of any size needs at least 4.5 to 1.
  it.each([
    ['ink', 'ground'],
    ['ink', 'panel'],
    ['accent', 'ground'],
    ['accent', 'panel'],
    ['onAccent', 'accent'],
  ] as const)('has enough contrast of %s on %s', (front, back) => {
    expect(contrast(theme[front], theme[back])).toBeGreaterThanOrEqual(4.5);
  });
});

it('no two themes have the same name', () => {
  const names = namedThemes.map(({ name }) => name);
  expect(names).toEqual([...new Set(names)]);
});
