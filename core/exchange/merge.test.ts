import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Attribute } from '../attributes/attribute.ts';
import { mergeIncoming, type Stored, sameValue, undoFields } from './merge.ts';
import type { Incoming } from './reading.ts';

const plan = { matchBy: 'email', known: 'overwrite', blank: 'keep' } as const;
const ada: Stored = {
  id: 7,
  email: 'Ada@example.org',
  externalId: null,
  values: { tier: 'dusk', tags: ['moon', 'sun'], city: 'Tarnley' },
};
const incoming = (values: Incoming['values'], more: Partial<Incoming> = {}): Incoming => ({
  row: 2,
  email: 'ada@example.org',
  externalId: undefined,
  values,
  ...more,
});

describe('what an incoming person makes of a stored one', () => {
  it('adds who is not known, without the blanks', () => {
    expect(mergeIncoming(incoming({ tier: 'dusk', city: undefined }), undefined, undefined, plan)).toEqual({
      kind: 'added',
      person: { email: 'ada@example.org', externalId: null, values: { tier: 'dusk' } },
      fields: { tier: [null, 'dusk'], email: [null, 'ada@example.org'] },
    });
  });

  it('replaces, fills in or leaves alone, as the plan says', () => {
    const one = incoming({ tier: 'midnight', plan: 'print', city: undefined });
    const made = (known: 'overwrite' | 'fill' | 'leave', blank: 'keep' | 'clear') => {
      const merged = mergeIncoming(one, ada, undefined, { ...plan, known, blank });
      return 'fields' in merged ? merged.fields : merged.kind;
    };
    expect(made('overwrite', 'keep')).toEqual({ tier: ['dusk', 'midnight'], plan: [null, 'print'] });
    expect(made('overwrite', 'clear')).toEqual({
      tier: ['dusk', 'midnight'],
      plan: [null, 'print'],
      city: ['Tarnley', null],
    });
    expect(made('fill', 'clear')).toEqual({ plan: [null, 'print'] });
    expect(made('leave', 'clear')).toBe('unchanged');
  });

  it('puts everybody on a list, also those about whom the file changes nothing', () => {
    const tags: Attribute = {
      source: 'contact',
      description: '',
      id: 'tags',
      label: 'tags',
      type: 'set',
      choices: ['moon', 'sun', 'comets'].map((id) => ({ id, label: id })),
      exclusiveGroups: [{ name: 'light', members: ['sun', 'comets'] }],
    };
    const given = [{ attribute: tags, members: ['comets'] }];
    const fieldsOf = (
      values: Incoming['values'],
      known: 'overwrite' | 'leave',
      stored: Stored | undefined,
    ) => {
      const merged = mergeIncoming(incoming(values), stored, undefined, { ...plan, known }, given);
      return 'fields' in merged ? merged.fields : merged.kind;
    };
    expect(fieldsOf({ tier: 'midnight' }, 'leave', ada)).toEqual({
      tags: [
        ['moon', 'sun'],
        ['moon', 'comets'],
      ],
    });
    expect(fieldsOf({ tags: ['sun'] }, 'overwrite', ada)).toEqual({ tags: [['moon', 'sun'], ['comets']] });
    expect(fieldsOf({}, 'overwrite', undefined)).toMatchObject({ tags: [null, ['comets']] });
    expect(fieldsOf({}, 'leave', { ...ada, values: { tags: ['comets'] } })).toBe('unchanged');
  });

  it('sees no change in the case of an address and in the order of a set', () => {
    expect(mergeIncoming(incoming({ tags: ['sun', 'moon'] }), ada, undefined, plan)).toEqual({
      kind: 'unchanged',
    });
  });

  it.each([[['moon']], [['sun']], [['moon', 'sun', 'comets']], [['moon', 'moon']], [['moon', 'comets']]])(
    'sees a change where %j are given instead of moon and sun',
    (tags) => {
      expect(mergeIncoming(incoming({ tags }), ada, undefined, plan)).toMatchObject({
        kind: 'changed',
        fields: { tags: [['moon', 'sun'], tags] },
      });
    },
  );

  it('sees no change in an address whose letters are only encoded otherwise', () => {
    const zoe: Stored = { ...ada, email: 'zo\u00eb@example.org' };
    expect(mergeIncoming(incoming({}, { email: 'ZOE\u0308@example.org' }), zoe, undefined, plan)).toEqual({
      kind: 'unchanged',
    });
  });

  it('makes no second person of somebody whose id is known, where people are known by their address', () => {
    const eve: Stored = { ...ada, id: 8, email: 'eve@example.org', externalId: '8' };
    const given = incoming({ tier: 'dusk' }, { email: 'new@example.org', externalId: '8' });
    expect(mergeIncoming(given, undefined, eve, plan)).toEqual({
      kind: 'rejected',
      reason: 'has an id that belongs to somebody with another address',
    });
  });

  it('never gives somebody’s address or id to another', () => {
    const eve: Stored = { ...ada, id: 8, email: 'eve@example.org', externalId: '8' };
    expect(mergeIncoming(incoming({}, { externalId: '8' }), ada, eve, plan).kind).toBe('rejected');
    const byId = { ...plan, matchBy: 'external-id' } as const;
    expect(mergeIncoming(incoming({}, { externalId: '8' }), ada, eve, byId).kind).toBe('rejected');
    expect(
      mergeIncoming(incoming({}, { email: 'new@example.org', externalId: '8' }), undefined, eve, byId),
    ).toMatchObject({
      kind: 'changed',
      fields: { email: ['eve@example.org', 'new@example.org'] },
    });
    expect(
      mergeIncoming(incoming({}, { email: undefined, externalId: '9' }), undefined, undefined, byId).kind,
    ).toBe('rejected');
  });
});

