// npm run mutate: breaks the core at a sample of its lines, one fault at a time, and expects a test to fail.
//
//   npm run mutate                          the usual sample, about 500 faults
//   npm run mutate -- --sample 7            another one
//   npm run mutate -- core/population       every fault in these folders, files, or lines of a file (bits.ts:10-20)
//
// A fault that no test notices is a hole in the tests, unless docs/mutants.md says why it changes nothing.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { run, say } from './say.mjs';
import { ensureNodeModules, root } from './setup.mjs';

/** Lines are drawn in stretches this long, one stretch in so many. */
const stretch = 4;
const oneIn = 32;
/** The least share of faults that the tests have to notice. */
const least = 0.95;

/** Sources under a path, without tests; some lines of one, as in core/population/bits.ts:10-20, are what they are. */
function sourcesOf(path) {
  if (/:\d+-\d+$/.test(path)) return [path];
  if (statSync(join(root, path)).isFile()) return [path];
  return readdirSync(join(root, path), { recursive: true })
    .map((name) => `${path}/${name}`)
    .filter((name) => name.endsWith('.ts') && !/\.(test|d)\.ts$/.test(name))
    .sort();
}

/** The stretches of a file's lines that a sample draws, as ranges. The same lines are drawn while the file stays as it is. */
function drawn(file, sample) {
  const lines = readFileSync(join(root, file), 'utf8').split('\n').length;
  const ranges = [];
  for (let first = 1; first <= lines; first += stretch) {
    const hash = createHash('sha256').update(`${file}:${first}:${sample}`).digest().readUInt32BE(0);
    if (hash % oneIn === 0) ranges.push(`${file}:${first}-${first + stretch - 1}`);
  }
  return ranges;
}

/** The faults that docs/mutants.md lists, each under its file as the line that is broken and what it is broken to. */
function explained() {
  const text = readFileSync(join(root, 'docs', 'mutants.md'), 'utf8');
  const known = new Set();
  let file = '';
  for (const line of text.split('\n')) {
    file = /^## `(.+)`$/.exec(line)?.[1] ?? file;
    const fault = /^- `(.+?)` → `(.+?)`: /.exec(line);
    if (fault) known.add(`${file}\n${fault[1]}\n${fault[2]}`);
  }
  return known;
}

await run(async () => {
  ensureNodeModules();
  const args = process.argv.slice(2);
  const at = args.indexOf('--sample');
  const sample = at < 0 ? 0 : Number(args[at + 1]);
  const paths = at < 0 ? args : args.toSpliced(at, 2);
  const mutate =
    paths.length > 0 ? paths.flatMap(sourcesOf) : sourcesOf('core').flatMap((file) => drawn(file, sample));
  const folder = mkdtempSync(join(tmpdir(), 'apple-porch-mutate-'));
  const report = join(folder, 'report.json');
  const config = join(folder, 'config.json');
  writeFileSync(
    config,
    JSON.stringify({
      mutate,
      testRunner: 'vitest',
      plugins: ['@stryker-mutator/vitest-runner'],
      vitest: { configFile: 'vitest.core.config.ts', related: false },
      coverageAnalysis: 'perTest',
      ignoreStatic: true,
      // Words are read by people; what the tests look at is which are said.
      mutator: { excludedMutations: ['StringLiteral'] },
      ignorePatterns: ['.data*', 'dist', 'docs'],
      tempDirName: join(folder, 'work'),
      // The type checker that the tool asks for its settings is another than the one in use: it is given none.
      tsconfigFile: 'none.json',
      timeoutMS: 30_000,
      reporters: ['progress-append-only', 'json'],
      jsonReporter: { fileName: report },
    }),
  );
  try {
    const done = spawnSync(
      process.execPath,
      ['node_modules/@stryker-mutator/core/bin/stryker.js', 'run', config],
      {
        cwd: root,
        stdio: ['ignore', 'inherit', 'inherit'],
      },
    );
    if (done.status !== 0) throw new Error('the faults could not be tried; see above');
    const known = explained();
    const { files } = JSON.parse(readFileSync(report, 'utf8'));
    let noticed = 0;
    const unnoticed = [];
    let harmless = 0;
    for (const [file, { mutants, source }] of Object.entries(files))
      for (const mutant of mutants) {
        if (mutant.status === 'Ignored' || mutant.status === 'CompileError') continue;
        if (mutant.status === 'Killed' || mutant.status === 'Timeout') noticed++;
        else {
          const { from, to } = shown(source, mutant);
          if (known.has(`${file}\n${from}\n${to}`)) harmless++;
          else unnoticed.push(`${file}:${mutant.location.start.line}  \`${from}\` → \`${to}\``);
        }
      }
    for (const one of unnoticed) say(`NOT NOTICED  ${one}`);
    const all = noticed + unnoticed.length;
    say(`\n${noticed} of ${all} faults were noticed (${((100 * noticed) / all).toFixed(1)} %).`);
    say(`${harmless} more change nothing, as docs/mutants.md explains.`);
    if (noticed < least * all) process.exit(1);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});

/** The first line of what a fault breaks and of what it is broken to, without space around. */
function shown(source, { location: { start, end }, replacement }) {
  const lines = source.split('\n');
  const broken = lines.slice(start.line - 1, end.line);
  broken[broken.length - 1] = broken.at(-1).slice(0, end.column - 1);
  broken[0] = broken[0].slice(start.column - 1);
  const first = (text) => text.trim().split('\n')[0].slice(0, 90);
  return { from: first(broken.join('\n')), to: first(replacement) };
}
