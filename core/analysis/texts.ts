import { PatternRun, type Sign } from '../attributes/patterns.ts';
import { fold, type Question } from '../conditions/meaning.ts';
import { TooManyValues } from './cells.ts';

/** Most combined places of all patterns that are looked at. */
const mostPlaces = 20_000;
/** A character that no test names: from the area for private use. */
const otherChar = '\uE000';

/**
 * Texts that between them show every combination of outcomes that questions about a text can have: the constants, and
 * for parts and patterns the shortest text that leads to each combination of the places their patterns can be in, by
 * running all of them together over every character that tells any of them apart (the product of automata; Hopcroft
 * and Ullman 1979, section 3). Throws TooManyValues past a stated bound.
 */
export function acceptedTexts(questions: readonly Question[], isPath: boolean): string[] {
  const constants = questions.flatMap((one) => (one.kind === 'among' ? [...one.values].map(String) : []));
  const patterns: { signs: readonly Sign[]; folded: boolean }[] = [];
  for (const question of questions) {
    if (question.kind === 'part')
      patterns.push({ signs: partPattern(question.where, question.text), folded: true });
    if (question.kind === 'patterns')
      for (const signs of question.patterns) patterns.push({ signs, folded: false });
  }
  const plain = isPath ? [`/${otherChar}`] : [otherChar];
  if (patterns.length === 0) return [...constants, ...plain];
  for (const constant of constants) patterns.push({ signs: literal(constant), folded: false });
  return [...constants, ...plain, ...runTogether(patterns, isPath)];
}

function literal(text: string): Sign[] {
  return [...text].map((char) => ({ char }));
}

function partPattern(where: 'contains' | 'starts' | 'ends', text: string): Sign[] {
  return [
    ...(where === 'starts' ? [] : (['any'] as const)),
    ...literal(text),
    ...(where === 'ends' ? [] : (['any'] as const)),
  ];
}

function runTogether(
  patterns: readonly { signs: readonly Sign[]; folded: boolean }[],
  isPath: boolean,
): string[] {
  const alphabet = new Set<string>([otherChar]);
  for (const { signs } of patterns)
    for (const sign of signs) if (typeof sign === 'object') alphabet.add(sign.char);
  if (isPath) alphabet.add('/');
  const start = patterns.map(({ signs }) => new PatternRun(signs));
  const open: { text: string; runs: readonly PatternRun[] }[] = [{ text: '', runs: start }];
  const seen = new Set<string>();
  const found: string[] = [];
  for (let at = 0; at < open.length; at++) {
    const here = open[at];
    if (!here) break;
    if (here.text !== '') found.push(here.text);
    for (const char of here.text === '' && isPath ? ['/'] : alphabet) {
      const foldedChar = fold(char);
      const runs = here.runs.map((run, index) => {
        if (!patterns[index]?.folded) return run.next(char);
        let next = run;
        for (const one of foldedChar) next = next.next(one);
        return next;
      });
      const key = runs.map((run) => run.key).join('|');
      if (seen.has(key)) continue;
      seen.add(key);
      if (seen.size > mostPlaces)
        throw new TooManyValues('too many parts of one text are looked for together');
      open.push({ text: here.text + char, runs });
    }
  }
  return found;
}
