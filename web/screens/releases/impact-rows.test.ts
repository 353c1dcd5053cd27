import { describe, expect, it } from 'vitest';
import type { PersonRecord } from '../../../contract/people.ts';
import type { Impact } from '../../../contract/releases.ts';
import { rowsOf, sayContacts, sayWho } from './impact-rows.ts';

type DocumentImpact = Impact['documents'][number];
const ines: PersonRecord = {
  id: 1,
  name: 'Ines Marlow',
  email: 'ines.marlow@example.org',
  hasAccount: true,
  values: {},
};
const yara: PersonRecord = { ...ines, id: 2, name: 'Yara Addo-Finch' };
const slots = [
  { name: 'Welcome', audiences: ['Midnight', 'Twilight'] },
  { name: 'Offer', audiences: ['Renewing'] },
];
const impactOf = (
  changes: DocumentImpact['changes'],
  after = slots,
  more: Partial<DocumentImpact> = {},
): DocumentImpact => ({
  id: 'home',
  name: 'Home',
  kind: 'page',
  parts: ['content'],
  contacts: changes.reduce((sum, { contacts }) => sum + contacts, 0),
  anonymous: false,
  changes,
  complete: true,
  slots: { before: slots, after },
  ...more,
});

describe('the rows that tell a release’s changes', () => {
  it('name the slots that change and leave out those that stay', () => {
    const [row, ...others] = rowsOf(impactOf([{ before: [1, 0], after: [0, 0], contacts: 3, person: ines }]));
    expect(others).toEqual([]);
    expect(row?.steps).toEqual([{ name: 'Welcome', from: 1, to: 0, left: 'Twilight', right: 'Midnight' }]);
  });

  it('put together what differs only in slots that stay as they are, and lose nobody', () => {
    const rows = rowsOf(
      impactOf([
        { before: [1, -1], after: [0, -1], contacts: 456, person: ines },
        { before: [1, 0], after: [0, 0], contacts: 27, person: yara },
        { before: [0, 0], after: [-1, -1], contacts: 5, person: yara },
      ]),
    );
    expect(rows.map(({ contacts, person }) => [contacts, person?.name])).toEqual([
      [483, 'Ines Marlow'],
      [5, 'Yara Addo-Finch'],
    ]);
  });

  it('find a slot by its name where slots have moved, and a variant by whom it is for', () => {
    const moved = [
      { name: 'Offer', audiences: ['Renewing'] },
      { name: 'Welcome', audiences: ['Twilight', 'Midnight'] },
    ];
    // Twilight members get what is for them, before as B and after as A: nothing that can be told has moved.
    const rows = rowsOf(impactOf([{ before: [1, 0], after: [0, 0], contacts: 1, person: ines }], moved));
    expect(rows.map(({ steps }) => steps)).toEqual(['reads differently']);
    const [other] = rowsOf(impactOf([{ before: [1, 0], after: [0, 1], contacts: 1, person: ines }], moved));
    expect(other?.steps).toEqual([{ name: 'Welcome', from: 1, to: 1, left: 'Twilight', right: 'Midnight' }]);
  });

  it('say “everyone else” where no variant matches, and keep silent about slots that are not seen', () => {
    const [row] = rowsOf(impactOf([{ before: [-1, -2], after: [0, 0], contacts: 1, person: ines }]));
    expect(row?.steps).toEqual([
      { name: 'Welcome', from: -1, to: 0, left: 'everyone else', right: 'Midnight' },
    ]);
  });

  it('tell a page that is new from one that is gone', () => {
    const rows = rowsOf(
      impactOf([
        { before: null, after: [0, 0], contacts: 2, person: ines },
        { before: [0, 0], after: null, contacts: 1, person: yara },
        { before: null, after: [1, 0], contacts: 4, person: yara },
      ]),
    );
    expect(rows.map(({ steps, contacts }) => [steps, contacts])).toEqual([
      ['new', 6],
      ['no longer there', 1],
    ]);
  });

  it('tell who may open a page from then on, and who no longer', () => {
    const rows = rowsOf(
      impactOf([
        { before: [-1, -2], after: [0, 0], opening: 'gained', contacts: 2, person: ines },
        { before: [0, 0], after: [-1, -2], opening: 'lost', contacts: 1, person: yara },
        { before: [0, 1], after: [-1, -2], opening: 'lost', contacts: 3, person: yara },
      ]),
    );
    expect(rows.map(({ steps, contacts }) => [steps, contacts])).toEqual([
      ['can open it from now on', 2],
      ['can no longer open it', 4],
    ]);
  });
});

describe('whom it is told for', () => {
  it.each([
    ['483 of 2,400 contacts see something else', { contacts: 483 }],
    ['483 of 2,400 contacts and anonymous visitors see something else', { contacts: 483, anonymous: true }],
    ['anonymous visitors see something else', { contacts: 0, anonymous: true }],
    ['nobody today, but it is possible', { contacts: 0 }],
    ['483 of 2,400 contacts would get something else', { contacts: 483, kind: 'email' as const }],
  ])('%s', (words, more) => {
    expect(sayWho(impactOf([], slots, more), 2400)).toBe(words);
  });

  it.each([
    ['possible, nobody today', 0, ines],
    ['Ines Marlow', 1, ines],
    ['Ines Marlow and 1,233 more', 1234, ines],
    ['7 contacts', 7, null],
  ])('%s', (words, contacts, person) => {
    expect(sayContacts({ contacts, person })).toBe(words);
  });
});
