import { parse } from '@bufbuild/cel';
import type { Attribute } from '../attributes/attribute.ts';
import { dayNumber } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { celName } from './cel.ts';
import { type Condition, deepest, type Test } from './condition.ts';
import { complementOf } from './simplify.ts';
import { validate } from './validate.ts';

export type ReadCel =
  | { ok: true; condition: Condition }
  /** `at` is the place in the text, in UTF-16 units from its start. */
  | { ok: false; at: number; message: string };

export interface CelSurroundings {
  readonly catalogue: Catalogue;
  /** The id of the audience that stands in `audience[…]`, by what toCel wrote there; undefined for none. */
  readonly audienceOf: (key: string) => string | undefined;
}

const longest = 100_000;

class Refused extends Error {
  constructor(
    readonly at: number,
    message: string,
  ) {
    super(message);
  }
}

/**
 * A condition from an expression of the Common Expression Language, as far as it says what a condition can say: what
 * toCel writes, in any grouping, and comparisons without the `has(…)` before them, which are false for a missing value
 * here. Texts may be compared without `fold(…)`; here they are folded all the same. Anything else is refused with its place. The condition that comes back is sound (see validate.ts).
 */
export function fromCel(text: string, surroundings: CelSurroundings): ReadCel {
  try {
    const condition = new Reader(text, surroundings).read();
    const { catalogue } = surroundings;
    const [problem] = validate(condition, { catalogue, hasAudience: () => true });
    return problem ? { ok: false, at: 0, message: problem.message } : { ok: true, condition };
  } catch (error) {
    if (error instanceof Refused) return { ok: false, at: error.at, message: error.message };
    throw error;
  }
}

type Expression = ReturnType<typeof parse>['expr'];

/** One side of a range, before it is known whether the other side stands beside it. */
interface Side {
  kind: 'side';
  attribute: Attribute;
  sign: '<' | '<=' | '>' | '>=';
  /** As a test holds it; a number of days for a side that counts from today. */
  value: string | number;
  fromToday: boolean;
  at: number;
}

type Part = Condition | Side;

const turned = { '<': '>', '<=': '>=', '>': '<', '>=': '<=', '==': '==' } as const;
type Sign = keyof typeof turned;

function signIn(name: string): Sign | '!=' | undefined {
  for (const sign of ['<', '<=', '>', '>=', '==', '!='] as const) if (name === `_${sign}_`) return sign;
  return undefined;
}

class Reader {
  private readonly positions: { readonly [id: string]: number };
  private readonly root: Expression;
  private readonly names: ReadonlyMap<string, Attribute>;

  constructor(
    text: string,
    private readonly surroundings: CelSurroundings,
  ) {
    if (text.length > longest) throw new Refused(longest, `is longer than ${longest} characters`);
    refuseDeep(text);
    try {
      // A note at the end needs the end of its line.
      const parsed = parse(`${text}\n`);
      this.root = parsed.expr;
      this.positions = parsed.sourceInfo?.positions ?? {};
    } catch (error) {
      throw new Refused(
        Math.min(placeOf(error), text.length),
        text.trim() === '' ? 'nothing is written yet' : 'can’t be read from here on',
      );
    }
    this.names = new Map(
      surroundings.catalogue.attributes.map((attribute) => [celName(attribute.id), attribute]),
    );
  }

  read(): Condition {
    return this.finished(this.part(this.root));
  }

  private part(expression: Expression): Part {
    const { exprKind } = expression;
    switch (exprKind.case) {
      case 'constExpr':
        if (exprKind.value.constantKind.case === 'boolValue')
          return { kind: exprKind.value.constantKind.value ? 'all' : 'any', of: [] };
        return this.refuse(expression, 'is a value, where something that holds or not is needed');
      case 'selectExpr': {
        const attribute = this.attributeAt(expression);
        if (!attribute) return this.refuse(expression, 'is not it.NAME');
        if (exprKind.value.testOnly) return this.test(attribute, 'has-value', []);
        if (attribute.type !== 'yes-no')
          return this.refuse(expression, `${attribute.label} is not yes or no`);
        return this.test(attribute, 'is-yes', []);
      }
      case 'callExpr':
        return this.call(expression, exprKind.value.function, exprKind.value.target, exprKind.value.args);
      default:
        return this.refuse(expression, 'is not part of a condition');
    }
  }

