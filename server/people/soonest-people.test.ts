import { describe, expect, it } from 'vitest';
import { all } from '../../core/conditions/condition.ts';
import type { AsksPeople } from './questions.ts';
import { SoonestPeople } from './soonest-people.ts';

/** People whose total is known when it is told, and how often they were asked. */
function people() {
  const waiting: { resolve: (total: number) => void; reject: (error: Error) => void }[] = [];
  const asked = { times: 0 };
  const asks = {
    total: () => {
      asked.times++;
      return new Promise<number>((resolve, reject) => waiting.push({ resolve, reject }));
    },
    changed: async () => {},
    stop: async () => {},
  } as unknown as AsksPeople;
  return {
    asks,
    asked,
    tell: (total: number) => waiting.shift()?.resolve(total),
    fail: (message: string) => waiting.shift()?.reject(new Error(message)),
  };
}
function both() {
  const [held, stored] = [people(), people()];
  return { held, stored, soonest: new SoonestPeople(held.asks, stored.asks) };
}

describe('who is asked for the table of people', () => {
  it('is the database too while those in memory have not answered yet, and then no more', async () => {
    const { held, stored, soonest } = both();
    const first = soonest.total();
    stored.tell(7);
    expect(await first).toBe(7);
    held.tell(7);
    await new Promise(setImmediate);
    const next = soonest.total();
    held.tell(8);
    expect(await next).toBe(8);
    expect(stored.asked.times).toBe(1);
  });

  it('is the database again after everything changed, also where an older answer comes late', async () => {
    const { held, stored, soonest } = both();
    const before = soonest.total();
    stored.tell(1);
    await before;
    await soonest.changed();
    held.tell(1);
    await new Promise(setImmediate);
    const after = soonest.total();
    stored.tell(2);
    expect(await after).toBe(2);
    await soonest.changed([3]);
    held.tell(2);
    await new Promise(setImmediate);
    void soonest.total();
    expect(stored.asked.times).toBe(2);
  });

  it('is the database alone where it is asked who came with an import, which those in memory don’t know', async () => {
    const listed: string[] = [];
    const lists = (name: string): AsksPeople => ({
      ...people().asks,
      list: async () => {
        listed.push(name);
        return { ids: [], matching: 0 };
      },
    });
    const soonest = new SoonestPeople(lists('held'), lists('stored'));
    const scope = { attributes: [], zone: 'UTC', audiences: [] };
    const query = { search: '', sort: 'name', direction: 'up', from: 0, most: 1, importId: 7 } as const;
    await soonest.list(scope, { instant: 0, channel: 'page' }, { ...query, where: all() });
    expect(listed).toEqual(['stored']);
  });

  it('is told of a change without anybody waiting for those in memory, as long as they are not there yet', async () => {
    const { held, stored } = both();
    let take = () => {};
    const changes: (readonly number[] | undefined)[] = [];
    const slow: AsksPeople = {
      ...held.asks,
      changed: (ids) => {
        changes.push(ids);
        return new Promise<void>((resolve) => {
          take = resolve;
        });
      },
    };
    const soonest = new SoonestPeople(slow, stored.asks);
    await soonest.changed([5]);
    const total = soonest.total();
    held.tell(3);
    expect(await total).toBe(3);
    // Now that they answer, whoever changes something waits until they know.
    let isTaken = false;
    const told = soonest.changed([6]).then(() => {
      isTaken = true;
    });
    await new Promise(setImmediate);
    expect(isTaken).toBe(false);
    take();
    await told;
    expect(changes).toEqual([[5], [6]]);
  });

  it('is everybody anew in memory where a change did not reach them', async () => {
    const { held, stored } = both();
    const changes: (readonly number[] | undefined)[] = [];
    const failing: AsksPeople = {
      ...held.asks,
      changed: async (ids) => {
        changes.push(ids);
        if (ids) throw new Error('the thread died');
      },
    };
    await new SoonestPeople(failing, stored.asks).changed([5]);
    await new Promise(setImmediate);
    expect(changes).toEqual([[5], undefined]);
  });

  it('is the database too for a few counts, and not for many, which it takes longer for', async () => {
    const counted: string[] = [];
    const counts = (name: string): AsksPeople => ({
      ...people().asks,
      count: async (_scope, _setting, conditions) => {
        counted.push(`${name} ${conditions.length}`);
        return conditions.map(() => 0);
      },
    });
    const scope = { attributes: [], zone: 'UTC', audiences: [] };
    for (const many of [4, 5]) {
      const soonest = new SoonestPeople(counts('held'), counts('stored'));
      await soonest.count(scope, { instant: 0, channel: 'page' }, Array(many).fill(all()));
    }
    expect(counted).toEqual(['held 4', 'stored 4', 'held 5']);
  });

  it('is whichever of the two can answer, and none where neither can', async () => {
    const { held, stored, soonest } = both();
    const one = soonest.total();
    stored.fail('no database');
    held.tell(4);
    expect(await one).toBe(4);
    const { held: gone, stored: out, soonest: neither } = both();
    const none = neither.total();
    gone.fail('no thread');
    out.fail('no database');
    await expect(none).rejects.toThrow('no thread');
  });
});
