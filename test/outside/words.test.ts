import { describe, expect, it } from 'vitest';
import { allWords, readingEase, wordsIn } from '../../scripts/words.mjs';
import { glossary } from '../../web/parts/glossary.ts';

const all = allWords();
/** What the studio and the server say, without what changes in it. */
const said = all
  .filter(({ file }) => /^(?:web|server)\//.test(file))
  .map(({ words, ...place }) => ({ ...place, words: words.replace(/\{[^}]*\}/g, '{}') }));

/** Phrases that nobody says at work, each with the usual words. */
const notEnglish: readonly (readonly [RegExp, string])[] = [
  [/where there is none|where none is left/i, 'not-found page, empty'],
  [/make another like it/i, 'Duplicate'],
  [/\bstate(?:d)? it\b|what always holds|stated to always hold/i, 'data rule'],
  [/so many-th/i, 'every nth'],
  [/join(?:ed)? (?:with|into)/i, 'merge'],
  [/address, after|an address is needed/i, 'path, URL'],
  [/personal value|words that differ/i, 'merge field, varying words'],
  [/plain visit|what the visit tells/i, 'direct visit, visit details'],
  [/\bnot now\b/i, 'Cancel'],
  [/taken? (?:it )?(?:back|out|away)\b/i, 'undo, remove'],
  [/put (?:it )?away/i, 'archive'],
  [/\bmend\b/i, 'fix'],
  [/\bticked\b|\buntick\b/i, 'selected'],
  [/another system|other system/i, 'CRM'],
  [/nobody we know|is called that/i, 'no contact, no matches'],
];

describe('what people read', () => {
  it('is found in the source: sentences in one piece, and no names that only the program has', () => {
    const source = `
      import a from 'not a word';
      const card = <p className="px-3 text-quiet" title="A title">You have {count(people)} new <b>people</b>.</p>;
      const say = (name: string) => toast(\`“\${name}” is saved.\`);
      const sql = 'SELECT a FROM b';
      throw new Refusal(422, 'The file is empty.');`;
    expect(wordsIn(source, 'a.tsx').map(({ words }) => words)).toEqual([
      'You have {count people} new people.',
      'A title',
      '“{name}” is saved.',
      'The file is empty.',
    ]);
    expect(all.length).toBeGreaterThan(1500);
    expect(all.map(({ words }) => words)).toEqual(
      expect.arrayContaining(['Import people', 'Someone else', 'The file is empty.']),
    );
  });

  it.each(notEnglish)('never says %s', (phrase, instead) => {
    const found = said.filter(({ words }) => phrase.test(words));
    expect({ instead, found }).toEqual({ instead, found: [] });
  });

  it('is plain English by a public measure (Flesch 1948: 60 and more is plain)', () => {
    const eases = all.flatMap(({ words }) => readingEase(words) ?? []).sort((one, other) => one - other);
    expect(eases.length).toBeGreaterThan(300);
    expect(eases[eases.length >> 1]).toBeGreaterThanOrEqual(60);
    // The example of the paper’s own formula, 206.835 − 1.015 × words a sentence − 84.6 × syllables a word.
    expect(readingEase('The cat sat on the mat.')).toBeCloseTo(206.835 - 1.015 * 6 - 84.6, 5);
  });
});

it('the glossary in docs/ is the one of the interface (vitest -u writes it)', async () => {
  const entries = Object.entries(glossary).map(([term, meaning]) => {
    const [first = '', ...rest] = term;
    return `**${first.toUpperCase()}${rest.join('')}**: ${meaning}\n`;
  });
  await expect(`# Words\n\nWhat the program's own words mean.\n\n${entries.join('\n')}`).toMatchFileSnapshot(
    '../../docs/words.md',
  );
});