  private call(
    expression: Expression,
    name: string,
    target: Expression | undefined,
    args: readonly Expression[],
  ): Part {
    const [left, right] = args;
    if (name === '_&&_' || name === '_||_') return this.group(expression, name);
    if (name === '!_' && left) return this.not(left);
    if (name === '_[_]' && left && right) return this.reference(expression, left, right);
    if (name === '@in' && left && right) return this.membership(expression, left, right);
    const sign = signIn(name);
    if (sign && left && right) return this.comparison(expression, sign, left, right);
    if (target && left) return this.partOfText(expression, name, target, left);
    const attribute = left && this.attributeAt(left);
    if (attribute) {
      if (name === 'comesRound' && right)
        return this.test(attribute, 'anniversary-within', [this.number(right)]);
      if (name === 'recurs' && args.length === 4)
        return this.test(
          attribute,
          'recurs',
          args.slice(1).map((arg) => this.literal(arg)),
          expression,
        );
      const op = { inNetwork: 'in-range', prefers: 'prefers', accepts: 'accepts', like: 'matches' }[name];
      if (op && right) return this.test(attribute, op, this.list(right), expression);
    }
    return this.refuse(
      expression,
      `“${name.replace(/[_@]/g, '')}” is not something that a condition can use`,
    );
  }

  /** A chain of one sign, however it is nested, as one group; brackets of the other sign stay a group of their own. */
  private group(expression: Expression, name: string): Part {
    const kind = name === '_&&_' ? 'all' : 'any';
    const parts: Part[] = [];
    const walk = (inner: Expression): void => {
      const call = inner.exprKind.case === 'callExpr' ? inner.exprKind.value : undefined;
      if (call?.function === name) call.args.forEach(walk);
      else {
        const part = this.part(inner);
        if (part.kind === kind) parts.push(...part.of);
        else parts.push(part);
      }
    };
    walk(expression);
    const joined = joinSides(kind, parts);
    const of = joined.map((part) => this.finished(part));
    const listed = kind === 'all' ? withoutGuards(joinMembers(of, 'all')) : joinMembers(of, 'any');
    const [only] = listed;
    return listed.length === 1 && only ? only : { kind, of: listed };
  }

  private not(inner: Expression): Part {
    const part = this.part(inner);
    if (part.kind === 'test') {
      // `!it.vip` asks for a no, `!(has(it.vip) && it.vip)` for anything but a yes.
      if (part.op === 'is-yes' && inner.exprKind.case === 'selectExpr') return { ...part, op: 'is-no' };
      const complement = complementOf(part);
      if (complement) return complement;
    }
    return part.kind === 'not' ? part.of : { kind: 'not', of: this.finished(part) };
  }

  private reference(expression: Expression, left: Expression, right: Expression): Part {
    if (left.exprKind.case !== 'identExpr' || left.exprKind.value.name !== 'audience')
      return this.refuse(expression, 'is not audience["…"]');
    const key = this.literal(right);
    const audience = this.surroundings.audienceOf(String(key));
    if (audience === undefined) return this.refuse(right, `there is no audience “${key}”`);
    return { kind: 'audience', audience };
  }

  private membership(expression: Expression, left: Expression, right: Expression): Part {
    const own = this.attributeAt(this.unfolded(left));
    const held = this.attributeAt(right);
    if (held?.type === 'set')
      return own
        ? this.test(held, 'includes-own', [own.id], expression)
        : this.test(held, 'includes-any', [this.literal(left)], expression);
    if (!own) return this.refuse(left, 'is not it.NAME');
    return this.test(own, 'is-one-of', this.list(right), expression);
  }

  private comparison(expression: Expression, sign: Sign | '!=', left: Expression, right: Expression): Part {
    if (sign === '!=') {
      const same = this.comparison(expression, '==', left, right);
      const complement = same.kind === 'test' && complementOf(same);
      return complement || { kind: 'not', of: this.finished(same) };
    }
    const subject = this.subjectAt(left);
    if (!subject) {
      const other = this.subjectAt(right);
      if (!other) return this.refuse(expression, 'compares nothing of the viewer’s');
      return this.compared(expression, other, turned[sign], left);
    }
    return this.compared(expression, subject, sign, right);
  }

