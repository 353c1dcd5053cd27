import type { Attribute } from '../../attributes/attribute.ts';
import { fold } from '../../attributes/text-folding.ts';
import type { Fact } from '../../attributes/viewer.ts';
import type { Question } from '../../conditions/meaning.ts';
import { always, type Diagram } from '../diagrams/diagrams.ts';
import { type Domain, known, type Levels, notAsked, type Variable } from './domain.ts';
import { eitherOf, mostListed, orMissing, sayPresence } from './words.ts';

type PartQuestion = Extract<Question, { kind: 'part' }>;

/** A part that is looked for, with the variable that says whether it is there. */
interface Part {
  readonly question: PartQuestion;
  readonly variable: Variable;
}

/**
 * Texts: which of the texts that questions name it is, or another; and for each part that is looked for, whether it is
 * there. Which parts another text can have together is known from the parts alone, since any of them can stand next to
 * each other with something in between: a part brings with it those that lie in it, and of the beginnings and ends that
 * are asked for those that are there lie in each other.
 */
export class TextDomain implements Domain {
  readonly variables: readonly Variable[];
  /** Named texts, folded, in classes that no question tells apart. */
  private readonly classes: readonly (readonly [string, ...string[]])[];
  private readonly classOf = new Map<string, number>();
  /** Each named text as it was written. */
  private readonly written = new Map<string, string>();
  private readonly value: Variable;
  private readonly parts: readonly Part[];
  /** A character that no question names, to put between parts. */
  private readonly separator: string;

  /**
   * @param questions of kind `texts`, `part` and `known`
   * @param apart whether each named text is to have a cell of its own, for texts that are compared with each other
   */
  constructor(
    readonly attribute: Attribute,
    questions: readonly Question[],
    apart = false,
  ) {
    const parts = new Map<string, PartQuestion>();
    const named = new Map<string, string>();
    for (const [index, question] of questions.entries()) {
      if (question.kind === 'part') parts.set(`${question.where} ${question.text}`, question);
      if (question.kind === 'texts')
        for (const [folded, written] of question.folded) {
          named.set(folded, `${named.get(folded) ?? ''} ${index}`);
          if (!this.written.has(folded)) this.written.set(folded, written);
        }
    }
    this.parts = [...parts.values()].map((question) => ({
      question,
      variable: { width: 2, say: (cells) => this.sayPart(question, cells) },
    }));
    const classes = new Map<string, [string, ...string[]]>();
    for (const [text, asked] of named) {
      const key = apart
        ? text
        : `${asked}|${this.parts.map((part) => (isPartOf(part.question, text) ? 1 : 0)).join('')}`;
      const found = classes.get(key);
      if (found) found.push(text);
      else classes.set(key, [text]);
    }
    this.classes = [...classes.values()];
    for (const [index, texts] of this.classes.entries())
      for (const text of texts) this.classOf.set(text, index + 1);
    this.value = { width: this.classes.length + 2, say: (cells) => this.sayValue(cells) };
    this.variables = [this.value, ...this.parts.map(({ variable }) => variable)];
    this.separator = separatorFor([...named.keys(), ...[...parts.values()].map(({ text }) => text)]);
  }

  /** The cell of a text that is none of those named. */
  get otherCell(): number {
    return this.value.width - 1;
  }

  answer(question: Question, levels: Levels): Diagram {
    switch (question.kind) {
      case 'known':
        return known(levels, this.value);
      case 'texts':
        return levels.diagrams.some(
          levels.levelOf(this.value),
          this.value.width,
          [...question.folded.keys()].flatMap((text) => this.classOf.get(text) ?? []),
        );
      case 'part': {
        const part = this.parts.find(
          (one) => one.question.where === question.where && one.question.text === question.text,
        );
        if (!part) throw notAsked(question, this.attribute);
        return known(levels, part.variable);
      }
      default:
        throw notAsked(question, this.attribute);
    }
  }

  constraints(levels: Levels): Diagram[] {
    if (this.parts.length === 0) return [];
    const { diagrams } = levels;
    const is = (part: Part) => known(levels, part.variable);
    const exactly = (holds: (part: Part) => boolean) =>
      diagrams.all(this.parts.map((part) => (holds(part) ? is(part) : diagrams.not(is(part)))));
    const runs = [
      { end: 1, next: exactly(() => false) },
      ...this.classes.map(([text], index) => ({
        end: index + 2,
        next: exactly(({ question }) => isPartOf(question, text)),
      })),
      { end: this.value.width, next: this.together(levels) },
    ];
    return [diagrams.node(levels.levelOf(this.value), runs)];
  }

  invent([value = 0, ...held]: readonly number[], _today: unknown, other = false): Fact {
    if (value === 0) return undefined;
    const [constant] = this.classes[value - 1] ?? [];
    if (constant !== undefined) return this.written.get(constant) ?? constant;
    const parts = this.parts.filter((_, index) => held[index] === 1).map(({ question }) => question);
    const between = other ? this.separator + this.separator : this.separator;
    for (const joint of other ? [between] : [' ', ' – ', between])
      for (const text of joinParts(parts, joint, !other)) if (this.isIn(text, value, held)) return text;
    return joinParts(parts, between, false).at(-1);
  }

