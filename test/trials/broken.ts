import type { Random } from '../../demo/random.ts';

/** What is put in place of a value: of every type, empty, huge, out of range, and in other scripts. */
const hostile: readonly [unknown, ...unknown[]] = [
  null,
  true,
  0,
  -1,
  0.5,
  1e308,
  Number.MAX_SAFE_INTEGER,
  '',
  ' ',
  '0x5',
  '-1',
  'nobody-made-this',
  '__proto__',
  'constructor',
  '../../etc/passwd',
  "'; DROP TABLE contacts; --",
  '<script>alert(1)</script>',
  '2026-02-30',
  '9999-12-31',
  '-271821-04-20',
  '275760-09-13T00:00',
  'a\u0000b',
  'end in half \ud83d',
  'कुमार ΟΔΟΣ \u202e 😀',
  '😀'.repeat(150),
  'x'.repeat(3000),
  'x'.repeat(300_000),
  `${'a'.repeat(260)}@example.org`,
  [],
  [null],
  [[]],
  Array.from({ length: 2000 }, () => 'x'),
  {},
  { kind: 'all', of: [] },
  { constructor: 1, length: 3 },
];

/** Within what is asked for in an address. */
export const hostileWords: readonly [string, ...string[]] = [
  '0',
  '-1',
  '0x5',
  '1e3',
  '4294967296',
  '99999999999999999999',
  'NaN',
  'nobody-made-this',
  '__proto__',
  'constructor',
  'toString',
  '..',
  '%2e%2e%2f%2e%2e%2fetc%2fpasswd',
  '%00',
  '%F0%9F%98%80',
  '%E0%A4%A8',
  '%C3',
  '%',
  "'",
  'x'.repeat(300),
  '%20',
];

type Path = readonly (string | number)[];

/** The way to every value within a body, the body itself included. */
export function pathsIn(value: unknown, path: Path = []): Path[] {
  if (Array.isArray(value)) return [path, ...value.flatMap((one, index) => pathsIn(one, [...path, index]))];
  if (typeof value === 'object' && value !== null)
    return [path, ...Object.entries(value).flatMap(([key, one]) => pathsIn(one, [...path, key]))];
  return [path];
}

/** A body with the value at a path replaced; taken out where there is nothing to put. */
export function replaced(body: unknown, [first, ...rest]: Path, value: unknown): unknown {
  if (first === undefined) return value;
  if (Array.isArray(body))
    return body.map((one, index) => (index === first ? replaced(one, rest, value) : one));
  return { ...Object(body), [first]: replaced(Reflect.get(Object(body), first), rest, value) };
}

/** A body with one thing in it broken, and what was done to it in words. */
export function breakOne(body: unknown, random: Random): { body: unknown; said: string } {
  const [whole = [], ...inner] = pathsIn(body);
  const path = random.pick([whole, ...inner, ...inner]);
  const way = random.between(0, 9);
  const value = way === 0 ? undefined : way === 1 ? doubled(at(body, path)) : random.pick(hostile);
  return {
    body: replaced(body, path, value),
    said: `${path.join('.')} = ${JSON.stringify(value)?.slice(0, 80)}`,
  };
}

function at(body: unknown, path: Path): unknown {
  return path.reduce<unknown>((inside, step) => Reflect.get(Object(inside), step), body);
}

/** A list with everything twice, a text said twice, a number doubled; ids that should be there once are there twice. */
function doubled(value: unknown): unknown {
  if (Array.isArray(value)) return [...value, ...value];
  if (typeof value === 'string') return value + value;
  if (typeof value === 'number') return value * 2;
  return [value, value];
}
