import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { RequestError } from './api.ts';
import { Autosave } from './autosave.ts';

interface Stored {
  revision: number;
  updatedAt: string;
  words: string;
}
interface Draft {
  words: string;
}

/** A server that stores words, refuses what it is told to, and may take its time. */
function server() {
  const state = {
    stored: { revision: 1, updatedAt: 'at 1', words: 'first' } as Stored,
    puts: [] as string[],
    kept: undefined as { draft: Draft; revision: number } | undefined,
    fails: [] as number[],
    takes: 0,
  };
  const put = async ({ words }: Draft, revision: number): Promise<Stored> => {
    state.puts.push(words);
    if (state.takes > 0) await new Promise((resolve) => setTimeout(resolve, state.takes));
    const status = state.fails.shift();
    if (status !== undefined) throw new RequestError(status, { message: `status ${status}`, fields: [] });
    if (revision !== state.stored.revision)
      throw new RequestError(409, { message: 'changed', fields: [], current: state.stored });
    state.stored = { revision: revision + 1, updatedAt: `at ${revision + 1}`, words };
    return state.stored;
  };
  const autosave = new Autosave<Draft, Stored>({
    stored: state.stored,
    draftOf: ({ words }) => ({ words }),
    put,
    conflictOf: ({ status }) => (status === 409 ? state.stored : undefined),
    keep: (unsaved) => {
      state.kept = unsaved;
    },
  });
  const changedByAnother = (words: string) => {
    const revision = state.stored.revision + 1;
    state.stored = { revision, updatedAt: `at ${revision}`, words };
  };
  return { state, autosave, changedByAnother };
}

beforeEach(() => vi.useFakeTimers());
afterEach(() => vi.useRealTimers());

describe('saving by itself', () => {
  it('stores the last of several changes, once, and keeps it elsewhere until then', async () => {
    const { state, autosave } = server();
    autosave.change({ words: 'a' });
    await vi.advanceTimersByTimeAsync(400);
    autosave.change({ words: 'ab' });
    expect(autosave.state().kind).toBe('waiting');
    expect(state.kept).toEqual({ draft: { words: 'ab' }, revision: 1 });
    await vi.advanceTimersByTimeAsync(499);
    expect(state.puts).toEqual([]);
    await vi.advanceTimersByTimeAsync(1);
    expect(state.puts).toEqual(['ab']);
    expect(autosave.state()).toEqual({ kind: 'saved', at: 'at 2' });
    expect(state.kept).toBeUndefined();
  });

  it('stores at once what was written while a save was under way', async () => {
    const { state, autosave } = server();
    state.takes = 1000;
    autosave.change({ words: 'a' });
    await vi.advanceTimersByTimeAsync(600);
    autosave.change({ words: 'ab' });
    expect(autosave.state().kind).toBe('saving');
    await vi.advanceTimersByTimeAsync(2500);
    expect(state.puts).toEqual(['a', 'ab']);
    expect(state.stored.words).toBe('ab');
    expect(autosave.isUnsaved).toBe(false);
  });

  it('is told at once when it has to be stored now, also in the middle of a save', async () => {
    const { state, autosave } = server();
    expect(await autosave.flush()).toBe(true);
    autosave.change({ words: 'a' });
    expect(autosave.isUnsaved).toBe(true);
    expect(await autosave.flush()).toBe(true);
    expect(state.puts).toEqual(['a']);
    state.takes = 1000;
    autosave.change({ words: 'b' });
    await vi.advanceTimersByTimeAsync(600);
    autosave.change({ words: 'c' });
    const flushed = autosave.flush();
    await vi.advanceTimersByTimeAsync(5000);
    expect(await flushed).toBe(true);
    expect(state.stored.words).toBe('c');
  });

  it('needs no save for what was undone', async () => {
    const { state, autosave } = server();
    const { first } = autosave;
    autosave.change({ words: 'a' });
    autosave.change(first);
    await vi.advanceTimersByTimeAsync(2000);
    expect(state.puts).toEqual([]);
    expect(autosave.state().kind).toBe('saved');
    expect(state.kept).toBeUndefined();
  });

  it.each([0, 401, 500, 503])('tries again by itself after %i, and at once when asked to', async (status) => {
    const { state, autosave } = server();
    state.fails = [status, status];
    autosave.change({ words: 'a' });
    await vi.advanceTimersByTimeAsync(500);
    expect(autosave.state()).toEqual({ kind: 'refused', message: `status ${status}`, again: true });
    expect(state.kept?.draft.words).toBe('a');
    await vi.advanceTimersByTimeAsync(5000);
    expect(state.puts).toEqual(['a', 'a']);
    autosave.again();
    await vi.advanceTimersByTimeAsync(1);
    expect(state.stored.words).toBe('a');
    expect(autosave.state().kind).toBe('saved');
  });

  it('waits for another change where the words were refused, and says that it could not be stored', async () => {
    const { state, autosave } = server();
    state.fails = [422, 422];
    autosave.change({ words: 'bad' });
    expect(await autosave.flush()).toBe(false);
    expect(autosave.state()).toEqual({ kind: 'refused', message: 'status 422', again: false });
    await vi.advanceTimersByTimeAsync(60_000);
    expect(state.puts).toEqual(['bad']);
    expect(state.kept?.draft.words).toBe('bad');
    autosave.change({ words: 'still bad' });
    await vi.advanceTimersByTimeAsync(500);
    autosave.change({ words: 'good' });
    await vi.advanceTimersByTimeAsync(500);
    expect(state.stored.words).toBe('good');
  });

  it('stops when its screen closes, keeps what is left, and goes on when that opens again', async () => {
    const { state, autosave } = server();
    autosave.change({ words: 'a' });
    autosave.stop();
    await vi.advanceTimersByTimeAsync(60_000);
    expect([state.puts, state.kept?.draft.words]).toEqual([[], 'a']);
    autosave.start();
    await vi.advanceTimersByTimeAsync(1);
    expect(state.puts).toEqual(['a']);
  });
});

