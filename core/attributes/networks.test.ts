import { expect, it } from 'vitest';
import { addressNumber, contains, readNetwork } from './networks.ts';

it('reads a range of v4 addresses written inside v6 ones by its v6 prefix (RFC 4291, 2.5.5.2)', () => {
  expect(readNetwork('::ffff:10.0.0.0/104')).toEqual(readNetwork('10.0.0.0/8'));
  expect(readNetwork('::ffff:10.0.0.7')).toEqual(readNetwork('10.0.0.7'));
  expect(readNetwork('::ffff:0:0/96')).toEqual(readNetwork('0.0.0.0/0'));
  // A prefix of 8 would leave bits behind it, as 10.0.0.7/8 does.
  for (const text of ['::ffff:10.0.0.0/8', '::ffff:10.0.0.0/95', '::ffff:10.0.0.0/129', '10.0.0.7/8'])
    expect([text, readNetwork(text)]).toEqual([text, undefined]);
  const range = readNetwork('::ffff:10.0.0.0/104');
  expect(range && contains([range], addressNumber('10.255.255.255'))).toBe(true);
  expect(range && contains([range], addressNumber('11.0.0.0'))).toBe(false);
});