  private compared(expression: Expression, attribute: Attribute, sign: Sign, operand: Expression): Part {
    const other = this.attributeAt(this.unfolded(operand));
    if (other)
      return sign === '=='
        ? this.test(attribute, 'same-as', [other.id], expression)
        : this.refuse(operand, 'can’t be compared with another attribute in this way');
    const day = this.daysFromToday(operand);
    if (sign === '==') {
      if (day !== undefined) return this.refuse(operand, 'counts from today, which needs a range');
      if (attribute.type === 'yes-no') {
        const value = operand.exprKind.case === 'constExpr' ? operand.exprKind.value.constantKind : undefined;
        if (value?.case !== 'boolValue') return this.refuse(operand, 'is neither true nor false');
        return this.test(attribute, value.value ? 'is-yes' : 'is-no', []);
      }
      const op = attribute.type === 'number' ? 'equals' : attribute.type === 'date' ? 'on' : 'is-one-of';
      return this.test(attribute, op, [this.operand(attribute, operand)], expression);
    }
    return {
      kind: 'side',
      attribute,
      sign,
      value: day ?? this.operand(attribute, operand),
      fromToday: day !== undefined,
      at: this.at(expression),
    };
  }

  private partOfText(expression: Expression, name: string, target: Expression, argument: Expression): Part {
    const op = { contains: 'contains', startsWith: 'starts-with', endsWith: 'ends-with' }[name];
    const attribute = this.attributeAt(this.unfolded(target));
    if (!op || !attribute) return this.refuse(expression, 'is not part of a condition');
    return this.test(attribute, op, [this.literal(this.unfolded(argument))], expression);
  }

  /** A side left alone is a test of its own. */
  private finished(part: Part): Condition {
    if (part.kind !== 'side') return part;
    const { attribute, sign, value, fromToday, at } = part;
    if (fromToday) throw new Refused(at, 'counts from today, which needs both ends of a range');
    const whole: { readonly [sign: string]: string } =
      attribute.type === 'number'
        ? { '<': 'fewer-than', '<=': 'at-most', '>': 'more-than', '>=': 'at-least' }
        : attribute.type === 'choice'
          ? { '<=': 'at-most', '>=': 'at-least' }
          : attribute.type === 'date'
            ? { '<': 'before', '>': 'after' }
            : attribute.type === 'date-time'
              ? { '<': 'before', '>=': 'from' }
              : {};
    if (attribute.type === 'time' && (sign === '>=' || sign === '<'))
      return this.sound(
        attribute,
        {
          kind: 'test',
          attribute: attribute.id,
          op: 'between',
          values: sign === '>=' ? [value, '00:00'] : ['00:00', value],
        },
        at,
      );
    const op = whole[sign];
    if (!op) throw new Refused(at, `${attribute.label} can’t be compared by ${sign} alone`);
    return this.sound(attribute, { kind: 'test', attribute: attribute.id, op, values: [value] }, at);
  }

  private test(attribute: Attribute, op: string, values: (string | number)[], where?: Expression): Test {
    const test: Test = { kind: 'test', attribute: attribute.id, op, values };
    return where ? this.sound(attribute, test, this.at(where)) : test;
  }

  private sound(attribute: Attribute, test: Test, at: number): Test {
    const { catalogue } = this.surroundings;
    const [problem] = validate(test, { catalogue, hasAudience: () => true });
    if (problem) throw new Refused(at, `${attribute.label} ${problem.message}`);
    return test;
  }

  /** The attribute of `it.NAME`; undefined for anything else. An unknown name is refused. */
  private attributeAt({ exprKind, id }: Expression): Attribute | undefined {
    if (exprKind.case !== 'selectExpr') return undefined;
    const operand = exprKind.value.operand?.exprKind;
    if (operand?.case !== 'identExpr' || operand.value.name !== 'it') return undefined;
    const attribute = this.names.get(exprKind.value.field);
    if (!attribute)
      throw new Refused(this.positions[String(id)] ?? 0, `there is no attribute “${exprKind.value.field}”`);
    return attribute;
  }

  /** What may be compared: `it.NAME`, `fold(it.NAME)`, `day(it.NAME)` or `order.NAME[it.NAME]`. */
  private subjectAt(expression: Expression): Attribute | undefined {
    const ranked = this.rankedBy(expression);
    return this.attributeAt(ranked ?? this.argumentOf(expression, 'day') ?? this.unfolded(expression));
  }

