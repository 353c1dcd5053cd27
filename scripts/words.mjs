// npm run words: every string that people read, file by file, as the source has it, then those that are hardest to read.
// What changes is written as {name}.
import { readdirSync, readFileSync } from 'node:fs';
import { basename, join, relative } from 'node:path';
import { pathToFileURL } from 'node:url';
import { flesch } from 'flesch';
import { syllable } from 'syllable';
import { parseSync } from 'vite';
import { root } from './setup.mjs';

/** Where people read what the source has: the studio, what the server answers, the site, what the core says. */
const folders = ['web', 'server', 'core', 'contract', 'demo'];

/** Attributes and properties whose strings nobody reads. */
const unread =
  /^(?:className|style|key|id|to|href|src|type|role|name|kind|method|target|rel|d|viewBox|fill|stroke|align|side|look|path|import|sql|columns|where|order|autoComplete|inputMode|pattern|as|step|group|trigger|accept|encType|htmlFor|sizes|loading|charset)$|^(?:data|aria-(?:live|controls|describedby|labelledby|haspopup|current|hidden|orientation|sort))/;
/** Calls whose strings nobody reads. */
const silent =
  /^(?:require|query|asked|changeBy|execute|stream|replace|replaceAll|split|join|includes|startsWith|endsWith|test|exec|match|matchAll|querySelector|querySelectorAll|closest|addEventListener|removeEventListener|setAttribute|getAttribute|getItem|setItem|removeItem|set|header|type|on|once|emit|createElement|literal|enum|discriminatedUnion|style|css|createHash|update|digest|fetch|call|useApi|navigate|log|info|warn|debug)$/;

/**
 * The strings of a source that people read, in the order in which they stand in it.
 *
 * @param {string} text
 * @param {string} name of the file
 * @returns {{ line: number, words: string }[]}
 */
export function wordsIn(text, name) {
  const { program, errors } = parseSync(name, text);
  if (errors.length > 0) throw new Error(`${name}: ${errors[0].message}`);
  const found = [];
  const add = (node, words) => {
    const said = words.replace(/\s+/g, ' ').trim();
    if (isRead(said)) found.push({ line: text.slice(0, node.start).split('\n').length, words: said });
  };
  const visit = (node) => {
    if (Array.isArray(node)) {
      for (const one of node) visit(one);
      return;
    }
    if (typeof node?.type !== 'string' || isSilent(node, text)) return;
    if (node.type === 'JSXElement' || node.type === 'JSXFragment') {
      // A sentence with a part of its own in it, such as a number or a link, is read as one.
      if (node.children.some((child) => child.type === 'JSXText' && /\p{L}/u.test(child.value)))
        add(node, node.children.map((child) => wordsOf(child, text)).join(''));
      visit(node.openingElement);
      for (const child of node.children) if (child.type !== 'JSXText') visit(child);
      return;
    }
    if (node.type === 'Literal' && typeof node.value === 'string') add(node, node.value);
    if (node.type === 'TemplateLiteral') add(node, templateOf(node, text));
    for (const [key, value] of Object.entries(node))
      if (key !== 'typeAnnotation' && key !== 'typeArguments') visit(value);
  };
  visit(program);
  return found;
}

