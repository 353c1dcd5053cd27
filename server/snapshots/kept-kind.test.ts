import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { DraftedKind } from '../store/drafted-kind.ts';
import { KeptKind } from './kept-kind.ts';

interface Thing {
  readonly id: string;
  readonly words: string;
}

/** A table in which things stand by their place, then by their id. */
class Table implements DraftedKind<Thing> {
  readonly rows = new Map<string, { place: string; value: Thing }>();
  readonly reads: (readonly string[] | 'all' | 'order')[] = [];
  fails = false;
  /** Done while something is read, as by another process. */
  meanwhile: (() => void) | undefined;

  async read(ids?: readonly string[]) {
    this.reads.push(ids ?? 'all');
    if (this.fails) throw new Error('the database is gone');
    const found = this.sorted().filter(({ id }) => ids?.includes(id) ?? true);
    this.meanwhile?.();
    return found;
  }

  async order() {
    this.reads.push('order');
    return this.sorted().map(({ id }) => id);
  }

  values(): Thing[] {
    return this.sorted().map(({ value }) => value);
  }

  set(id: string, words: string, place = '') {
    this.rows.set(id, { place, value: { id, words } });
  }

  private sorted() {
    return [...this.rows]
      .map(([id, row]) => ({ id, ...row }))
      .sort((left, right) => `${left.place} ${left.id}`.localeCompare(`${right.place} ${right.id}`, 'en'));
  }
}

const ids = fc.constantFrom('a', 'b', 'c', 'd', 'e');
const steps = fc.array(
  fc.oneof(
    fc.record({
      do: fc.constant('set' as const),
      id: ids,
      words: fc.string(),
      place: fc.constantFrom('', '1', '2'),
    }),
    fc.record({ do: fc.constant('remove' as const), id: ids }),
    fc.record({ do: fc.constant('anything' as const) }),
    fc.record({ do: fc.constant('get' as const) }),
    fc.record({ do: fc.constant('fail' as const) }),
  ),
  { maxLength: 30 },
);

describe('what is kept of a kind', () => {
  it('is what a fresh reading finds, whatever was changed, moved and removed', async () => {
    await fc.assert(
      fc.asyncProperty(steps, async (made) => {
        const table = new Table();
        const kept = new KeptKind(table);
        for (const step of made) {
          if (step.do === 'set') table.set(step.id, step.words, step.place);
          if (step.do === 'remove') table.rows.delete(step.id);
          if (step.do === 'set' || step.do === 'remove') kept.forget([step.id]);
          if (step.do === 'anything') kept.forget(null);
          if (step.do === 'fail') {
            table.fails = true;
            await kept.get().catch(() => undefined);
            table.fails = false;
          }
          if (step.do === 'get') expect(await kept.get()).toEqual(table.values());
        }
        expect(await kept.get()).toEqual(table.values());
      }),
      { numRuns: 300, seed: 1 },
    );
  });

  it('reads only what changed, and its order only where that may be another', async () => {
    const table = new Table();
    for (const id of ['a', 'b', 'c']) table.set(id, 'first', id);
    const kept = new KeptKind(table);
    const first = await kept.get();
    expect(await kept.get()).toBe(first);
    table.set('b', 'second', 'b');
    kept.forget(['b']);
    const second = await kept.get();
    expect(second[0]).toBe(first[0]);
    expect(second[1]).toEqual({ id: 'b', words: 'second' });
    expect(table.reads).toEqual(['all', ['b']]);
    table.set('b', 'third', '0');
    kept.forget(['b']);
    expect((await kept.get()).map(({ id }) => id)).toEqual(['b', 'a', 'c']);
    expect(table.reads).toEqual(['all', ['b'], ['b'], 'order']);
  });

  it('reads again what changes while it is read', async () => {
    const table = new Table();
    table.set('a', 'first');
    const kept = new KeptKind(table);
    await kept.get();
    kept.forget(['a']);
    table.meanwhile = () => {
      table.meanwhile = undefined;
      table.set('a', 'last');
      kept.forget(['a']);
    };
    expect(await kept.get()).toEqual([{ id: 'a', words: 'first' }]);
    expect(await kept.get()).toEqual([{ id: 'a', words: 'last' }]);
  });
});
