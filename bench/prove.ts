import logic from 'logic-solver';
import { never } from '../core/analysis/diagrams/diagrams.ts';
import { World } from '../core/analysis/world.ts';
import { Catalogue } from '../core/attributes/catalogue.ts';
import { all, type Condition, leavesOf, not, type Test } from '../core/conditions/condition.ts';
import { Membership } from '../core/deciding/membership.ts';
import { smtSolver } from '../test/outside/z3.ts';
import { attributes, instant, randomAudiences, today } from './crowd.ts';
import { median, type Result, result } from './result.ts';
import { satCells } from './sat-cells.ts';
import { sized } from './size.ts';

const catalogue = new Catalogue(attributes, 'UTC');
const membership = new Membership(catalogue, []);

/** Whether somebody can be in a condition, from nothing but the condition. */
function ownAnswer(condition: Condition): boolean {
  const world = new World({
    catalogue,
    membership,
    audiences: [],
    used: [],
    channel: 'page',
    instant,
    conditions: [condition],
  });
  return world.possibly(world.condition(condition)) !== never;
}

/**
 * The same by logic-solver, which knows booleans only: for each attribute exactly one of the cells that its tests tell
 * apart, and a test is any of those it holds in.
 */
function satAnswer(condition: Condition): boolean {
  const solver = new logic.Solver();
  const byAttribute = new Map<string, Test[]>();
  for (const leaf of leavesOf(condition))
    if (leaf.kind === 'test')
      byAttribute.set(leaf.attribute, [...(byAttribute.get(leaf.attribute) ?? []), leaf]);
  const names = new Map<Test, string[]>();
  for (const [id, tests] of byAttribute) {
    const attribute = catalogue.get(id);
    if (!attribute) throw new Error(id);
    const cells = satCells(attribute, tests, catalogue, today);
    const variables = cells.map((_, index) => `${id} ${index}`);
    solver.require(logic.exactlyOne(...variables));
    for (const [at, test] of tests.entries())
      names.set(
        test,
        variables.filter((_, index) => cells[index]?.[at]),
      );
  }
  const formula = (part: Condition): unknown => {
    switch (part.kind) {
      case 'test':
        return logic.or(...(names.get(part) ?? []));
      case 'not':
        return logic.not(formula(part.of));
      case 'audience':
        throw new Error('references are resolved before');
      default:
        return (part.kind === 'all' ? logic.and : logic.or)(...part.of.map(formula));
    }
  };
  solver.require(formula(condition));
  return solver.solve() !== null;
}

/** One question "can this be true" or "is A inside B", encoding included, against a SAT and an SMT solver. */
export async function proveBench(): Promise<Result[]> {
  const plain = randomAudiences(40, 5)
    .map(({ condition }) => condition)
    .filter((condition) => [...leavesOf(condition)].every(({ kind }) => kind === 'test'));
  const questions = plain.flatMap((one, index) => {
    const two = plain[(index + 1) % plain.length] ?? one;
    return [one, all(one, not(two))];
  });
  const smt = await smtSolver(attributes, today);
  const times = { own: [] as number[], sat: [] as number[], smt: [] as number[] };
  for (let round = 0; round < sized(30, 1); round++) for (const question of questions) ownAnswer(question);
  const answers: boolean[] = [];
  const timed = async (prove: (question: Condition) => boolean | Promise<boolean>, into: number[]) => {
    for (const [index, question] of questions.entries()) {
      const start = performance.now();
      const answer = await prove(question);
      into.push(performance.now() - start);
      answers[index] ??= answer;
      if (answer !== answers[index]) throw new Error(`the provers disagree on ${JSON.stringify(question)}`);
    }
  };
  for (let round = 0; round < sized(3, 1); round++) {
    for (let again = 0; again < sized(10, 1); again++) await timed(ownAnswer, times.own);
    await timed(satAnswer, times.sat);
    await timed(smt.canBeTrue, times.smt);
  }
  await smt.stop();
  const subject = `one question of ${questions.length}, encoding included, p50`;
  return [
    result('prove', subject, 'logic-solver (SAT)', median(times.sat) / median(times.own), 50),
    result('prove', subject, 'z3-solver (SMT)', median(times.smt) / median(times.own), 60),
  ];
}
