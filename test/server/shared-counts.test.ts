import { randomBytes } from 'node:crypto';
import type { Sequelize } from 'sequelize';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Presence } from '../../server/documents/presence-rows.ts';
import { SharedCounts } from '../../server/http/limit-rows.ts';
import { openDatabase } from '../../server/tables.ts';

const name = `apple_porch_test_${randomBytes(6).toString('hex')}`;
const url = `${process.env.TEST_DATABASE_SERVER}/${name}`;
let one: Sequelize;
let other: Sequelize;
beforeAll(async () => {
  // As two servers have it.
  one = await openDatabase(url);
  other = await openDatabase(url);
});
afterAll(async () => {
  await one.query(`DROP DATABASE \`${name}\``);
  await one.close();
  await other.close();
});

describe('a limit', () => {
  it('counts for all servers together, for each by itself, and anew when its time is over', async () => {
    const [here, there] = [new SharedCounts(one), new SharedCounts(other)];
    const hits = async (counts: SharedCounts, of: string) => (await counts.add(of, 60_000)).hits;
    expect([await hits(here, 'a'), await hits(there, 'a'), await hits(here, 'b')]).toEqual([1, 2, 1]);
    await here.takeBack('a');
    expect(await hits(there, 'a')).toBe(2);
    const all = await Promise.all(
      Array.from({ length: 40 }, (_, n) => (n % 2 ? here : there).add('many', 60_000)),
    );
    expect(Math.max(...all.map((of) => of.hits))).toBe(40);
    await one.query("UPDATE limit_counts SET until = '2026-01-01'");
    expect(await hits(here, 'a')).toBe(1);
    await there.forget('a');
    expect(await hits(here, 'a')).toBe(1);
    await one.query("UPDATE limit_counts SET until = '2026-01-01'");
    await here.clear();
    const [rows] = await one.query('SELECT * FROM limit_counts');
    expect(rows).toEqual([]);
  });

  it('keeps nothing that tells for whom it is counted', async () => {
    await new SharedCounts(one).add('sign-in 203.0.113.7 maya@example.org', 60_000);
    const [rows] = await one.query('SELECT * FROM limit_counts');
    // A hash may hold any digits; no digits of it stand between points.
    expect(JSON.stringify(rows)).not.toMatch(/maya|example|203\.0/);
  });
});

describe('who has something open', () => {
  it('is told by every server, until they leave or are not heard of any more', async () => {
    const [here, there] = [new Presence(one), new Presence(other)];
    const [maya, theo] = [
      { id: 1, name: 'Maya' },
      { id: 2, name: 'Theo' },
    ];
    expect(await here.here('home', maya)).toEqual([]);
    expect(await there.here('home', theo)).toEqual(['Maya']);
    expect(await there.here('other', theo)).toEqual([]);
    expect(await here.here('home', maya)).toEqual(['Theo']);
    await there.gone('home', 2);
    expect(await here.here('home', maya)).toEqual([]);
    await there.here('home', theo);
    await one.query('UPDATE presence SET seenAt = UTC_TIMESTAMP(3) - INTERVAL 16 SECOND WHERE accountId = 2');
    expect(await here.here('home', maya)).toEqual([]);
  });
});
