import { type Attribute, choicesOf } from '../../attributes/attribute.ts';
import { countryCodes, countryName } from '../../attributes/countries.ts';
import type { Fact } from '../../attributes/viewer.ts';
import type { Question } from '../../conditions/meaning.ts';
import type { Diagram } from '../diagrams/diagrams.ts';
import { cellsWhere, type Domain, known, type Levels, notAsked, type Variable } from './domain.ts';
import { eitherOf, mostListed, orMissing, sayPresence } from './words.ts';

type Value = string | boolean;

/** Choices, yes or no, and countries: a cell for each class of values that are named by the same questions. */
export class FiniteDomain implements Domain {
  readonly variables: readonly [Variable];
  /** The values of each cell but the first, in their own order. */
  private readonly classes: readonly (readonly [Value, ...Value[]])[];
  private readonly cellOf = new Map<Fact, number>();

  /** @param questions of kind `among` and `known` */
  constructor(
    readonly attribute: Attribute,
    questions: readonly Question[],
  ) {
    const named = new Map<Value, string>();
    for (const [index, question] of questions.entries())
      if (question.kind === 'among')
        for (const value of question.values) named.set(value, `${named.get(value) ?? ''} ${index}`);
    const classes = new Map<string, [Value, ...Value[]]>();
    for (const value of valuesOf(attribute)) {
      const key = named.get(value) ?? '';
      const found = classes.get(key);
      if (found) found.push(value);
      else classes.set(key, [value]);
    }
    this.classes = [...classes.values()];
    for (const [index, values] of this.classes.entries())
      for (const value of values) this.cellOf.set(value, index + 1);
    this.variables = [{ width: this.classes.length + 1, say: (cells) => this.say(cells) }];
  }

  answer(question: Question, levels: Levels): Diagram {
    const [variable] = this.variables;
    if (question.kind === 'known') return known(levels, variable);
    if (question.kind !== 'among') throw notAsked(question, this.attribute);
    return cellsWhere(levels, variable, (cell) => {
      const [value] = this.classes[cell - 1] ?? [];
      return value !== undefined && question.values.has(value);
    });
  }

  constraints(): Diagram[] {
    return [];
  }

  invent([cell = 0]: readonly number[]): Fact {
    return this.classes[cell - 1]?.[0];
  }

  place(fact: Fact): number[] {
    return [this.cellOf.get(fact) ?? 0];
  }

  private say(cells: ReadonlySet<number>): string | undefined {
    const { attribute } = this;
    const [{ width }] = this.variables;
    const presence = sayPresence(attribute, cells, width);
    if (presence) return presence;
    const values = this.classes.filter((_, index) => cells.has(index + 1)).flat();
    if (attribute.type === 'yes-no')
      return orMissing(`${attribute.label} is ${values[0] ? 'yes' : 'no'}`, cells);
    const others = this.classes.filter((_, index) => !cells.has(index + 1)).flat();
    const label = (value: Value) => labelOf(attribute, value);
    if (values.length <= mostListed && (attribute.type === 'choice' || values.length <= others.length))
      return orMissing(`${attribute.label} is ${eitherOf(values.map(label))}`, cells);
    if (others.length > mostListed) return undefined;
    // "is not" includes who has no value.
    const said = `${attribute.label} is not ${eitherOf(others.map(label))}`;
    return cells.has(0) ? said : `${said} and has a value`;
  }
}

function valuesOf(attribute: Attribute): readonly Value[] {
  if (attribute.type === 'yes-no') return [true, false];
  return attribute.type === 'country' ? countryCodes : choicesOf(attribute).map(({ id }) => id);
}

function labelOf(attribute: Attribute, value: Value): string {
  if (attribute.type === 'country') return countryName(String(value), 'en-GB');
  return choicesOf(attribute).find(({ id }) => id === value)?.label ?? String(value);
}
