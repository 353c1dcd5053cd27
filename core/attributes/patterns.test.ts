import { expect, it } from 'vitest';
import { matchesPattern, pathPattern } from './patterns.ts';

it('matches whole characters, also those beyond the basic plane', () => {
  const like = (pattern: string, path: string) => matchesPattern(pathPattern(pattern), path);
  expect(like('/guides/🔭', '/guides/🔭')).toBe(true);
  expect(like('/guides/🔭', '/guides/🔬')).toBe(false);
  expect(like('/𝒜*/𝒵', '/𝒜bc/𝒵')).toBe(true);
  expect(like('/𝒜**𝒵', '/𝒜/b/c𝒵')).toBe(true);
  expect(like('**🔭**', '/a/🔭/b')).toBe(true);
  // One half of a pair is no character.
  expect(like('**\ud83d**', '/a/🔭/b')).toBe(false);
});
