import { describe, expect, it } from 'vitest';
import type { LoggedChange } from '../../contract/changes.ts';
import { isMadeOf } from './made-of.ts';
import { changedDocuments, withThose } from './some-documents.ts';

const change = (
  kind: LoggedChange['kind'],
  ids: string[] | null,
  revision: number | null = 1,
): LoggedChange => ({
  position: 1,
  kind,
  ids,
  revision,
});

describe('a list of which some changed', () => {
  const known = ['a', 'b', 'c'].map((id) => ({ id, name: 'before' }));

  it('has those as they are now, where they stood', () => {
    expect(withThose(known, [{ id: 'b', name: 'after' }], new Set(['b']))).toEqual([
      { id: 'a', name: 'before' },
      { id: 'b', name: 'after' },
      { id: 'c', name: 'before' },
    ]);
  });

  it('loses what is gone, and has what is new last', () => {
    const now = [{ id: 'd', name: 'new' }];
    expect(withThose(known, now, new Set(['a', 'd'])).map(({ id }) => id)).toEqual(['b', 'c', 'd']);
  });
});

describe('the documents that changed', () => {
  it('are those of all changes', () => {
    expect(
      changedDocuments([change('document', ['a']), change('audience', ['x']), change('document', ['b'])]),
    ).toEqual(new Set(['a', 'b']));
  });

  it('are not known where there are none, many, or it may be any', () => {
    expect(changedDocuments([change('audience', ['x'])])).toBeUndefined();
    expect(changedDocuments([change('document', ['a']), change('document', null)])).toBeUndefined();
    const many = Array.from({ length: 51 }, (_, index) => String(index));
    expect(changedDocuments([change('document', many)])).toBeUndefined();
  });
});

describe('a document that was stored from here', () => {
  const isKnown = (path: string, revision: number | null) =>
    path === '/documents/home' && revision !== null && revision <= 5;
  const isRead = (...changes: LoggedChange[]) => isMadeOf('/documents/home', changes, isKnown);

  it('is not read again for what is known, and is for what a colleague stored or deleted', () => {
    expect(isRead(change('document', ['home'], 5))).toBe(false);
    expect(isRead(change('document', ['home'], 6))).toBe(true);
    expect(isRead(change('document', ['home'], 5), change('document', ['home'], 6))).toBe(true);
    expect(isRead(change('document', ['home'], null))).toBe(true);
    expect(isRead(change('document', null, null))).toBe(true);
    expect(isRead(change('document', ['about'], 9))).toBe(false);
  });

  it('keeps nothing else from being read', () => {
    for (const path of ['/documents', '/releases/pending', '/documents/shared'])
      expect([path, isMadeOf(path, [change('document', ['home'], 5)], isKnown)]).toEqual([path, true]);
  });
});
