/**
 * A pattern of text as signs: a literal character, any run of characters (`**`, or a part looked for), or any run
 * without a slash (`*` in a path). There are no regular expressions from people, so none can be slow.
 */
export type Sign = { readonly char: string } | 'any' | 'segment';

/** The signs of a path pattern: `*` stands for one step's worth of characters, `**` for any number of steps. */
export function pathPattern(text: string): Sign[] {
  const signs: Sign[] = [];
  // By whole characters, as texts are walked when they are matched.
  const chars = [...text];
  for (let at = 0; at < chars.length; at++) {
    const char = chars[at] ?? '';
    if (char !== '*') signs.push({ char });
    else if (chars[at + 1] === '*') {
      signs.push('any');
      at++;
    } else signs.push('segment');
  }
  return signs;
}

/**
 * A pattern running over a text: the places it may have reached, as it may be in several at once. The end is the
 * place `signs.length`. Each step costs at most the length of the pattern.
 */
export class PatternRun {
  private places: ReadonlySet<number>;

  constructor(private readonly signs: readonly Sign[]) {
    this.places = this.spread([0]);
  }

  get matches(): boolean {
    return this.places.has(this.signs.length);
  }

  /** Stands for everything that later steps depend on. */
  get key(): string {
    return [...this.places].sort((left, right) => left - right).join();
  }

  next(char: string): PatternRun {
    const reached: number[] = [];
    for (const place of this.places) {
      const sign = this.signs[place];
      if (sign === undefined) continue;
      if (sign === 'any' || (sign === 'segment' && char !== '/')) reached.push(place);
      else if (typeof sign === 'object' && sign.char === char) reached.push(place + 1);
    }
    const run = new PatternRun(this.signs);
    run.places = this.spread(reached);
    return run;
  }

  /** A run of characters may be empty, so the place after it is reached at once. */
  private spread(places: readonly number[]): Set<number> {
    const all = new Set<number>();
    for (const start of places)
      for (let place = start; ; place++) {
        all.add(place);
        if (typeof this.signs[place] !== 'string') break;
      }
    return all;
  }
}

/** Whether a whole text fits a pattern, in time of at most their lengths multiplied. */
export function matchesPattern(signs: readonly Sign[], text: string): boolean {
  // The greedy walk with one way back suffices where a run may take anything; a segment needs all places.
  if (signs.includes('segment')) {
    let run = new PatternRun(signs);
    for (const char of text) run = run.next(char);
    return run.matches;
  }
  const chars = [...text];
  let [at, sign, backSign, backAt] = [0, 0, -1, 0];
  while (at < chars.length) {
    const here = signs[sign];
    if (typeof here === 'object' && here.char === chars[at]) {
      at++;
      sign++;
    } else if (here === 'any') {
      backSign = ++sign;
      backAt = at;
    } else if (backSign >= 0) {
      sign = backSign;
      at = ++backAt;
    } else return false;
  }
  while (signs[sign] === 'any') sign++;
  return sign === signs.length;
}
