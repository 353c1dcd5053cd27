import type { z } from 'zod';
import type { Installation, installationRequestSchema } from '../../contract/decide.ts';
import type { MarkupThread } from '../documents/markup-thread.ts';
import { type Outside, OutsideError } from '../http/outside.ts';
import { Refusal } from '../refusal.ts';
import type { LiveSite } from '../snapshots/live.ts';
import type { ApiKeys } from './api-keys.ts';

const longest = 5_000_000;
const patience = 10_000;

/** Looks whether another site's page has what it needs: the script with its key, and each slot once. */
export class InstallationCheck {
  constructor(
    private readonly live: LiveSite,
    private readonly keys: ApiKeys,
    private readonly outside: Outside,
    private readonly markup: MarkupThread,
  ) {}

  async check(request: z.infer<typeof installationRequestSchema>): Promise<Installation> {
    const html = 'html' in request ? request.html : await this.fetched(request.url);
    const there = await this.markup.do('installed', html);
    const times = new Map(there.slots.map(({ key, times: found }) => [key, found]));
    const known = new Map(
      (this.live.current?.compiled.slots.keys() ?? []).map(({ key, page, slot }) => [
        key,
        `${page}: ${slot}`,
      ]),
    );
    const expected = [...known.keys()].filter((key) => key.startsWith(`${request.page}/`));
    const slots: Installation['slots'] = [];
    for (const [key, found] of times) {
      const name = known.get(key) ?? null;
      slots.push({
        key,
        name,
        state: name === null ? 'misspelt' : found > 1 ? 'doubled' : 'found',
        meant: name === null ? closest(key, [...known.keys()]) : null,
        times: found,
      });
    }
    for (const key of expected)
      if (!times.has(key))
        slots.push({ key, name: known.get(key) ?? null, state: 'missing', meant: null, times: 0 });
    const script = await this.script(there.key);
    return {
      script,
      slots,
      passes: script === 'there' && slots.length > 0 && slots.every(({ state }) => state === 'found'),
    };
  }

  private async script(key: string | null | undefined): Promise<Installation['script']> {
    if (key === undefined) return 'missing';
    if (key === null) return 'without-key';
    return (await this.keys.find(key)) ? 'there' : 'unknown-key';
  }

  /** The page at an address of a site that some key is for; of any other nothing is fetched. */
  private async fetched(url: string): Promise<string> {
    const { origin } = new URL(url);
    if (!(await this.keys.origins()).has(origin))
      throw new Refusal(422, `No key is for ${origin}. Make one for it first, or paste the page's source.`);
    const answer = await this.outside.get(url, { patience, longest }).catch((error: unknown) => {
      if (error instanceof OutsideError)
        throw new Refusal(422, `The page can’t be reached: ${error.message}`);
      throw error;
    });
    if (answer.status !== 200) throw new Refusal(422, `The page answers ${answer.status}.`);
    return answer.text;
  }
}

/** The known key that is least far from what was written, where it is near at all. */
function closest(written: string, known: readonly string[]): string | null {
  let best: { key: string; away: number } | undefined;
  for (const key of known) {
    const away = distance(written.toLowerCase(), key.toLowerCase());
    if (!best || away < best.away) best = { key, away };
  }
  return best && best.away <= Math.max(2, written.length / 3) ? best.key : null;
}

/** Levenshtein's distance: signs to be put in, taken out or changed (Levenshtein 1966). */
function distance(one: string, two: string): number {
  let row = Array.from({ length: two.length + 1 }, (_, index) => index);
  for (const [index, sign] of [...one].entries()) {
    const next = [index + 1];
    for (const [at, other] of [...two].entries())
      next.push(
        Math.min((row[at + 1] ?? 0) + 1, (next[at] ?? 0) + 1, (row[at] ?? 0) + (sign === other ? 0 : 1)),
      );
    row = next;
  }
  return row.at(-1) ?? 0;
}
