import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { outdated } from './retention.ts';

const at = (text: string) => new Date(`${text}T12:00:00Z`);
const now = at('2026-11-24').getTime();

describe('which releases are no longer kept', () => {
  it('are, of each week that lies more than 90 days back, all but the last', () => {
    const made = [
      // 24 August 2026 is a Monday, 92 days before.
      ['2026-08-17', 1],
      ['2026-08-21', 2],
      ['2026-08-23', 3],
      ['2026-08-24', 4],
      ['2026-08-25', 5],
      ['2026-08-27', 6],
      ['2026-08-28', 7],
    ] as const;
    const releases = made.map(([day, id]) => ({ id, createdAt: at(day) }));
    expect(outdated(releases, new Set(), now).sort()).toEqual([1, 2, 4]);
    expect(outdated(releases, new Set([1]), now).sort()).toEqual([2, 4]);
    // The 26th was exactly 90 days ago.
    expect(
      outdated(
        [
          { id: 1, createdAt: at('2026-08-26') },
          { id: 2, createdAt: at('2026-08-26') },
        ],
        new Set(),
        now,
      ),
    ).toEqual([]);
  });

  it('leave one for each week, all of 90 days, and whatever is needed', () => {
    const day = 24 * 3600 * 1000;
    const ages = fc.array(fc.integer({ min: 0, max: 400 }), { maxLength: 40 });
    fc.assert(
      fc.property(ages, fc.array(fc.integer({ min: 1, max: 40 })), (days, named) => {
        const releases = days
          .sort((one, other) => other - one)
          .map((ago, index) => ({ id: index + 1, createdAt: new Date(now - ago * day) }));
        const gone = new Set(outdated(releases, new Set(named), now));
        const kept = releases.filter(({ id }) => !gone.has(id));
        for (const { id, createdAt } of releases) {
          if (named.includes(id) || now - createdAt.getTime() <= 90 * day) expect(gone.has(id)).toBe(false);
          // A later release of the same week is kept. Weeks are compared by the date of their Monday.
          if (gone.has(id))
            expect(kept.some((other) => other.id > id && monday(other.createdAt) === monday(createdAt))).toBe(
              true,
            );
        }
        // What goes once does not make more go.
        expect(outdated(kept, new Set(named), now)).toEqual([]);
      }),
      { numRuns: 300 },
    );
  });
});

function monday(date: Date): string {
  const first = new Date(date);
  first.setUTCDate(first.getUTCDate() - ((first.getUTCDay() + 6) % 7));
  return first.toISOString().slice(0, 10);
}
