import { describe, expect, it } from 'vitest';
import type { Attribute } from '../attributes/attribute.ts';
import { type BulkChange, changedBy, problemOfChange } from './bulk-change.ts';
import type { Stored } from './merge.ts';

const base = { source: 'contact', description: '' } as const;
const lists: Attribute = {
  ...base,
  id: 'lists',
  label: 'lists',
  type: 'set',
  choices: ['news', 'daily', 'weekly'].map((id) => ({ id, label: id })),
  exclusiveGroups: [{ name: 'how often', members: ['daily', 'weekly'] }],
};
const visits: Attribute = { ...base, id: 'visits', label: 'visits', type: 'number', whole: true };
const person = (values: Stored['values']): Stored => ({
  id: 7,
  email: 'ada@example.org',
  externalId: 'x7',
  values,
});
const fieldsOf = (values: Stored['values'], attribute: Attribute, change: BulkChange) =>
  changedBy(person(values), attribute, change)?.fields;

describe('a change of many contacts', () => {
  it('sets and clears a value, and leaves alone who has it already', () => {
    const set: BulkChange = { how: 'set', attribute: 'visits', value: 3 };
    expect(changedBy(person({ visits: 2, city: 'Tarnley' }), visits, set)).toEqual({
      person: { email: 'ada@example.org', externalId: 'x7', values: { visits: 3, city: 'Tarnley' } },
      fields: { visits: [2, 3] },
    });
    expect(fieldsOf({}, visits, set)).toEqual({ visits: [null, 3] });
    expect(fieldsOf({ visits: 3 }, visits, set)).toBeUndefined();
    const clear: BulkChange = { how: 'clear', attribute: 'visits' };
    expect(changedBy(person({ visits: 2, city: 'Tarnley' }), visits, clear)?.person.values).toEqual({
      city: 'Tarnley',
    });
    expect(fieldsOf({ visits: 2 }, visits, clear)).toEqual({ visits: [2, null] });
    expect(fieldsOf({ city: 'Tarnley' }, visits, clear)).toBeUndefined();
  });

  it('adds to a set, where one that excludes another takes its place, and takes away', () => {
    const add = (...members: string[]): BulkChange => ({ how: 'add', attribute: 'lists', members });
    const take = (...members: string[]): BulkChange => ({ how: 'take', attribute: 'lists', members });
    expect(fieldsOf({ lists: ['daily', 'news'] }, lists, add('weekly'))).toEqual({
      lists: [
        ['daily', 'news'],
        ['news', 'weekly'],
      ],
    });
    expect(fieldsOf({}, lists, add('news'))).toEqual({ lists: [null, ['news']] });
    expect(fieldsOf({ lists: ['news', 'daily'] }, lists, add('news'))).toBeUndefined();
    expect(fieldsOf({ lists: ['news', 'daily'] }, lists, take('news', 'weekly'))).toEqual({
      lists: [['news', 'daily'], ['daily']],
    });
    expect(changedBy(person({ lists: ['news'] }), lists, take('news'))?.person.values).toEqual({});
    expect(fieldsOf({}, lists, take('news'))).toBeUndefined();
  });

  it('is refused where it would store what may not be stored', () => {
    const refused: [Attribute, BulkChange][] = [
      [visits, { how: 'set', attribute: 'visits', value: 2.5 }],
      [visits, { how: 'set', attribute: 'visits', value: 'three' }],
      [visits, { how: 'set', attribute: 'visits', value: null }],
      [visits, { how: 'add', attribute: 'visits', members: ['3'] }],
      [lists, { how: 'add', attribute: 'lists', members: ['monthly'] }],
      [lists, { how: 'take', attribute: 'lists', members: ['monthly'] }],
      [lists, { how: 'add', attribute: 'lists', members: ['daily', 'weekly'] }],
      [lists, { how: 'set', attribute: 'lists', value: ['daily', 'weekly'] }],
      [
        { ...visits, source: 'visit' },
        { how: 'clear', attribute: 'visits' },
      ],
      [
        { ...base, id: 'email', label: 'email', type: 'text' },
        { how: 'clear', attribute: 'email' },
      ],
    ];
    for (const [attribute, change] of refused)
      expect(problemOfChange(attribute, change), JSON.stringify(change)).toBeDefined();
    expect(
      problemOfChange(lists, { how: 'take', attribute: 'lists', members: ['daily', 'weekly'] }),
    ).toBeUndefined();
    expect(problemOfChange(visits, { how: 'set', attribute: 'visits', value: 0 })).toBeUndefined();
  });
});
