import { type Bool, type Context, init, killThreads } from 'z3-solver';
import type { Attribute } from '../../core/attributes/attribute.ts';
import { choicesOf } from '../../core/attributes/attribute.ts';
import { dayNumber } from '../../core/attributes/calendar.ts';
import type { Condition, Test } from '../../core/conditions/condition.ts';

type Z3 = Context<'main'>;

export interface SmtSolver {
  /** Whether somebody can be in a condition. */
  canBeTrue(condition: Condition): Promise<boolean>;
  /** Ends the threads of the solver, as its package advises. */
  stop(): Promise<void>;
}

/**
 * z3 as an independent prover of conditions over contact attributes and sign-in: choices and days as integers, numbers
 * as reals or integers, sets as booleans, each with whether it is missing. Knows nothing of cells or diagrams.
 */
export async function smtSolver(attributes: readonly Attribute[], today: number): Promise<SmtSolver> {
  const api = await init();
  const z3 = new api.Context('main');
  return {
    async canBeTrue(condition) {
      const solver = new z3.Solver();
      const encoder = new Encoder(z3, attributes, today);
      solver.add(encoder.condition(condition));
      for (const fact of encoder.facts) solver.add(fact);
      return (await solver.check()) === 'sat';
    },
    stop: () => killThreads(api.em),
  };
}

class Encoder {
  readonly facts: Bool<'main'>[] = [];
  private readonly made = new Set<string>();
  private readonly texts = new Map<string, number>();

  constructor(
    private readonly z3: Z3,
    private readonly attributes: readonly Attribute[],
    private readonly today: number,
  ) {}

  condition(condition: Condition): Bool<'main'> {
    const { z3 } = this;
    switch (condition.kind) {
      case 'test':
        return this.test(condition);
      case 'not':
        return z3.Not(this.condition(condition.of));
      case 'all':
        return z3.And(z3.Bool.val(true), ...condition.of.map((part) => this.condition(part)));
      case 'any':
        return z3.Or(z3.Bool.val(false), ...condition.of.map((part) => this.condition(part)));
      case 'audience':
        throw new Error('references are for the caller to resolve');
    }
  }

  private test(test: Test): Bool<'main'> {
    const { z3 } = this;
    if (test.attribute === 'signed-in') {
      const is = z3.Bool.const('signed-in');
      return test.op === 'is-yes'
        ? is
        : test.op === 'is-no'
          ? z3.Not(is)
          : z3.Bool.val(test.op === 'has-value');
    }
    const attribute = this.attributes.find(({ id }) => id === test.attribute);
    if (!attribute) throw new Error(test.attribute);
    const known = z3.Bool.const(`known ${attribute.id}`);
    if (attribute.type === 'set') this.makeSet(attribute, known);
    if (test.op === 'has-value') return known;
    if (test.op === 'has-no-value') return z3.Not(known);
    const when = (holds: Bool<'main'>) => z3.And(known, holds);
    if (attribute.type === 'set') {
      const has = test.values.map((value) => z3.Bool.const(`${attribute.id} ${value}`));
      if (test.op === 'includes-all') return when(z3.And(...has));
      const any = when(z3.Or(...has));
      return test.op === 'includes-any' ? any : z3.Not(any);
    }
    if (attribute.type === 'yes-no') {
      const is = z3.Bool.const(attribute.id);
      return when(test.op === 'is-yes' ? is : z3.Not(is));
    }
    return this.scalar(test, attribute, when);
  }

  private scalar(
    test: Test,
    attribute: Attribute,
    when: (holds: Bool<'main'>) => Bool<'main'>,
  ): Bool<'main'> {
    const { z3, today } = this;
    const isReal = attribute.type === 'number' && !attribute.whole;
    const value = isReal ? z3.Real.const(attribute.id) : z3.ToReal(z3.Int.const(attribute.id));
    const real = (number: number) => z3.Real.val(String(number));
    const order = choicesOf(attribute).map(({ id }) => id);
    if (attribute.type === 'choice')
      this.once(`range ${attribute.id}`, () => z3.And(value.ge(real(0)), value.lt(real(order.length))));
    const codes = test.values.map((one) => {
      if (attribute.type === 'choice') return order.indexOf(String(one));
      if (attribute.type === 'date') return dayNumber(String(one)) ?? Number(one);
      return attribute.type === 'text' ? this.textCode(String(one)) : Number(one);
    });
    const [first = real(0), second = real(0)] = codes.map(real);
    const among = () => z3.Or(...codes.map((code) => value.eq(real(code))));
    switch (test.op) {
      case 'is-one-of':
        return when(among());
      case 'is-none-of':
        return z3.Not(when(among()));
      case 'equals':
      case 'on':
        return when(value.eq(first));
      case 'at-least':
        return when(value.ge(first));
      case 'at-most':
        return when(value.le(first));
      case 'more-than':
      case 'after':
        return when(value.gt(first));
      case 'fewer-than':
      case 'before':
        return when(value.lt(first));
      case 'between':
        return when(z3.And(value.ge(first), value.le(second)));
      case 'within-last':
        return when(z3.And(value.ge(real(today - Number(test.values[0]))), value.le(real(today))));
      case 'within-next':
        return when(z3.And(value.ge(real(today)), value.le(real(today + Number(test.values[0])))));
      default:
        throw new Error(`no encoding of ${test.op}`);
    }
  }

  private textCode(text: string): number {
    const code = this.texts.get(text) ?? this.texts.size;
    this.texts.set(text, code);
    return code;
  }

  /** A set that is known holds something, and at most one value of an exclusive group. */
  private makeSet(attribute: Extract<Attribute, { type: 'set' }>, known: Bool<'main'>): void {
    const { z3 } = this;
    const has = (id: string) => z3.Bool.const(`${attribute.id} ${id}`);
    this.once(`set ${attribute.id}`, () => known.eq(z3.Or(...attribute.choices.map(({ id }) => has(id)))));
    for (const [index, { members }] of attribute.exclusiveGroups.entries())
      this.once(`group ${attribute.id} ${index}`, () =>
        z3.And(
          ...members.flatMap((one, at) =>
            members.slice(at + 1).map((two) => z3.Not(z3.And(has(one), has(two)))),
          ),
          z3.Bool.val(true),
        ),
      );
  }

  private once(name: string, make: () => Bool<'main'>): void {
    if (this.made.has(name)) return;
    this.made.add(name);
    this.facts.push(make());
  }
}
