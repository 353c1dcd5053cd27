import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { attributes, randomValues, tested } from '../../test/random-conditions.ts';
import { valueText } from '../exchange/value-text.ts';
import type { Attribute } from './attribute.ts';
import { longestText, parseValue, readValue, unstorable } from './parse.ts';

const of = (type: Attribute['type']): Attribute => {
  const found = attributes.find((attribute) => attribute.type === type && attribute.source === 'contact');
  if (!found) throw new Error(`no attribute of type ${type}`);
  return found;
};

describe('a value as it is typed or stands in a file', () => {
  it.each<[Attribute['type'], string, unknown]>([
    ['yes-no', ' Yes ', true],
    ['yes-no', 'off', false],
    ['number', '1,5', 1.5],
    ['number', '-.5e2', -50],
    ['date', '2026-02-28', '2026-02-28'],
    ['date-time', '2026-11-29T18:00+01:00', '2026-11-29T17:00:00.000Z'],
    ['time', '9:05', '09:05'],
    ['time', '23:59', '23:59'],
    ['country', 'gb', 'GB'],
    ['country', 'Germany', 'DE'],
    ['address', '2001:DB8:0:0::1', '2001:db8::1'],
    ['address', '203.0.113.7', '203.0.113.7'],
    ['language', 'de-CH', ['de-CH']],
    ['language', 'fr;q=0.5, de', ['de', 'fr']],
    ['path', '/guides/moon', '/guides/moon'],
    ['text', ' kept as it is ', 'kept as it is'],
    ['choice', 'DUSK', 'dusk'],
    ['set', 'b; a |b', ['b', 'a']],
  ])('%s: %j is read', (type, text, value) => {
    expect(parseValue(of(type), text)).toEqual({ ok: true, value });
  });

  it.each<[Attribute['type'], string, RegExp]>([
    ['yes-no', 'perhaps', /neither yes nor no/],
    ['number', '1,5,0', /not a number/],
    ['number', '1e999', /not a number/],
    ['number', '0x10', /not a number/],
    ['date', '2026-02-30', /not a date written as/],
    ['date', '29.11.2026', /not a date written as/],
    ['date-time', '2026-11-29T18:00', /offset from UTC/],
    ['date-time', '2026-02-30T18:00Z', /offset from UTC/],
    ['time', '24:00', /not a time of day/],
    ['time', '18', /not a time of day/],
    ['country', 'Narnia', /neither a country’s two-letter code/],
    ['address', '127.1', /not an IP address/],
    ['address', '256.0.0.1', /not an IP address/],
    ['language', '12', /not a language tag/],
    ['path', 'guides', /not the path of an address/],
    ['path', `/${'x'.repeat(longestText)}`, /not the path of an address/],
    ['text', 'x'.repeat(longestText + 1), /longer than/],
    ['text', 'a\0b', /NUL/],
    ['choice', 'gold', /not one of the choices/],
    ['set', 'a;z', /“z” is not one of the choices/],
  ])('%s: %j is refused, and said why', (type, text, reason) => {
    const parsed = parseValue(of(type), text);
    expect(parsed.ok ? parsed.value : parsed.reason).toMatch(reason);
  });

  it('is the same after it was written into a file and read again (property)', () => {
    const own = tested.filter(({ source }) => source === 'contact');
    fc.assert(
      fc.property(randomValues, (values: Readonly<Record<string, unknown>>) => {
        for (const attribute of own) {
          const value = readValue(attribute, values[attribute.id]);
          if (value === undefined || valueText(attribute, value) === '') continue;
          expect([attribute.id, parseValue(attribute, valueText(attribute, value))]).toEqual([
            attribute.id,
            { ok: true, value },
          ]);
        }
      }),
    );
  });
});

describe('a value as a program brings it', () => {
  it('is stored whole or not at all', () => {
    const wrong: [Attribute['type'], unknown][] = [
      ['yes-no', 'yes'],
      ['number', '3'],
      ['number', Number.NaN],
      ['date', '2026-13-01'],
      ['date-time', 'now'],
      ['time', '7'],
      ['country', 'XX'],
      ['address', '999.0.0.1'],
      ['language', []],
      ['language', ['12']],
      ['path', 'guides'],
      ['choice', 'gold'],
      ['set', ['a', 'z']],
      ['set', 'a'],
      ['text', 3],
    ];
    for (const [type, value] of wrong)
      expect([type, value, unstorable(of(type), value)]).toEqual([
        type,
        value,
        'is not a value of this attribute',
      ]);
    expect(unstorable(of('text'), 'x'.repeat(longestText + 1))).toMatch(/longer than/);
    expect(unstorable(of('set'), ['b', 'a'])).toBeUndefined();
  });
});

describe('choices that are written as their labels', () => {
  const label = fc.stringMatching(/^[ab;| ]{1,5}$/).map((text) => `${text.trim()}x`);

  it('are read as the same ones, whatever the labels hold (property)', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(label, { minLength: 1, maxLength: 5, selector: (text) => text.toLowerCase() }),
        fc.array(fc.nat({ max: 4 }), { minLength: 1 }),
        (labels, wanted) => {
          // “a; b” beside “a” and “b” is ambiguous: the one label reads the same as the two. Such labels are left out.
          const apart = labels.filter((one) => !labels.some((other) => other !== one && one.includes(other)));
          const attribute: Attribute = {
            id: 'halls',
            source: 'contact',
            label: 'halls',
            description: '',
            type: 'set',
            choices: apart.map((text, index) => ({ id: `c${index}`, label: text })),
            exclusiveGroups: [],
          };
          const held = [...new Set(wanted.map((index) => `c${index % apart.length}`))].sort();
          const text = valueText(attribute, held);
          expect(parseValue(attribute, text)).toEqual({ ok: true, value: held });
        },
      ),
    );
  });

  it('are the ones with that label before those with that id', () => {
    const attribute: Attribute = {
      id: 'hall',
      source: 'contact',
      label: 'hall',
      description: '',
      type: 'choice',
      ordered: false,
      choices: [
        { id: 'roof', label: 'Dome' },
        { id: 'dome', label: 'roof' },
      ],
    };
    expect(parseValue(attribute, 'roof')).toEqual({ ok: true, value: 'dome' });
    expect(parseValue(attribute, 'DOME')).toEqual({ ok: true, value: 'roof' });
  });
});