  place(fact: Fact): number[] {
    if (typeof fact !== 'string') return this.variables.map(() => 0);
    const text = fold(fact);
    return [
      this.classOf.get(text) ?? this.otherCell,
      ...this.parts.map(({ question }) => (isPartOf(question, text) ? 1 : 0)),
    ];
  }

  private isIn(text: string, value: number, held: readonly number[]): boolean {
    const [own, ...parts] = this.place(text);
    return own === value && parts.every((cell, index) => cell === (held[index] ?? 0));
  }

  /** Which parts a text that is not named can have together. */
  private together(levels: Levels): Diagram {
    const { diagrams } = levels;
    const rules: Diagram[] = [];
    for (const one of this.parts)
      for (const two of this.parts) {
        if (one === two) continue;
        const [a, b] = [known(levels, one.variable), known(levels, two.variable)];
        if (brings(one.question, two.question)) rules.push(diagrams.or(diagrams.not(a), b));
        else if (excludes(one.question, two.question)) rules.push(diagrams.not(diagrams.and(a, b)));
      }
    return rules.length === 0 ? always : diagrams.all(rules);
  }

  private sayValue(cells: ReadonlySet<number>): string | undefined {
    const { attribute, value } = this;
    const presence = sayPresence(attribute, cells, value.width);
    if (presence) return presence;
    const quote = (text: string) => `“${this.written.get(text) ?? text}”`;
    const inside = this.classes.filter((_, index) => cells.has(index + 1)).flat();
    const outside = this.classes.filter((_, index) => !cells.has(index + 1)).flat();
    if (!cells.has(this.otherCell))
      return inside.length > mostListed
        ? undefined
        : orMissing(`${attribute.label} is ${eitherOf(inside.map(quote))}`, cells);
    if (outside.length > mostListed) return undefined;
    const said = `${attribute.label} is not ${eitherOf(outside.map(quote))}`;
    return cells.has(0) ? said : `${said} and has a value`;
  }

  private sayPart({ where, written }: PartQuestion, cells: ReadonlySet<number>): string {
    const is = cells.has(1);
    const verbs = {
      contains: is ? 'contains' : 'does not contain',
      starts: is ? 'starts with' : 'does not start with',
      ends: is ? 'ends with' : 'does not end with',
    };
    return `${this.attribute.label} ${verbs[where]} “${written}”`;
  }
}

/** Whether a part is found in a folded text. */
export function isPartOf({ where, text: part }: Pick<PartQuestion, 'where' | 'text'>, text: string): boolean {
  if (where === 'contains') return text.includes(part);
  return where === 'starts' ? text.startsWith(part) : text.endsWith(part);
}

/** Whether every text with one part has another. */
function brings(one: PartQuestion, two: PartQuestion): boolean {
  if (two.where === 'contains') return one.text.includes(two.text);
  return one.where === two.where && isPartOf(two, one.text);
}

/** Whether no text has both parts: it begins, or ends, in one way only. */
function excludes(one: PartQuestion, two: PartQuestion): boolean {
  return (
    one.where === two.where &&
    one.where !== 'contains' &&
    !isPartOf(one, two.text) &&
    !isPartOf(two, one.text)
  );
}

/** Texts that hold some parts: the longest beginning first, the longest end last, what is asked for in between. */
function* joinedTexts(parts: readonly PartQuestion[], between: string, brief: boolean): Generator<string> {
  const longest = (where: PartQuestion['where']) =>
    parts
      .filter((part) => part.where === where)
      .sort((left, right) => right.text.length - left.text.length)
      .at(0);
  const [start, end] = [longest('starts'), longest('ends')];
  const inner = parts.filter(
    (part) =>
      part.where === 'contains' &&
      !parts.some(
        (other) =>
          other !== part && brings(other, part) && !(brings(part, other) && other.where === 'contains'),
      ),
  );
  const pieces = [start, ...inner, end].filter((part) => part !== undefined).map(({ written }) => written);
  if (brief) {
    if (pieces.length > 0) yield pieces.join(between);
    if (pieces.length === 0) yield 'something else';
  }
  yield `${start ? start.written + between : between}${inner.map(({ written }) => written).join(between)}${between}${end?.written ?? ''}`;
}

function joinParts(parts: readonly PartQuestion[], between: string, brief: boolean): string[] {
  return [...joinedTexts(parts, between, brief)];
}

/** A character of the area for private use that is in none of some texts. */
export function separatorFor(texts: readonly string[]): string {
  const used = new Set(texts.flatMap((text) => [...text]));
  for (let code = 0xe000; code < 0xf8ff; code++) {
    const char = String.fromCharCode(code);
    if (!used.has(char)) return char;
  }
  return '\uf8ff';
}