/** Words rather than a name of the program: with a capital or a space, and nothing that only a program has. */
function isRead(words) {
  if (!/\p{L}{2}/u.test(words)) return false;
  if (/^(?:[\w./:-]+|\W+)$/u.test(words)) return /^\p{Lu}\p{Ll}+$/u.test(words);
  if (
    /^(?:SELECT|INSERT|UPDATE|DELETE|ALTER|CREATE|DROP|SHOW|SET|WITH|FROM|WHERE|ON|LEFT|ORDER)\b/.test(words)
  )
    return false;
  if (
    /[;{}]\s*[\w-]+\s*:|^[.#@<\\^(]|=>|\bvar\(--|\)\s*\{|^[\w-]+:\s?[\w#.-]+(?:;|$)|^[a-z]+\/[a-z]/.test(
      words,
    )
  )
    return false;
  // Names of styles.
  if (
    /(?:^|[\s:])(?:px|py|text|border|rounded|bg|flex|grid|gap|min|max|inline|sticky|truncate)(?:-[\w[]|\s|$)/.test(
      words,
    ) &&
    !/[.…?]$/.test(words) &&
    /-/.test(words)
  )
    return false;
  return /\s/.test(words) || /^\p{Lu}\p{Ll}+/u.test(words);
}

function isSilent(node, text) {
  const said = (part) => text.slice(part.start, part.end).replace(/['"]/g, '');
  switch (node.type) {
    case 'ImportDeclaration':
    case 'ExportAllDeclaration':
    case 'TSTypeAliasDeclaration':
    case 'TSInterfaceDeclaration':
      return true;
    case 'JSXAttribute':
    case 'Property':
      return unread.test(said(node.name ?? node.key));
    case 'VariableDeclarator':
      return /(?:[cC]ss|[sS]ql|[cC]lass|[sS]tyle|Look|^field|^entry)$/.test(said(node.id));
    case 'CallExpression': {
      const { callee } = node;
      const called = callee.type === 'MemberExpression' ? callee.property : callee;
      return (
        silent.test(said(called)) &&
        node.arguments.every(
          ({ type }) => type !== 'ArrowFunctionExpression' && type !== 'FunctionExpression',
        )
      );
    }
    default:
      return false;
  }
}

function wordsOf(child, text) {
  if (child.type === 'JSXText') return child.value;
  if (child.type === 'JSXExpressionContainer') {
    const { expression } = child;
    if (expression.type === 'JSXEmptyExpression') return '';
    return typeof expression.value === 'string' ? expression.value : `{${short(expression, text)}}`;
  }
  const inner = child.children ? child.children.map((one) => wordsOf(one, text)).join('') : '';
  return inner === '' ? ' ' : inner;
}

function templateOf({ quasis, expressions }, text) {
  return quasis
    .map(({ value }, at) => value.cooked + (expressions[at] ? `{${short(expressions[at], text)}}` : ''))
    .join('');
}

/** What an expression is called, as far as that fits into a sentence. */
function short({ start, end }, text) {
  const names = text.slice(start, end).match(/[A-Za-z]+/g) ?? ['…'];
  return names.length > 3 ? '…' : names.join(' ');
}

function* filesIn(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* filesIn(path);
    else if (/\.tsx?$/.test(entry.name) && !/\.test\.tsx?$/.test(entry.name)) yield path;
  }
}

/** @returns {{ file: string, line: number, words: string }[]} all that people read */
export function allWords() {
  return folders.flatMap((folder) =>
    [...filesIn(join(root, folder))].flatMap((path) =>
      wordsIn(readFileSync(path, 'utf8'), basename(path)).map((one) => ({
        file: relative(root, path),
        ...one,
      })),
    ),
  );
}

/** Fewer words than these are a label, which the measure says nothing of. */
const fewest = 6;

/**
 * How easy a text is to read (R. Flesch, A new readability yardstick, Journal of Applied Psychology 32, 1948): 60 to 70 is
 * plain English.
 *
 * @param {string} words
 * @returns {number | undefined} undefined for a label
 */
export function readingEase(words) {
  const said = words.replace(/\{[^}]*\}/g, 'one');
  const each = said.match(/[\p{L}’'-]+/gu) ?? [];
  if (each.length < fewest) return undefined;
  const sentence = Math.max(1, said.match(/[.!?]+(?:\s|$)/g)?.length ?? 0);
  const syllables = each.reduce((sum, one) => sum + syllable(one), 0);
  return flesch({ sentence, word: each.length, syllable: syllables });
}

if (import.meta.url === pathToFileURL(process.argv[1] ?? '').href) {
  const all = allWords();
  let last;
  for (const { file, line, words } of all) {
    if (file !== last) process.stdout.write(`\n${file}\n`);
    last = file;
    process.stdout.write(`${String(line).padStart(5)}  ${words}\n`);
  }
  process.stdout.write('\nHardest to read (Flesch reading ease)\n');
  const measured = all.flatMap((one) => {
    const ease = readingEase(one.words);
    return ease === undefined ? [] : [{ ...one, ease }];
  });
  measured.sort((one, other) => one.ease - other.ease);
  for (const { file, line, words, ease } of measured.slice(0, 20))
    process.stdout.write(`${ease.toFixed(0).padStart(5)}  ${words}  (${file}:${line})\n`);
  process.stdout.write(
    `${measured.length} texts, in the median ${measured[measured.length >> 1]?.ease.toFixed(0)}\n`,
  );
}
