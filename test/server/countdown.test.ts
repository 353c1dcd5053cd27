import { readFileSync } from 'node:fs';
import { runInNewContext } from 'node:vm';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { countdownText } from '../../core/rendering/markup.ts';

const script = readFileSync(new URL('../../server/site/assets/site.js', import.meta.url), 'utf8');

/** What the script of the live site writes into a countdown. */
function writtenByScript(until: number, now: number, over: string): string {
  const words = { textContent: '' };
  const countdown = {
    dataset: { until: new Date(until).toISOString(), over },
    querySelector: () => words,
  };
  runInNewContext(script, {
    document: {
      querySelector: () => countdown,
      querySelectorAll: () => [countdown],
      addEventListener: () => undefined,
    },
    Date: { now: () => now, parse: Date.parse },
    setInterval: () => 0,
  });
  return words.textContent;
}

it('the script of the site says of a countdown what the server said (property)', () => {
  const minute = 60_000;
  fc.assert(
    fc.property(
      fc.oneof(fc.integer({ min: -3, max: 4000 }), fc.integer({ min: -1e6, max: 1e6 })),
      fc.integer({ min: 0, max: 59_999 }),
      (minutes, rest) => {
        const now = Date.parse('2026-11-24T12:00:00Z');
        const until = now + minutes * minute + rest;
        expect(writtenByScript(until, now, 'It has begun')).toBe(
          countdownText({ kind: 'countdown', until, over: 'It has begun' }, now),
        );
      },
    ),
  );
});
