import type { Random } from '../demo/random.ts';

/** Stretches of code points with letters, marks and digits, from scripts in every plane that has any. */
const stretches: readonly (readonly [from: number, to: number])[] = [
  [0x41, 0x7a],
  [0xc0, 0x24f],
  [0x250, 0x2af],
  [0x300, 0x36f],
  [0x370, 0x3ff],
  [0x400, 0x52f],
  [0x531, 0x587],
  [0x5d0, 0x5ea],
  [0x620, 0x670],
  [0x900, 0x97f],
  [0x980, 0x9ff],
  [0xb80, 0xbff],
  [0xe01, 0xe4d],
  [0xf40, 0xfb9],
  [0x1000, 0x104f],
  [0x10a0, 0x10ff],
  [0x1100, 0x11ff],
  [0x13a0, 0x13fd],
  [0x1780, 0x17d3],
  [0x1e00, 0x1fff],
  [0x2160, 0x217f],
  [0x2460, 0x24e9],
  [0x3041, 0x30ff],
  [0x4e00, 0x4e80],
  [0xa640, 0xa69f],
  [0xac00, 0xad00],
  [0xfb00, 0xfb17],
  [0xff10, 0xff5a],
  [0x10400, 0x1044f],
  [0x1d400, 0x1d4ff],
  [0x1e900, 0x1e943],
  [0x1f300, 0x1f5ff],
];

/** A text of a few characters, most of them of one script, now and then with a sign that SQL or JSON escapes. */
export function randomText(random: Random): string {
  const [first = [0x41, 0x5a] as const] = stretches;
  const own = stretches[random.between(0, stretches.length - 1)] ?? first;
  let text = '';
  for (let left = random.between(1, 9); left > 0; left--) {
    const [from, to] = random.chance(0.8) ? own : (stretches[random.between(0, stretches.length - 1)] ?? own);
    text += random.chance(0.06)
      ? random.pick([' ', '%', '_', '\\', "'", '"', '-', '\u0301'])
      : String.fromCodePoint(random.between(from, to));
  }
  // Blank texts are no values.
  return text.trim() === '' ? 'x' : text;
}

/** Something to look for in a text: a part of it, as it is or in another case, encoding or without its accents. */
export function partOf(text: string, random: Random): string {
  const chars = [...text];
  const from = random.between(0, chars.length - 1);
  const part = chars.slice(from, random.between(from + 1, chars.length)).join('');
  return (
    random.pick<(text: string) => string>([
      (same) => same,
      (one) => one.toUpperCase(),
      (one) => one.toLowerCase(),
      (one) => one.normalize('NFD'),
      (one) => one.normalize('NFC'),
      (one) => one.normalize('NFKC'),
      (one) => one.normalize('NFD').replace(/\p{M}/gu, ''),
    ])(part) || part
  );
}