describe('a stored value', () => {
  it('is the same as one that says the same, and nothing is the same as no value', () => {
    for (const [stored, value, same] of [
      [undefined, null, true],
      [undefined, undefined, true],
      [undefined, '', false],
      [undefined, 'x', false],
      ['x', null, false],
      ['x', 'x', true],
      [['a', 'b'], ['b', 'a'], true],
      [['a', 'b'], ['a'], false],
      [['a'], 'a', false],
    ] as const)
      expect([
        stored,
        value,
        sameValue(stored, typeof value === 'object' && value ? [...value] : value),
      ]).toEqual([stored, value, same]);
  });
});

describe('undoing', () => {
  const value = fc.oneof(
    fc.constantFrom('dusk', 'midnight'),
    fc.nat(3),
    fc.constantFrom<string[]>(['moon'], ['moon', 'sun']),
  );
  const values = fc.dictionary(fc.constantFrom('tier', 'tags', 'visits'), value);

  it('restores exactly what was', () => {
    fc.assert(
      fc.property(
        values,
        fc.dictionary(
          fc.constantFrom('tier', 'tags', 'visits', 'city'),
          fc.option(value, { nil: undefined }),
        ),
        fc.constantFrom('overwrite', 'fill'),
        fc.constantFrom('keep', 'clear'),
        (before, given, known, blank) => {
          const stored = { ...ada, values: before };
          const merged = mergeIncoming(incoming(given), stored, undefined, { ...plan, known, blank });
          if (merged.kind !== 'changed') return;
          const undone = undoFields({ ...merged.person, id: 7 }, merged.fields);
          expect(undone).toEqual({
            person: { email: ada.email, externalId: null, values: before },
            kept: [],
          });
        },
      ),
    );
  });

  it('leaves out what the field may not hold any more, and names it', () => {
    const now = { ...ada, values: { visits: 3, tier: 'dusk' } };
    const fields = { visits: [2.5, 3], tier: ['midnight', 'dusk'], city: ['Tarnley', null] } as const;
    const { person, kept } = undoFields(now, fields, (field) => field === 'tier');
    expect(person.values).toEqual({ visits: 3, tier: 'midnight' });
    expect(kept).toEqual(['visits', 'city']);
  });

  it('keeps what was changed again since', () => {
    const now = { ...ada, values: { tier: 'midnight', city: 'Ashwold' } };
    const { person, kept } = undoFields(now, { tier: ['dusk', 'midnight'], city: ['Tarnley', 'Larkhaven'] });
    expect(person.values).toEqual({ tier: 'dusk', city: 'Ashwold' });
    expect(kept).toEqual(['city']);
  });
});
