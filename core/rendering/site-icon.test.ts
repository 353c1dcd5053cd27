import { describe, expect, it } from 'vitest';
import { siteIcon } from './site-icon.ts';

const letterOf = (name: string, locale = 'en') => />([^<]*)<\/text>/.exec(siteIcon({ name, locale }))?.[1];

describe('the icon of a site', () => {
  // Grapheme clusters: Unicode Standard Annex 29; capitals by language: Unicode SpecialCasing.txt.
  it.each([
    ['Quillmere Observatory', 'en', 'Q'],
    ['  été en mer', 'fr', 'É'],
    ['e\u0301t\u00e9', 'fr', 'E\u0301'],
    ['istanbul', 'tr', 'İ'],
    ['👩‍🚀 club', 'en', '👩‍🚀'],
    ['<b>', 'en', '&lt;'],
    ['', 'en', ''],
  ])('of “%s” in %s shows %s', (name, locale, letter) => {
    expect(letterOf(name, locale)).toBe(letter);
  });

  it('has the colours of the theme', () => {
    const theme = {
      ground: '#ffffff',
      ink: '#111111',
      accent: '#004488',
      onAccent: '#fefefe',
      panel: '#eeeeee',
      headings: 'serif',
      wideFrom: 700,
    } as const;
    const icon = siteIcon({ name: 'Quillmere', locale: 'en', theme });
    expect(icon).toContain('fill="#004488"/>');
    expect(icon).toContain('fill="#fefefe">Q<');
  });
});