  /** What stands in `fold(…)`. Texts are always compared folded here, so that it may be left out. */
  private unfolded(expression: Expression): Expression {
    return this.argumentOf(expression, 'fold') ?? expression;
  }

  /** What stands in the brackets of `order.NAME[…]`. */
  private rankedBy({ exprKind }: Expression): Expression | undefined {
    if (exprKind.case !== 'callExpr' || exprKind.value.function !== '_[_]') return undefined;
    const [map, key] = exprKind.value.args;
    if (map?.exprKind.case !== 'selectExpr') return undefined;
    const operand = map.exprKind.value.operand?.exprKind;
    return operand?.case === 'identExpr' && operand.value.name === 'order' ? key : undefined;
  }

  private argumentOf({ exprKind }: Expression, name: string): Expression | undefined {
    if (exprKind.case !== 'callExpr' || exprKind.value.target || exprKind.value.function !== name)
      return undefined;
    return exprKind.value.args[0];
  }

  /** A value to compare with, as a test holds it. */
  private operand(attribute: Attribute, expression: Expression): string | number {
    switch (attribute.type) {
      case 'number':
        return this.number(expression);
      case 'date': {
        const text = String(this.literal(this.argumentOf(expression, 'timestamp') ?? expression));
        const day = text.replace(/T00:00:00(\.0+)?Z$/, '');
        return dayNumber(day) === undefined
          ? this.refuse(expression, 'is not a date such as timestamp("2026-11-29T00:00:00Z")')
          : day;
      }
      case 'date-time':
        return this.literal(this.argumentOf(expression, 'local') ?? expression);
      default:
        return this.literal(this.rankedBy(expression) ?? this.unfolded(expression));
    }
  }

  /** `today`, `today + duration("72h")` and `today - …` as a number of days. */
  private daysFromToday({ exprKind }: Expression): number | undefined {
    if (exprKind.case === 'identExpr' && exprKind.value.name === 'today') return 0;
    if (exprKind.case !== 'callExpr' || !/^_[+-]_$/.test(exprKind.value.function)) return undefined;
    const [base, span] = exprKind.value.args;
    const argument = span && this.argumentOf(span, 'duration');
    if (!base || !argument || this.daysFromToday(base) !== 0) return undefined;
    const hours = /^(\d{1,7})h$/.exec(String(this.literal(argument)))?.[1];
    const days = Number(hours) / 24;
    if (!Number.isInteger(days))
      return this.refuse(argument, 'is not a whole number of days in hours, such as "72h"');
    return exprKind.value.function === '_-_' ? -days : days;
  }

  private list({ exprKind, ...rest }: Expression): (string | number)[] {
    if (exprKind.case !== 'listExpr')
      return this.refuse({ ...rest, exprKind }, 'is not a list such as ["a", "b"]');
    return exprKind.value.elements.map((element) => this.literal(this.unfolded(element)));
  }

  private number(expression: Expression): number {
    const value = this.literal(expression);
    return typeof value === 'number' ? value : this.refuse(expression, 'is not a number');
  }

  private literal(expression: Expression): string | number {
    const { exprKind } = expression;
    const constant = exprKind.case === 'constExpr' ? exprKind.value.constantKind : undefined;
    switch (constant?.case) {
      case 'stringValue':
      case 'doubleValue':
        return constant.value;
      case 'int64Value':
      case 'uint64Value':
        return Number(constant.value);
      default: {
        const minus =
          exprKind.case === 'callExpr' && exprKind.value.function === '-_' && exprKind.value.args[0];
        if (minus) return -this.number(minus);
        return this.refuse(expression, 'is not a plain value');
      }
    }
  }

  private at({ id }: Expression): number {
    return this.positions[String(id)] ?? 0;
  }

  private refuse(expression: Expression, message: string): never {
    throw new Refused(this.at(expression), message);
  }
}

