import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { cpus, totalmem } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { canvasBench } from './canvas.ts';
import { decideBench } from './decide.ts';
import { facesBench } from './faces.ts';
import { growthBench } from './growth.ts';
import { heavyBench } from './heavy.ts';
import { importsBench } from './imports.ts';
import { paintBench } from './paint.ts';
import { populationBench } from './population.ts';
import { proveBench } from './prove.ts';
import type { Result } from './result.ts';
import { searchBench } from './search.ts';
import { serversBench } from './servers.ts';
import { siteBench } from './site.ts';
import { isSmallest } from './size.ts';
import { tableBench } from './table.ts';

const { values: options, positionals: wanted } = parseArgs({
  options: { json: { type: 'string' }, smallest: { type: 'boolean' } },
  allowPositionals: true,
});

const benches: { [name: string]: () => Result[] | Promise<Result[]> } = {
  decide: decideBench,
  faces: facesBench,
  heavy: heavyBench,
  prove: proveBench,
  population: populationBench,
  import: importsBench,
  table: tableBench,
  search: searchBench,
  site: siteBench,
  servers: serversBench,
  growth: growthBench,
  paint: paintBench,
  canvas: canvasBench,
};
const unknown = wanted.filter((name) => !(name in benches));
if (unknown.length > 0) {
  process.stderr.write(
    `There is no bench ${unknown.join(', ')}; there are ${Object.keys(benches).join(', ')}.\n`,
  );
  process.exit(1);
}

mkdirSync('.data-bench', { recursive: true });
const [cpu] = cpus();
process.stdout.write(
  `Node.js ${process.versions.node}, ${cpus().length} × ${cpu?.model.trim() ?? 'unknown processor'}, ${Math.round(totalmem() / 2 ** 30)} GiB\n`,
);
const asked = Object.keys(benches).filter((name) => wanted.length === 0 || wanted.includes(name));
const results: Result[] = [];
for (const name of asked) {
  // Each in a process of its own, as a server is one: what ran before in the same makes what comes after slower.
  if (asked.length > 1 && !isSmallest) results.push(...apart(name));
  else results.push(...((await benches[name]?.()) ?? []));
}
if (isSmallest) {
  process.stdout.write(
    `${results.length} works were done on as little as there can be, and agree with their peers.\n`,
  );
  process.exit();
}
const columns: [string, (row: Result) => string][] = [
  ['work', (row) => row.work],
  ['subject', (row) => row.subject],
  ['peer', (row) => row.peer],
  ['ratio', (row) => String(row.ratio)],
  ['bar', (row) => String(row.bar)],
  ['holds', (row) => (row.holds ? 'yes' : 'NO')],
];
const widths = columns.map(([title, of]) => Math.max(title.length, ...results.map((row) => of(row).length)));
const line = (cells: string[]) =>
  `| ${cells.map((cell, index) => cell.padEnd(widths[index] ?? 0)).join(' | ')} |\n`;
process.stdout.write(line(columns.map(([title]) => title)));
process.stdout.write(line(widths.map((width) => '-'.repeat(width))));
for (const row of results) process.stdout.write(line(columns.map(([, of]) => of(row))));
if (options.json) writeFileSync(options.json, `${JSON.stringify(results, null, 2)}\n`);
const short = results.filter(({ holds }) => !holds);
process.stdout.write(`${results.length - short.length} of ${results.length} bars hold\n`);
process.exitCode = short.length > 0 ? 1 : 0;

function apart(name: string): Result[] {
  const path = join('.data-bench', `${name}.json`);
  rmSync(path, { force: true });
  spawnSync(process.execPath, [...process.execArgv, 'bench/main.ts', name, '--json', path], {
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  // What did not come to an end has written nothing, and said why.
  if (!existsSync(path)) throw new Error(`the bench ${name} did not finish`);
  const rows: Result[] = JSON.parse(readFileSync(path, 'utf8'));
  return rows;
}
