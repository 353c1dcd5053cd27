import { describe, expect, it } from 'vitest';
import { facesByForce } from './oracle.ts';
import { provedFaces } from './proved-faces.ts';
import { randomDocument, type Theme } from './random-documents.ts';

/** How many documents are tried; DOCUMENTS=10000 for a long run. */
const tried = Number(process.env.DOCUMENTS ?? 300);

// Every answer that every test can have is tried, of the moment every quarter of an hour of two years.
describe('all faces of a document are those that trying everything finds', () => {
  it.each<[string, readonly Theme[]]>([
    ['sets of thirty, whole numbers, tiers and sign-in', ['tags', 'orders', 'tier', 'signed-in']],
    ['texts and tiers', ['city', 'tier', 'signed-in']],
    ['the moment', ['moment', 'signed-in']],
    ['dates and the moment', ['renewal', 'moment']],
    ['all of them', ['tags', 'orders', 'tier', 'city', 'renewal', 'moment', 'signed-in']],
  ])('about %s', { timeout: 600_000 }, (_name, themes) => {
    for (let seed = 1; seed <= tried / 5; seed++) {
      const document = randomDocument(seed, themes);
      const { faces, complete, wrong } = provedFaces(document);
      const said = `seed ${seed}: ${JSON.stringify(document)}`;
      expect(complete, said).toBe(true);
      expect(faces, said).toEqual([...facesByForce(document)].sort());
      // Whoever is made up for a face gets it.
      expect(wrong, said).toEqual([]);
    }
  });
});
