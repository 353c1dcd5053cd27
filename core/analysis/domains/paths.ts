import type { Attribute } from '../../attributes/attribute.ts';
import { matchesPattern, PatternRun, type Sign } from '../../attributes/patterns.ts';
import type { Fact } from '../../attributes/viewer.ts';
import type { Question } from '../../conditions/meaning.ts';
import type { Diagram } from '../diagrams/diagrams.ts';
import type { Work } from '../diagrams/work.ts';
import {
  cellsWhere,
  type Domain,
  known,
  type Levels,
  notAsked,
  TooManyValues,
  type Variable,
} from './domain.ts';
import { separatorFor } from './texts.ts';
import { eitherOf, mostListed, orMissing, sayPresence } from './words.ts';

type PatternsQuestion = Extract<Question, { kind: 'patterns' }>;

/** Most combined places of all patterns that are looked at. */
const mostPlaces = 20_000;

/**
 * Paths: a cell for each class of named paths, and of all others for each combination of patterns that they can match. The
 * combinations are found by running all patterns together over every character that tells any of them apart (the product
 * of automata; Hopcroft and Ullman 1979, section 3).
 */
export class PathDomain implements Domain {
  readonly variables: readonly [Variable];
  /** For each cell but the first, paths in it: the named ones, or one that is none of them. */
  private readonly classes: readonly (readonly [string, ...string[]])[];
  private readonly cellOf = new Map<string, number>();
  private readonly patterns: readonly PatternsQuestion[];
  private readonly named: ReadonlySet<string>;

  /** @param questions of kind `among`, `patterns` and `known`. Throws TooManyValues past a stated bound. */
  constructor(
    readonly attribute: Attribute,
    questions: readonly Question[],
    work: Work,
  ) {
    this.patterns = questions.filter((question) => question.kind === 'patterns');
    const named = new Map<string, string>();
    for (const [index, question] of questions.entries())
      if (question.kind === 'among')
        for (const value of question.values)
          named.set(String(value), `${named.get(String(value)) ?? ''} ${index}`);
    this.named = new Set(named.keys());
    const classes = new Map<string, [string, ...string[]]>();
    const put = (key: string, path: string) => {
      const found = classes.get(key);
      if (found) found.push(path);
      else classes.set(key, [path]);
    };
    for (const [path, asked] of named) put(`${asked}|${this.matched(path)}`, path);
    for (const path of this.otherPaths(work)) put(`|${this.matched(path)}`, path);
    this.classes = [...classes.values()];
    for (const [key, paths] of classes) this.cellOf.set(key, this.classes.indexOf(paths) + 1);
    for (const [path, asked] of named)
      this.cellOf.set(path, this.cellOf.get(`${asked}|${this.matched(path)}`) ?? 0);
    this.variables = [{ width: this.classes.length + 1, say: (cells) => this.say(cells) }];
  }

  answer(question: Question, levels: Levels): Diagram {
    const [variable] = this.variables;
    if (question.kind === 'known') return known(levels, variable);
    if (question.kind === 'among')
      return cellsWhere(levels, variable, (cell) => {
        const [path] = this.classes[cell - 1] ?? [];
        return path !== undefined && question.values.has(path);
      });
    if (question.kind !== 'patterns') throw notAsked(question, this.attribute);
    return cellsWhere(levels, variable, (cell) => {
      const [path] = this.classes[cell - 1] ?? [];
      return path !== undefined && matches(question, path);
    });
  }

  constraints(): Diagram[] {
    return [];
  }

  invent([cell = 0]: readonly number[]): Fact {
    return this.classes[cell - 1]?.[0];
  }

  place(fact: Fact): number[] {
    if (typeof fact !== 'string') return [0];
    return [this.cellOf.get(fact) ?? this.cellOf.get(`|${this.matched(fact)}`) ?? 0];
  }

  private matched(path: string): string {
    return this.patterns.map((question) => (matches(question, path) ? 1 : 0)).join('');
  }

  /** A path that is not named for each combination of patterns that there is one for. */
  private otherPaths(work: Work): string[] {
    const literals: string[] = [];
    while (true) {
      const found = this.runTogether(literals, work);
      const taken = found.filter((path) => this.named.has(path) && !literals.includes(path));
      if (taken.length === 0) return found.filter((path) => !this.named.has(path));
      // A named path stands for its combination; it runs along as a pattern, so that another is found if there is one.
      literals.push(...taken);
    }
  }

  /** The shortest path for each combination of patterns, and of some paths themselves, that can be matched together. */
  private runTogether(literals: readonly string[], work: Work): string[] {
    const patterns: (readonly Sign[])[] = [
      ...this.patterns.flatMap((question) => question.patterns),
      ...literals.map((path) => [...path].map((char) => ({ char }))),
    ];
    const chars = new Set(['/']);
    for (const signs of patterns)
      for (const sign of signs) if (typeof sign === 'object') chars.add(sign.char);
    const alphabet = [separatorFor([...chars]), ...chars];
    const open: { path: string; runs: readonly PatternRun[] }[] = [
      { path: '', runs: patterns.map((signs) => new PatternRun(signs)) },
    ];
    const seen = new Set<string>();
    const found = new Map<string, string>();
    for (let at = 0; at < open.length; at++) {
      const here = open[at];
      if (!here) break;
      if (here.path !== '') {
        const key = here.runs.map((run) => (run.matches ? 1 : 0)).join('');
        if (!found.has(key)) found.set(key, here.path);
      }
      for (const char of here.path === '' ? ['/'] : alphabet) {
        work.spend(patterns.length);
        const runs = here.runs.map((run) => run.next(char));
        const key = runs.map((run) => run.key).join('|');
        if (seen.has(key)) continue;
        seen.add(key);
        if (seen.size > mostPlaces)
          throw new TooManyValues(`${this.attribute.label} is compared with too many patterns at once`);
        open.push({ path: here.path + char, runs });
      }
    }
    return [...found.values()];
  }

  private say(cells: ReadonlySet<number>): string | undefined {
    const presence = sayPresence(this.attribute, cells, this.variables[0].width);
    if (presence) return presence;
    const inside = this.classes.filter((_, index) => cells.has(index + 1)).flat();
    if (inside.length > mostListed || !inside.every((path) => this.named.has(path))) return undefined;
    return orMissing(`${this.attribute.label} is ${eitherOf(inside)}`, cells);
  }
}

function matches({ patterns }: PatternsQuestion, path: string): boolean {
  return patterns.some((signs) => matchesPattern(signs, path));
}
