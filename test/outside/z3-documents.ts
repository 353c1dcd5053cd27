import { type Bool, type Context, init, killThreads } from 'z3-solver';
import type { Condition, Test } from '../../core/conditions/condition.ts';
import type { Node } from '../../core/documents/document.ts';
import { keyOf, waysOf } from './oracle.ts';
import { groups, type RandomDocument, tagIds, tierIds } from './random-documents.ts';

type Z3 = Context<'main'>;
type Formula = Bool<'main'>;

export interface FaceSolver {
  /** Every combination of choices of a document, as texts, that some viewer who may open it gets. */
  faces(document: RandomDocument): Promise<Set<string>>;
  /** Ends the threads of the solver, as its package advises. */
  stop(): Promise<void>;
}

/**
 * z3 as an independent prover of what a document can show: whole numbers as integers, all thirty members of a set as
 * booleans, and of the moment, with dates that count from it, which answers there can be together, unrolled over two years.
 * Each face is asked for, then excluded, until there is none left.
 */
export async function faceSolver(): Promise<FaceSolver> {
  const api = await init();
  const z3 = new api.Context('main');
  return {
    async faces(document) {
      const encoder = new DocumentEncoder(z3, document);
      const solver = new z3.Solver();
      for (const formula of encoder.formulas()) solver.add(formula);
      const found = new Set<string>();
      while ((await solver.check()) === 'sat') {
        const model = solver.model();
        const choices = encoder.slots.map((options) => {
          const shown = options.find(({ when }) => String(model.eval(when, true)) === 'true');
          return shown?.choice ?? -2;
        });
        found.add(choices.join());
        const same = encoder.slots.map((options, index) => {
          const shown = options.find(({ choice }) => choice === choices[index]);
          return shown ? shown.when : z3.And(...options.map(({ when }) => z3.Not(when)));
        });
        solver.add(z3.Not(z3.And(...same)));
      }
      return found;
    },
    stop: () => killThreads(api.em),
  };
}

class DocumentEncoder {
  /** For each slot in reading order when each of its choices is shown. */
  readonly slots: { choice: number; when: Formula }[][] = [];
  private readonly facts: Formula[] = [];
  private readonly audiences = new Map<string, Formula>();
  private readonly timed = new Map<string, Formula>();
  private readonly state;
  private readonly used = new Set<string>();

  constructor(
    private readonly z3: Z3,
    private readonly document: RandomDocument,
  ) {
    this.state = z3.Int.const('state');
    this.time();
    this.walk(document.content.body, z3.Bool.val(true));
  }

  formulas(): Formula[] {
    const { z3, state, document } = this;
    const access = document.access === undefined ? [] : [this.audience(document.access)];
    return [...access, ...this.facts, z3.And(state.ge(0), state.le(2)), ...this.attributeFacts()];
  }

  private get known(): Formula {
    return this.state.ge(1);
  }

  private walk(nodes: readonly Node[], visible: Formula): void {
    const { z3 } = this;
    for (const node of nodes) {
      if (node.kind !== 'slot') continue;
      const options: { choice: number; when: Formula }[] = [];
      this.slots.push(options);
      let passed = visible;
      for (const [choice, { audience, content }] of node.variants.entries()) {
        const when = z3.And(passed, this.audience(audience));
        options.push({ choice, when });
        this.walk(content, when);
        passed = z3.And(passed, z3.Not(this.audience(audience)));
      }
      options.push({ choice: -1, when: passed });
      this.walk(node.otherwise, passed);
    }
  }

  private audience(id: string): Formula {
    const found = this.audiences.get(id);
    if (found) return found;
    const audience = this.document.audiences.find((one) => one.id === id);
    const made = audience ? this.condition(audience.condition) : this.z3.Bool.val(false);
    this.audiences.set(id, made);
    return made;
  }

  private condition(condition: Condition): Formula {
    const { z3 } = this;
    switch (condition.kind) {
      case 'test':
        return this.test(condition);
      case 'audience':
        return this.audience(condition.audience);
      case 'not':
        return z3.Not(this.condition(condition.of));
      case 'all':
        return z3.And(z3.Bool.val(true), ...condition.of.map((part) => this.condition(part)));
      case 'any':
        return z3.Or(z3.Bool.val(false), ...condition.of.map((part) => this.condition(part)));
    }
  }

  private test(test: Test): Formula {
    const { z3 } = this;
    const { attribute, op, values } = test;
    if (attribute === 'signed-in') {
      const is = this.state.eq(2);
      return op === 'is-yes' ? is : z3.Not(is);
    }
    const timed = this.timed.get(keyOf(test));
    if (timed) return timed;
    this.used.add(attribute);
    const has = z3.Bool.const(`has ${attribute}`);
    if (op === 'has-value') return has;
    if (op === 'has-no-value') return z3.Not(has);
    if (attribute === 'tags') {
      const held = values.map((id) => z3.Bool.const(`tags ${id}`));
      if (op === 'includes-all') return z3.And(...held);
      return op === 'includes-any' ? z3.Or(...held) : z3.Not(z3.Or(...held));
    }
    const value = z3.Int.const(attribute);
    const [first = 0, second = 0] = values.map((one) =>
      attribute === 'tier' ? tierIds.indexOf(String(one)) : Number(one),
    );
    switch (op) {
      case 'is-one-of':
      case 'equals':
        return z3.And(has, value.eq(first));
      case 'is-none-of':
        return z3.Not(z3.And(has, value.eq(first)));
      case 'at-least':
        return z3.And(has, value.ge(first));
      case 'at-most':
        return z3.And(has, value.le(first));
      case 'more-than':
        return z3.And(has, value.gt(first));
      case 'fewer-than':
        return z3.And(has, value.lt(first));
      case 'between':
        return z3.And(has, value.ge(first), value.le(second));
      default:
        throw new Error(op);
    }
  }

  /** What can be so of the moment and of dates together: one of the ways that two years have. */
  private time(): void {
    const { z3 } = this;
    const time = waysOf(this.document).get('time');
    if (!time) return;
    const way = z3.Int.const('time');
    this.facts.push(z3.And(way.ge(0), way.lt(time.ways.length)));
    const among = (places: number[]) => z3.Or(z3.Bool.val(false), ...places.map((place) => way.eq(place)));
    const places = (holds: (answers: readonly boolean[]) => boolean) =>
      time.ways.flatMap((answers, place) => (holds(answers) ? [place] : []));
    for (const [index, key] of time.keys.entries())
      this.timed.set(key, among(places((answers) => answers[index] === true)));
    const plain = new Set(time.anonymous.map((answers) => answers.join()));
    this.facts.push(z3.Or(this.known, among(places((answers) => plain.has(answers.join())))));
  }

  private attributeFacts(): Formula[] {
    const { z3 } = this;
    return [...this.used].flatMap((attribute): Formula[] => {
      const has = z3.Bool.const(`has ${attribute}`);
      const facts: Formula[] = [z3.Or(this.known, z3.Not(has))];
      if (attribute === 'tier') {
        const value = z3.Int.const(attribute);
        facts.push(z3.And(value.ge(0), value.lt(tierIds.length)));
      }
      if (attribute === 'tags') {
        const holds = (id: string) => z3.Bool.const(`tags ${id}`);
        facts.push(has.eq(z3.Or(...tagIds.map(holds))));
        for (const group of groups)
          for (const [at, one] of group.entries())
            for (const two of group.slice(at + 1)) facts.push(z3.Not(z3.And(holds(one), holds(two))));
      }
      return facts;
    });
  }
}
