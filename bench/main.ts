import { mkdirSync, writeFileSync } from 'node:fs';
import { cpus, totalmem } from 'node:os';
import { parseArgs } from 'node:util';
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
const results: Result[] = [];
for (const [name, bench] of Object.entries(benches))
  if (wanted.length === 0 || wanted.includes(name)) results.push(...(await bench()));
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