describe('a conflict', () => {
  const conflicted = async () => {
    const made = server();
    made.changedByAnother('theirs');
    made.autosave.change({ words: 'mine' });
    await vi.advanceTimersByTimeAsync(500);
    expect(made.autosave.state()).toMatchObject({ kind: 'conflict', theirs: { words: 'theirs' } });
    return made;
  };

  it('holds every save back until it is settled', async () => {
    const { state, autosave } = await conflicted();
    autosave.change({ words: 'mine too' });
    await vi.advanceTimersByTimeAsync(60_000);
    expect(state.puts).toEqual(['mine']);
    expect(await autosave.flush()).toBe(false);
    expect(state.kept?.draft.words).toBe('mine too');
  });

  it('taking theirs goes on with theirs, and what is written next is written over it', async () => {
    const { state, autosave } = await conflicted();
    expect(autosave.settle('theirs')).toEqual({ words: 'theirs' });
    expect(autosave.isUnsaved).toBe(false);
    expect(state.kept).toBeUndefined();
    autosave.change({ words: 'theirs and more' });
    await vi.advanceTimersByTimeAsync(500);
    expect(state.puts).toEqual(['mine', 'theirs and more']);
    expect(state.stored).toMatchObject({ revision: 3, words: 'theirs and more' });
  });

  it('keeping mine stores it once, over what is there now', async () => {
    const { state, autosave } = await conflicted();
    expect(autosave.settle('mine')).toEqual({ words: 'mine' });
    await vi.advanceTimersByTimeAsync(60_000);
    expect(state.puts).toEqual(['mine', 'mine']);
    expect(state.stored).toMatchObject({ revision: 3, words: 'mine' });
  });

  it('keeping mine is another conflict where theirs changed again meanwhile', async () => {
    const { state, autosave, changedByAnother } = await conflicted();
    changedByAnother('theirs again');
    autosave.settle('mine');
    await vi.advanceTimersByTimeAsync(1);
    expect(autosave.state()).toMatchObject({ kind: 'conflict', theirs: { words: 'theirs again' } });
    expect(state.stored.words).toBe('theirs again');
  });

  it('comes of a draft that was kept from before somebody else changed it', async () => {
    const { state, autosave, changedByAnother } = server();
    changedByAnother('theirs');
    autosave.takeUp({ words: 'kept' }, 1);
    await vi.advanceTimersByTimeAsync(500);
    expect(autosave.state().kind).toBe('conflict');
    expect(state.stored.words).toBe('theirs');
  });
});