/** Signs nested past what a condition may be are refused before the parser, which is recursive, meets them. */
function refuseDeep(text: string): void {
  let depth = 0;
  let row = 0;
  let quote = '';
  for (let at = 0; at < text.length; at++) {
    const sign = text[at] ?? '';
    if (quote !== '') {
      if (sign === '\\') at++;
      else if (sign === quote) quote = '';
      continue;
    }
    if (sign === '"' || sign === "'") quote = sign;
    if ('([{'.includes(sign)) depth++;
    if (')]}'.includes(sign)) depth--;
    // A row of `!` or `-` nests as brackets do.
    if ('!-'.includes(sign)) row++;
    else if (sign.trim() !== '' && !'([{'.includes(sign)) row = 0;
    if (depth + row > 2 * deepest) throw new Refused(at, `is nested deeper than ${deepest}`);
  }
}

function placeOf(error: unknown): number {
  if (typeof error !== 'object' || error === null || !('location' in error)) return 0;
  const { location } = error;
  if (typeof location !== 'object' || location === null || !('start' in location)) return 0;
  const { start } = location;
  return typeof start === 'object' && start !== null && 'offset' in start ? Number(start.offset) : 0;
}

/** Two sides of one attribute next to each other as the one range that they are. */
function joinSides(kind: 'all' | 'any', parts: readonly Part[]): Part[] {
  const joined: Part[] = [];
  for (const part of parts) {
    const before = joined.at(-1);
    const range =
      part.kind === 'side' && before?.kind === 'side' && part.attribute.id === before.attribute.id
        ? rangeOf(kind, before, part)
        : undefined;
    if (range) joined[joined.length - 1] = range;
    else joined.push(part);
  }
  return joined;
}

function rangeOf(kind: 'all' | 'any', one: Side, two: Side): Test | undefined {
  const low = [one, two].find(({ sign }) => sign === '>=');
  const high = [one, two].find(({ sign }) => sign === '<' || sign === '<=');
  const { attribute } = one;
  if (!low || !high) return undefined;
  const test = (op: string, ...values: (string | number)[]): Test => ({
    kind: 'test',
    attribute: attribute.id,
    op,
    values,
  });
  const closed = high.sign === '<=';
  if (kind === 'any')
    return attribute.type === 'time' && !closed && low.value > high.value
      ? test('between', low.value, high.value)
      : undefined;
  if (low.fromToday && high.fromToday && closed) {
    if (low.value === 0) return test('within-next', high.value);
    return high.value === 0 ? test('within-last', -Number(low.value)) : undefined;
  }
  if (low.fromToday || high.fromToday) return undefined;
  const halfOpen = attribute.type === 'time' || attribute.type === 'date-time';
  const sound = attribute.type === 'choice' || low.value < high.value || (closed && low.value === high.value);
  return closed !== halfOpen && sound ? test('between', low.value, high.value) : undefined;
}

/** Single members of one set next to each other as the one test that they are. */
function joinMembers(parts: readonly Condition[], kind: 'all' | 'any'): Condition[] {
  const joined: Condition[] = [];
  const op = kind === 'all' ? 'includes-all' : 'includes-any';
  for (const part of parts) {
    const before = joined.at(-1);
    const fits =
      part.kind === 'test' &&
      before?.kind === 'test' &&
      part.attribute === before.attribute &&
      part.op === 'includes-any' &&
      part.values.length === 1 &&
      (before.op === op || (before.op === 'includes-any' && before.values.length === 1));
    if (fits) joined[joined.length - 1] = { ...before, op, values: [...before.values, ...part.values] };
    else joined.push(part);
  }
  return joined;
}

/** Tests that a missing value answers with no; only beside these does `has(…)` say nothing more. */
const heldByMissing = new Set([
  'has-no-value',
  'is-none-of',
  'includes-none',
  'not-in-range',
  'accepts-none',
  'matches-none',
]);

/** Without each `has(it.x)` that stands right before a test of x, or before the two that compare x with another. */
function withoutGuards(parts: readonly Condition[]): Condition[] {
  return parts.filter((part, at) => {
    if (part.kind !== 'test' || part.op !== 'has-value') return true;
    const asks = (next: Condition | undefined): boolean =>
      next?.kind === 'test' &&
      next.op !== 'has-value' &&
      !heldByMissing.has(next.op) &&
      (next.attribute === part.attribute ||
        ((next.op === 'same-as' || next.op === 'includes-own') && next.values[0] === part.attribute));
    const next = parts[at + 1];
    return !(asks(next) || (next?.kind === 'test' && next.op === 'has-value' && asks(parts[at + 2])));
  });
}
