import type { Attribute, Value } from '../attributes/attribute.ts';
import { exclusiveClash, findChoice, type Parsed, parseValue } from '../attributes/parse.ts';
import { addressKey } from './address-key.ts';
import { choicesFor, membersOf } from './guess.ts';
import type { ColumnPlan, ImportPlan } from './plan.ts';
import type { SourceRecord } from './source.ts';
import type { ColumnSurvey } from './survey.ts';
import { decimalSigns, needsOrder, writtenDate, writtenNumber } from './written.ts';

/** Something about a plan that has to be settled before it can be followed. */
export interface PlanProblem {
  /** `columns.3`, or `matchBy`. */
  readonly path: string;
  readonly message: string;
}

/** What a record says of one person. */
export interface Incoming {
  readonly row: number;
  /** As it is written; undefined where the file has none. */
  readonly email: string | undefined;
  readonly externalId: string | undefined;
  /** Undefined is a blank cell. */
  readonly values: { readonly [attribute: string]: Value | undefined };
  /** Cells that can't be read, where they alone are left out. */
  readonly unreadable?: readonly UnreadableCell[];
}

export interface UnreadableCell {
  /** The name of its column. */
  readonly column: string;
  readonly reason: string;
}

/** What everybody in a file gets of one set. */
export interface Given {
  readonly attribute: Attribute;
  /** Ids of choices. */
  readonly members: readonly string[];
}

export interface Rejected {
  readonly row: number;
  readonly email: string;
  /** The name of the column that is to blame, if it is one. */
  readonly column: string | undefined;
  readonly reason: string;
  readonly cells: readonly string[];
}

