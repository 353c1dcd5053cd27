// npm test: everything. npm test -- --seeds 50: the random users of the trials do so many sequences each. npm test --
// --quick: types, lint, all tests beside the code, those of the server that the latest change touches and a few that go
// through most of it, and one story in the browser.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join, relative } from 'node:path';
import { parseArgs } from 'node:util';
import { freePort, startDatabase } from './database.mjs';
import { run, say } from './say.mjs';
import { startServer } from './server-process.mjs';
import { ensureDebianPackages, ensureNodeModules, ensureWebBuild, root } from './setup.mjs';

/** Browser tests that may need two tries, by their whole name, each with the reason. None does. */
const mayNeedTwo = new Map();

const { values: options } = parseArgs({ options: { quick: { type: 'boolean' }, seeds: { type: 'string' } } });
const isQuick = options.quick === true;

/** Tests of the server that between them go through most of it. */
const smoke = ['attributes', 'documents', 'releasing', 'sending', 'several', 'site'];

/**
 * What a quick run tests of the server: the smoke, each test that was changed, and for each changed feature the tests of its
 * name. Changed is what differs from the commit before the latest one, whether committed by now or not.
 */
function quickServerTests() {
  const { stdout = '' } = spawnSync('git', ['diff', '--name-only', 'HEAD~1'], {
    cwd: root,
    encoding: 'utf8',
  });
  const changed = stdout.split('\n');
  const features = changed.flatMap((path) => /^server\/([\w-]+)\//.exec(path)?.[1] ?? []);
  return readdirSync(join(root, 'test', 'server'))
    .filter((file) => file.endsWith('.test.ts'))
    .filter(
      (file) =>
        changed.includes(`test/server/${file}`) ||
        [...smoke, ...features].some((name) => file.replace(/s?\.test\.ts$/, '') === name.replace(/s$/, '')),
    )
    .map((file) => `test/server/${file}`);
}

function testsBesideCode() {
  const folders = ['core', 'contract', 'server', 'web', 'demo'];
  const listed = ['ls-files', '--cached', '--others', '--exclude-standard', ...folders];
  const { stdout = '' } = spawnSync('git', listed, { cwd: root, encoding: 'utf8' });
  return stdout.split('\n').filter((path) => /\.test\.tsx?$/.test(path) && existsSync(join(root, path)));
}

/** What ran and how it ended. */
const totals = { passed: 0, failed: 0, skipped: 0 };

/** What failed, by name with the first line of why: told again at the end, where the last lines of a log still have it. */
const failures = [];

function step(name, command, args, env = {}) {
  say(`\n— ${name}`);
  const done = spawnSync(process.execPath, [join('node_modules', command), ...args], {
    cwd: root,
    env: { ...process.env, ...env },
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  return done.status === 0;
}

function check(name, command, args, env) {
  if (step(name, command, args, env)) totals.passed++;
  else {
    totals.failed++;
    failures.push(name);
  }
}

/** Runs a test runner and adds what its JSON report counts; a run without a report counts as one failure. */
function tests(name, command, args, report, read, env) {
  rmSync(report, { force: true });
  const green = step(name, command, args, env);
  const counted = existsSync(report) ? read(JSON.parse(readFileSync(report, 'utf8'))) : undefined;
  if (counted) {
    for (const key of Object.keys(totals)) totals[key] += counted[key];
    failures.push(...counted.failures);
  }
  if (!counted || (!green && counted.failed === 0)) {
    totals.failed++;
    failures.push(`${name}: ${counted ? 'ended with an error outside its tests' : 'wrote no report'}`);
  }
}

const firstLine = (text) => text?.split('\n').find((line) => line.trim() !== '') ?? '';

/** What failed in a report of the unit and server tests: tests, and files that could not be loaded. */
const unitFailures = ({ testResults }) =>
  testResults.flatMap(({ name, status, message, assertionResults }) => {
    const file = relative(root, name);
    const failed = assertionResults.filter((test) => test.status === 'failed');
    if (status === 'failed' && assertionResults.length === 0) return [`${file}: ${firstLine(message)}`];
    return failed.map((test) => `${file}: ${test.fullName}: ${firstLine(test.failureMessages[0])}`);
  });

/** The browser tests that ended as `status`, by file and title. */
function browserTests({ suites }, status) {
  return suites.flatMap((suite) => [
    ...(suite.specs ?? [])
      .filter(({ tests }) => tests.some((test) => test.status === status))
      .map(({ title }) => `${suite.file}: ${title}`),
    ...browserTests({ suites: suite.suites ?? [] }, status),
  ]);
}

await run(async () => {
  const folder = process.env.APPLE_PORCH_TEST_DATA ?? join(root, '.data-test');
  ensureDebianPackages(['mariadb-server', 'chromium']);
  ensureNodeModules();
  ensureWebBuild();
  mkdirSync(folder, { recursive: true });
  const database = await startDatabase(folder);
  try {
    check('types', 'typescript/bin/tsc', ['--noEmit']);
    check('lint', '@biomejs/biome/bin/biome', ['check', '.']);
    const unitReport = join(folder, 'unit-report.json');
    tests(
      'unit and server tests',
      'vitest/vitest.mjs',
      [
        'run',
        '--reporter=dot',
        '--reporter=json',
        `--outputFile.json=${unitReport}`,
        ...(isQuick ? [...testsBesideCode(), ...quickServerTests()] : []),
      ],
      unitReport,
      (report) => ({
        passed: report.numPassedTests,
        failed:
          report.numFailedTests +
          report.testResults.filter((file) => file.status === 'failed' && file.assertionResults.length === 0)
            .length,
        skipped: report.numPendingTests + report.numTodoTests,
        failures: unitFailures(report),
      }),
      { TEST_DATABASE_SERVER: database.url('').slice(0, -1) },
    );
    if (!isQuick)
      check(
        'works of the benchmark, as small as they can be',
        'tsx/dist/cli.mjs',
        ['bench/main.ts', '--smallest'],
        {
          BENCH_DATABASE_SERVER: database.url('').slice(0, -1),
        },
      );
    const port = await freePort();
    const server = await startServer({
      env: {
        PORT: String(port),
        APPLE_PORCH_DATA: folder,
        DATABASE_URL: database.url(`apple_porch_browser_${port}`),
        NODE_ENV: 'production',
      },
    });
    const browserReport = join(folder, 'browser-report.json');
    try {
      tests(
        'browser tests',
        '@playwright/test/cli.js',
        ['test', ...(isQuick ? ['01-story'] : [])],
        browserReport,
        (report) => {
          const late = browserTests(report, 'flaky').filter((name) => !mayNeedTwo.has(name));
          const { expected, flaky, unexpected, skipped } = report.stats;
          return {
            passed: expected + flaky - late.length,
            failed: unexpected + late.length,
            skipped,
            failures: [
              ...browserTests(report, 'unexpected'),
              ...late.map((name) => `${name}: passed at its second try only, which counts as failed`),
            ],
          };
        },
        {
          BASE_URL: server.ready.address,
          TEST_DATABASE_SERVER: database.url('').slice(0, -1),
          BROWSER_REPORT: browserReport,
          ...(options.seeds && { SEEDS: options.seeds }),
        },
      );
    } finally {
      await server.stop();
    }
  } finally {
    await database.stop();
  }
  const skipped = totals.skipped > 0 ? `, ${totals.skipped} skipped` : '';
  for (const failure of failures) say(`FAILED: ${failure}`);
  say(`\n${totals.passed} passed, ${totals.failed} failed${skipped}`);
  if (totals.failed > 0) process.exit(1);
});
