// Breaks the evaluation of each operator on purpose, one at a time, in a copy of the code, and expects a test to fail:
// npm run mutate. A mutation that no test notices is a hole in the tests; it is listed and the exit code is 1.
import { spawnSync } from 'node:child_process';
import { cpSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { run, say } from './say.mjs';
import { ensureNodeModules, root } from './setup.mjs';

/** Each operator taken for another of its type; `!` takes it for its own opposite. */
const taken = {
  'yes-no': { 'is-yes': 'is-no', 'is-no': 'is-yes' },
  choice: {
    'is-one-of': '!',
    'is-none-of': 'is-one-of',
    'at-least': 'at-most',
    'at-most': 'at-least',
    between: 'at-least',
  },
  set: {
    'includes-any': 'includes-all',
    'includes-all': 'includes-any',
    'includes-none': 'includes-any',
    'includes-own': '!',
  },
  number: {
    equals: 'at-least',
    'at-least': 'more-than',
    'at-most': 'fewer-than',
    'more-than': 'at-least',
    'fewer-than': 'at-most',
    between: 'at-least',
  },
  date: {
    on: '!',
    before: '!',
    after: 'on',
    between: 'on',
    'within-last': 'within-next',
    'within-next': 'within-last',
    'anniversary-within': 'within-next',
  },
  'date-time': {
    before: 'from',
    from: 'before',
    between: 'from',
    'within-last': 'within-next',
    'within-next': 'within-last',
    recurs: '!',
  },
  time: { between: '!' },
  text: {
    'is-one-of': 'contains',
    'is-none-of': 'is-one-of',
    contains: 'starts-with',
    'starts-with': 'contains',
    'ends-with': 'contains',
    'same-as': '!',
  },
  country: { 'is-one-of': '!', 'is-none-of': 'is-one-of' },
  address: { 'in-range': 'not-in-range', 'not-in-range': 'in-range' },
  language: { prefers: 'accepts', accepts: 'prefers', 'accepts-none': 'accepts' },
  path: {
    'is-one-of': 'matches',
    'is-none-of': 'is-one-of',
    matches: 'is-one-of',
    'matches-none': 'matches',
  },
};
const presence = [
  ['has-value', 'has-no-value'],
  ['has-no-value', 'has-value'],
];

/** Smaller slips: a bound in or out, a value that is there or missing. */
const slips = [
  ['core/conditions/evaluate.ts', 'away >= from && away <= to', 'away >= from && away < to'],
  ['core/conditions/evaluate.ts', 'away >= from && away <= to', 'away > from && away <= to'],
  ['core/conditions/evaluate.ts', '(fact) => fact !== undefined;', '() => true;'],
  ['core/conditions/evaluate.ts', 'question.values.every((value)', 'question.values.some((value)'],
  ['core/conditions/evaluate.ts', 'question.first ? fact.slice(0, 1) : fact', 'fact'],
  ['core/conditions/evaluate.ts', 'fact !== undefined && fact === values[other]', 'fact === values[other]'],
  ['core/conditions/meaning.ts', 'return [{ from, to, withoutTo: true }];', 'return [{ from, to }];'],
  [
    'core/conditions/meaning.ts',
    'question: Question): Meaning {\n  return { negated: true, question }',
    'question: Question): Meaning {\n  return { negated: false, question }',
  ],
  ['core/conditions/meaning.ts', ".replace(/\\p{M}/gu, '')", ''],
  ['core/conditions/meaning.ts', '.toLowerCase();', ';'],
  ['core/conditions/recurrence.ts', 'if (end <= instant) break;', 'if (end < instant) break;'],
];

/** The tests that say what each operator means; those that compare ways of evaluating would not notice what all share. */
const tests = ['core/conditions/conditions.test.ts', 'core/conditions/recurrence.test.ts'];

function mutations() {
  const list = [];
  for (const [type, operators] of Object.entries(taken))
    for (const [op, other] of Object.entries(operators))
      list.push({ name: `${type} ${op} as ${other}`, type, op, other });
  for (const [op, other] of presence) list.push({ name: `${op} as ${other}`, type: undefined, op, other });
  for (const [file, from, to] of slips)
    list.push({ name: `${file}: ${from.split('\n')[0]} → ${to.split('\n')[0]}`, file, from, to });
  return list;
}

/** The text of a file with one operator taken for another at the only place where operators get their meaning. */
function operatorBroken(text, { type, op, other }) {
  const start = 'catalogue: Catalogue): Meaning {\n';
  const at = text.indexOf(start, text.indexOf('export function meaningOf'));
  if (at < 0) throw new Error('meaningOf is not where it was');
  const which = `test.op === '${op}'${type ? ` && attribute.type === '${type}'` : ''}`;
  const broken =
    other === '!'
      ? `  if (${which} && !('broken' in test)) {\n    const { negated, question } = meaningOf(Object.assign({ broken: true }, test), attribute, catalogue);\n    return { negated: !negated, question };\n  }\n`
      : `  if (${which}) test = { ...test, op: '${other}' };\n`;
  return text.slice(0, at + start.length) + broken + text.slice(at + start.length);
}

await run(async () => {
  ensureNodeModules();
  const folder = mkdtempSync(join(tmpdir(), 'apple-porch-mutate-'));
  for (const name of ['core', 'demo', 'test', 'package.json', 'tsconfig.json', 'vitest.config.ts'])
    cpSync(join(root, name), join(folder, name), { recursive: true });
  symlinkSync(join(root, 'node_modules'), join(folder, 'node_modules'));
  const survived = [];
  const list = mutations();
  try {
    const tested = () =>
      spawnSync(process.execPath, ['node_modules/vitest/vitest.mjs', 'run', '--bail=1', ...tests], {
        cwd: folder,
      }).status === 0;
    if (!tested()) throw new Error('The tests fail before anything is broken.');
    for (const mutation of list) {
      const file = join(folder, mutation.file ?? 'core/conditions/meaning.ts');
      const text = readFileSync(file, 'utf8');
      const broken = mutation.file
        ? text.replace(mutation.from, mutation.to)
        : operatorBroken(text, mutation);
      if (broken === text) throw new Error(`Nothing to break for ${mutation.name}`);
      writeFileSync(file, broken);
      const unnoticed = tested();
      writeFileSync(file, text);
      say(`${unnoticed ? 'NOT NOTICED' : 'noticed'}  ${mutation.name}`);
      if (unnoticed) survived.push(mutation.name);
    }
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
  say(`\n${list.length - survived.length} of ${list.length} broken operators and slips were noticed`);
  if (survived.length > 0) process.exit(1);
});