const longestId = 190;
const emailForm = /^[^\s@"(),:;<>[\\\]]+@[^\s@.,]+(\.[^\s@.,]+)+$/;
const parsedKept = 5000;

/** A plan made ready: which attributes there will be, and how a record is read. */
export class Reading {
  readonly problems: PlanProblem[] = [];
  /** Attributes that the plan adds, and those that it gives more choices, as they will be. */
  readonly added: Attribute[] = [];
  readonly extended: Attribute[] = [];
  readonly given: Given[] = [];
  private readonly readers: ((cell: string) => Parsed)[] = [];
  private readonly targets: (string | undefined)[];
  private readonly emailAt: number;
  private readonly idAt: number;
  private readonly seen = new Map<string, number>();

  constructor(
    private readonly plan: ImportPlan,
    surveys: readonly ColumnSurvey[],
    known: readonly Attribute[],
  ) {
    this.emailAt = plan.columns.findIndex(({ to }) => to.kind === 'email');
    this.idAt = plan.columns.findIndex(({ to }) => to.kind === 'external-id');
    this.targets = plan.columns.map(() => undefined);
    if (plan.columns.length !== surveys.length)
      this.problems.push({ path: 'columns', message: 'are not the columns of the file' });
    this.checkIdentity();
    const taken = new Set(known.map(({ id }) => id));
    const used = new Map<string, number>();
    for (const [index, column] of plan.columns.entries()) {
      const survey = surveys[index];
      const attribute = survey && this.attributeFor(column, survey, known, taken, index);
      if (!attribute || !survey) continue;
      const before = used.get(attribute.id);
      if (before !== undefined)
        this.problem(index, `“${attribute.label}” is filled from column ${before + 1} already`);
      used.set(attribute.id, index);
      this.targets[index] = attribute.id;
      this.readers[index] = remembering(readerFor(attribute, column));
      this.checkOpenQuestions(attribute, column, survey, index);
    }
    for (const id of new Set(plan.given.map(({ attribute }) => attribute))) this.give(id, known);
  }

  /** A record as what it says of a person, or why it is left out. */
  read({ row, cells, problem }: SourceRecord): Incoming | Rejected {
    const cell = (at: number): string => (at < 0 ? '' : (cells[at] ?? '').trim());
    const [email, externalId] = [cell(this.emailAt), cell(this.idAt)];
    const reject = (reason: string, at = -1): Rejected => ({
      row,
      email: email.slice(0, 254),
      column: this.plan.columns[at]?.header,
      reason,
      cells,
    });
    if (problem !== undefined) return reject(problem);
    if (email !== '' && (email.length > 254 || !emailForm.test(email)))
      return reject(`“${short(email)}” is not an email address`, this.emailAt);
    if (externalId.length > longestId)
      return reject(`the id is longer than ${longestId} characters`, this.idAt);
    const byEmail = this.plan.matchBy === 'email';
    if (byEmail && email === '') return reject('has no email address', this.emailAt);
    if (!byEmail && externalId === '') return reject('has no id', this.idAt);
    const values: { [attribute: string]: Value | undefined } = {};
    const unreadable: UnreadableCell[] = [];
    for (let index = 0; index < this.targets.length; index++) {
      const [target, read] = [this.targets[index], this.readers[index]];
      if (target === undefined || !read) continue;
      const parsed = read(cells[index] ?? '');
      if (parsed.ok) values[target] = parsed.value;
      else if (this.plan.unreadable === 'row') return reject(parsed.reason, index);
      else unreadable.push({ column: this.plan.columns[index]?.header ?? '', reason: parsed.reason });
    }
    for (const [key, what] of [
      [email && `@${addressKey(email)}`, 'address'],
      [externalId && `#${externalId}`, 'id'],
    ] as const) {
      const before = key === '' ? undefined : this.seen.get(key);
      if (before !== undefined) return reject(`has the same ${what} as row ${before}`);
    }
    if (email !== '') this.seen.set(`@${addressKey(email)}`, row);
    if (externalId !== '') this.seen.set(`#${externalId}`, row);
    return {
      row,
      email: email === '' ? undefined : email,
      externalId: externalId === '' ? undefined : externalId,
      values,
      unreadable,
    };
  }

  private problem(index: number, message: string): void {
    this.problems.push({ path: `columns.${index}`, message });
  }

  private checkIdentity(): void {
    for (const kind of ['email', 'external-id'] as const) {
      const at = this.plan.columns.flatMap(({ to }, index) => (to.kind === kind ? [index] : []));
      for (const index of at.slice(1))
        this.problem(index, kind === 'email' ? 'is a second email address' : 'is a second id');
    }
    if (this.plan.matchBy === 'email' && this.emailAt < 0)
      this.problems.push({
        path: 'matchBy',
        message: 'Say which column is the email address: people are told apart by it.',
      });
    if (this.plan.matchBy === 'external-id' && this.idAt < 0)
      this.problems.push({
        path: 'matchBy',
        message: 'Say which column is the id: people are to be told apart by it.',
      });
  }

  private attributeFor(
    { to, splitAt }: ColumnPlan,
    survey: ColumnSurvey,
    known: readonly Attribute[],
    taken: Set<string>,
    index: number,
  ): Attribute | undefined {
    if (to.kind === 'new') {
      const { attribute } = to;
      if (attribute.source !== 'contact') {
        this.problem(index, 'only attributes of contacts can be made');
        return undefined;
      }
      if (taken.has(attribute.id)) this.problem(index, `there is an attribute “${attribute.id}” already`);
      taken.add(attribute.id);
      this.added.push(attribute);
      return attribute;
    }
    if (to.kind !== 'attribute') return undefined;
    const attribute = known.find(({ id }) => id === to.attribute);
    if (attribute?.source !== 'contact' || attribute.id === 'email') {
      this.problem(index, 'there is no such attribute to fill');
      return undefined;
    }
    if (!to.addChoices || (attribute.type !== 'choice' && attribute.type !== 'set')) return attribute;
    const unknown = unknownChoices(attribute, survey, splitAt);
    if (unknown.length === 0) return attribute;
    const more = choicesFor(unknown, new Set(attribute.choices.map(({ id }) => id)));
    const extended = { ...attribute, choices: [...attribute.choices, ...more] };
    if (extended.choices.length > 500)
      this.problem(index, `“${attribute.label}” would have more than 500 choices`);
    this.extended.push(extended);
    return extended;
  }

  /** Finds the choices of a set that everybody gets; those that it lacks are made. */
  private give(id: string, known: readonly Attribute[]): void {
    const labels = this.plan.given.filter(({ attribute }) => attribute === id).map(({ label }) => label);
    const lists = [this.added, this.extended];
    const list = lists.find((one) => one.some((attribute) => attribute.id === id));
    const attribute = (list ?? known).find((one) => one.id === id);
    if (attribute?.type !== 'set' || attribute.source !== 'contact') {
      this.problems.push({ path: 'given', message: 'What everybody gets is not a list or tag any more.' });
      return;
    }
    const isKnown = (label: string) => findChoice(attribute, label) !== undefined;
    const more = choicesFor(
      labels.filter((label) => !isKnown(label)),
      new Set(attribute.choices.map((choice) => choice.id)),
    );
    const extended = { ...attribute, choices: [...attribute.choices, ...more] };
    if (extended.choices.length > 500)
      this.problems.push({
        path: 'given',
        message: `“${attribute.label}” would have more than 500 choices.`,
      });
    if (more.length > 0) {
      if (list) list[list.indexOf(attribute)] = extended;
      else this.extended.push(extended);
    }
    const members = [...new Set(labels.flatMap((label) => findChoice(extended, label) ?? []))];
    const clash = exclusiveClash(extended, members);
    if (clash) this.problems.push({ path: 'given', message: `“${attribute.label}” ${clash}.` });
    this.given.push({ attribute: extended, members });
  }

  private checkOpenQuestions(
    { type }: Attribute,
    column: ColumnPlan,
    survey: ColumnSurvey,
    index: number,
  ): void {
    if (type === 'date' && survey.dates && !column.dates)
      this.problem(
        index,
        `say whether the day or the month comes first in “${survey.examples.find(needsOrder) ?? survey.examples[0] ?? ''}”`,
      );
    if (type === 'number' && survey.decimals === 'either' && !column.decimals)
      this.problem(index, 'say whether a point or a comma begins the decimals');
  }
}

/** Values of a column that are none of an attribute's choices, most frequent first. */
export function unknownChoices(
  attribute: Attribute,
  { distinct }: ColumnSurvey,
  splitAt: string | undefined,
): string[] {
  const values = (distinct ?? []).flatMap((value) =>
    attribute.type === 'set' ? membersOf(value, splitAt) : [value],
  );
  return [...new Set(values)].filter((value) => !parseValue(attribute, value).ok);
}

/** How a cell is read as a value of an attribute. */
function readerFor(attribute: Attribute, { splitAt, dates, decimals }: ColumnPlan): (cell: string) => Parsed {
  if (attribute.type === 'set' && splitAt !== undefined)
    return (cell) => parseValue(attribute, membersOf(cell, splitAt).join(';'));
  if (attribute.type === 'date')
    return (cell) => {
      const text = cell.trim();
      if (needsOrder(text) && dates === undefined)
        return {
          ok: false,
          reason: `“${short(text)}” does not say whether the day or the month comes first`,
        };
      return parseValue(attribute, writtenDate(text, dates) ?? text);
    };
  if (attribute.type === 'number')
    return (cell) => {
      const text = cell.trim();
      if (decimals && /[.,]/.test(text)) {
        const plain = writtenNumber(text, decimals);
        return plain === undefined
          ? { ok: false, reason: `“${short(text)}” is not a number whose decimals begin with a ${decimals}` }
          : parseValue(attribute, plain);
      }
      const [one, two] = decimalSigns.map((sign) => writtenNumber(text, sign));
      if (one !== undefined && two !== undefined && one !== two)
        return { ok: false, reason: `“${short(text)}” could be ${one} or ${two}` };
      return parseValue(attribute, one ?? two ?? text);
    };
  return (cell) => parseValue(attribute, cell);
}

function remembering(read: (cell: string) => Parsed): (cell: string) => Parsed {
  const known = new Map<string, Parsed>();
  return (cell) => {
    const found = known.get(cell);
    if (found) return found;
    const parsed = read(cell);
    if (known.size < parsedKept) known.set(cell, parsed);
    return parsed;
  };
}

function short(text: string): string {
  return text.length > 60 ? `${text.slice(0, 59)}…` : text;
}
