// Makes core/population/words-wasm.ts from words.wat; a test holds the two together.
import { readFileSync, writeFileSync } from 'node:fs';
import wabt from 'wabt';

const folder = new URL('../core/population/', import.meta.url);
const { parseWat } = await wabt();
const { buffer } = parseWat('words.wat', readFileSync(new URL('words.wat', folder), 'utf8'), {
  simd: true,
}).toBinary({});
const lines = Buffer.from(buffer)
  .toString('base64')
  .match(/.{1,100}/g);
writeFileSync(
  new URL('words-wasm.ts', folder),
  `/** The module of words.wat, compiled: node scripts/words-wasm.mjs. */\nexport const wordsWasm =\n${lines.map((line) => `  '${line}'`).join(' +\n')};\n`,
);
