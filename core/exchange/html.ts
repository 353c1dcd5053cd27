import { type ChildNode, type Element, isTag, isText } from 'domhandler';
import { getAttributeValue, textContent } from 'domutils';
import { parseDocument } from 'htmlparser2';
import { safeAddress } from '../documents/address.ts';
import type { Node } from '../documents/document.ts';
import type { NewId } from '../documents/edit.ts';
import { cut, type Inline, type Mark, type TextBlock } from '../documents/text.ts';

export interface FromHtml {
  readonly title: string;
  readonly blocks: Node[];
  /** What was left out, in words, with how often. */
  readonly dropped: readonly { what: string; count: number }[];
}

type Paragraph = Extract<TextBlock, { type: 'paragraph' }>;

const words: { readonly [tag: string]: string } = {
  script: 'script',
  style: 'style sheet',
  link: 'style sheet',
  iframe: 'frame',
  object: 'embedded object',
  embed: 'embedded object',
  form: 'form',
  input: 'form field',
  select: 'form field',
  textarea: 'form field',
  button: 'button of a form',
  svg: 'drawing',
  canvas: 'drawing',
  video: 'video',
  audio: 'sound',
  noscript: 'text for browsers without scripts',
  template: 'template',
};
const silent = new Set(['head', 'meta', 'base', 'title']);
const blockTags = new Set(
  'address article aside blockquote body center dd details div dl dt fieldset figcaption figure footer h1 h2 h3 h4 h5 h6 header hr html li main nav ol p pre section summary table ul'.split(
    ' ',
  ),
);
const deepest = 200;
const mostBlocks = 500;
/** Paragraphs, lists and the like in one text block; what can be stored is more. */
const longestText = 500;
/** Pieces of words in one paragraph, and letters in one piece. */
const mostPieces = 4000;
const longestPiece = 50_000;

/**
 * The blocks of a page written in HTML, as browsers read it, unclosed and wrongly nested tags included: headings, text,
 * pictures, links, lists, tables and quotations are kept, scripts and styles dropped. Nothing of the HTML itself gets
 * through: blocks are made anew from its words and addresses that are safe.
 */
export function blocksFromHtml(html: string, newId: NewId): FromHtml {
  const document = parseDocument(html, { lowerCaseTags: true, decodeEntities: true });
  return new Reading(newId).read(document.children);
}

class Reading {
  private readonly blocks: Node[] = [];
  private readonly dropped = new Map<string, number>();
  /** Paragraphs and lists that become one text block when something else follows. */
  private text: TextBlock[] = [];
  private inline: Inline[] = [];
  private title = '';
  private readonly holding = new WeakMap<Element, boolean>();

  constructor(private readonly newId: NewId) {}

  read(nodes: readonly ChildNode[]): FromHtml {
    this.walk(nodes, 0);
    this.endText();
    const more = this.blocks.length - mostBlocks;
    if (more > 0) this.drop('block past the five hundredth', more);
    return {
      title: cut(this.title.trim(), 120),
      blocks: this.blocks.slice(0, mostBlocks),
      dropped: [...this.dropped].map(([what, count]) => ({ what, count })),
    };
  }

  private drop(what: string, count = 1): void {
    this.dropped.set(what, (this.dropped.get(what) ?? 0) + count);
  }

  private walk(nodes: readonly ChildNode[], depth: number): void {
    if (depth > deepest) {
      this.drop('part nested too deep');
      return;
    }
    for (const node of nodes) {
      if (isText(node)) this.inline.push(...inlineText(node.data, []));
      else if (isTag(node)) this.element(node, depth);
    }
  }

  private element(element: Element, depth: number): void {
    const tag = element.name;
    const what = words[tag];
    if (tag === 'head') {
      for (const child of element.children) if (isTag(child)) this.element(child, depth + 1);
      return;
    }
    if (tag === 'title') {
      this.title ||= textContent(element);
      return;
    }
    if (silent.has(tag)) return;
    if (what !== undefined) {
      if (tag === 'link' && !/stylesheet/i.test(getAttributeValue(element, 'rel') ?? '')) return;
      this.drop(what);
      // What stands in a form is read all the same.
      if (tag === 'form') this.walk(element.children, depth + 1);
      return;
    }
    switch (tag) {
      case 'h1':
      case 'h2':
      case 'h3':
      case 'h4':
      case 'h5':
      case 'h6': {
        this.endText();
        const content = tidy(this.inlines(element, [], depth));
        const level = tag === 'h1' ? 1 : tag === 'h2' ? 2 : 3;
        const [first, ...rest] = partsOf(content);
        if (first) this.blocks.push({ kind: 'heading', id: this.newId(), level, content: first });
        if (rest.length > 0) this.drop('heading of more words than one can have; its first ones are kept');
        return;
      }
      case 'img':
        this.picture(element);
        return;
      case 'hr':
        this.endText();
        this.blocks.push({ kind: 'divider', id: this.newId() });
        return;
      case 'ul':
      case 'ol':
        this.endParagraph();
        this.list(element, tag, depth);
        return;
      case 'table':
        this.endParagraph();
        this.table(element, depth);
        return;
      case 'blockquote':
        this.endParagraph();
        this.add({ type: 'blockquote', content: this.paragraphs(element, depth) });
        return;
      default:
        if (!blockTags.has(tag)) {
          this.spread(element, [], depth);
          return;
        }
        this.endParagraph();
        this.walk(element.children, depth + 1);
        this.endParagraph();
    }
  }

  /** An element of a line; where it was not closed before a block, it ends there. */
  private spread(element: Element, marks: readonly Mark[], depth: number): void {
    if (depth > deepest || !holdsBlock(element, this.holding)) {
      this.inline.push(...this.inlines(element, marks, depth, true));
      return;
    }
    const within = withMark(element, marks);
    for (const child of element.children) {
      if (isText(child)) this.inline.push(...inlineText(child.data, within));
      else if (isTag(child) && isLine(child)) this.spread(child, within, depth + 1);
      else if (isTag(child)) this.element(child, depth + 1);
    }
  }

  private picture(element: Element): void {
    this.endText();
    const alt = cut(getAttributeValue(element, 'alt') ?? '', 300);
    const file = /^\/site\/files\/([\w-]{6,40})$/.exec(getAttributeValue(element, 'src') ?? '')?.[1];
    if (!file) this.drop('picture file; choose one for each picture');
    this.blocks.push({
      kind: 'picture',
      id: this.newId(),
      picture: 'moon',
      ...(file !== undefined && { file }),
      alt,
    });
  }

  private list(element: Element, tag: 'ul' | 'ol', depth: number): void {
    const items = element.children.filter(isTag).flatMap((child) => {
      const content = this.paragraphs(child, depth);
      return content.length === 0 ? [] : [{ type: 'listItem' as const, content }];
    });
    if (items.length > 0) this.add({ type: tag === 'ul' ? 'bulletList' : 'orderedList', content: items });
  }

  private table(element: Element, depth: number): void {
    const rows: Extract<TextBlock, { type: 'table' }>['content'] = [];
    const walk = (nodes: readonly ChildNode[], level: number): void => {
      for (const node of nodes) {
        if (!isTag(node) || level > 4) continue;
        if (node.name !== 'tr') {
          walk(node.children, level + 1);
          continue;
        }
        const cells = node.children
          .filter(isTag)
          .filter(({ name }) => name === 'td' || name === 'th')
          .slice(0, 50)
          .map((cell) => ({
            type: cell.name === 'th' ? ('tableHeader' as const) : ('tableCell' as const),
            content: this.paragraphs(cell, depth),
          }));
        if (cells.length > 0 && rows.length < 500) rows.push({ type: 'tableRow', content: cells });
      }
    };
    walk(element.children, 0);
    if (rows.length > 0) this.add({ type: 'table', content: rows });
  }

  /** What stands in an element as paragraphs; blocks within it end one. */
  private paragraphs(element: Element, depth: number): Paragraph[] {
    const paragraphs: Paragraph[] = [];
    let current: Inline[] = [];
    const end = () => {
      const content = tidy(current);
      for (const part of partsOf(content)) paragraphs.push({ type: 'paragraph', content: part });
      current = [];
    };
    const walk = (nodes: readonly ChildNode[], level: number): void => {
      if (level > deepest) {
        this.drop('part nested too deep');
        return;
      }
      for (const node of nodes) {
        if (isText(node)) current.push(...inlineText(node.data, []));
        else if (isTag(node) && blockTags.has(node.name)) {
          end();
          walk(node.children, level + 1);
          end();
        } else if (isTag(node)) current.push(...this.inlines(node, [], level, true));
      }
    };
    walk(element.children, depth + 1);
    end();
    return paragraphs;
  }

  /** The words in an element, with the marks they have; `own` whether the element itself is one. */
  private inlines(element: Element, marks: readonly Mark[], depth: number, own = false): Inline[] {
    if (depth > deepest) {
      this.drop('part nested too deep');
      return [];
    }
    if (own && element.name === 'br') return [{ type: 'hardBreak' }];
    const dropped = words[element.name];
    if (own && dropped !== undefined) {
      this.drop(dropped);
      return [];
    }
    if (own && element.name === 'img') {
      const alt = getAttributeValue(element, 'alt') ?? '';
      this.drop('picture within a line; its words are kept');
      return inlineText(alt, marks);
    }
    const within = own ? withMark(element, marks) : marks;
    return element.children.flatMap((child): Inline[] => {
      if (isText(child)) return inlineText(child.data, within);
      return isTag(child) ? this.inlines(child, within, depth + 1, true) : [];
    });
  }

  /** Adds to the text that is being read; a text that is as long as one may be is followed by another. */
  private add(part: TextBlock): void {
    if (this.text.length === longestText) this.endBlock();
    this.text.push(part);
  }

  private endBlock(): void {
    if (this.text.length > 0) this.blocks.push({ kind: 'text', id: this.newId(), content: this.text });
    this.text = [];
  }

  private endParagraph(): void {
    const content = tidy(this.inline);
    this.inline = [];
    for (const part of partsOf(content)) this.add({ type: 'paragraph', content: part });
  }

  private endText(): void {
    this.endParagraph();
    this.endBlock();
  }
}

/** Words in parts that each can be stored as one paragraph; none where there are no words. */
function partsOf(content: readonly Inline[]): Inline[][] {
  const pieces = content.flatMap((inline): Inline[] => {
    if (inline.type !== 'text' || inline.text.length <= longestPiece) return [inline];
    const texts: string[] = [];
    for (let rest = inline.text; rest !== ''; rest = rest.slice(texts.at(-1)?.length))
      texts.push(cut(rest, longestPiece));
    return texts.map((text) => ({ ...inline, text }));
  });
  return Array.from({ length: Math.ceil(pieces.length / mostPieces) }, (_, at) =>
    pieces.slice(at * mostPieces, (at + 1) * mostPieces),
  );
}

function isLine({ name }: Element): boolean {
  return !blockTags.has(name) && name !== 'img' && words[name] === undefined && !silent.has(name);
}

/** Whether a block stands in an element, no deeper than anything is read. */
function holdsBlock(element: Element, known: WeakMap<Element, boolean>, depth = 0): boolean {
  const before = known.get(element);
  if (before !== undefined) return before;
  const holds =
    depth < deepest &&
    element.children.some((inner) => isTag(inner) && (!isLine(inner) || holdsBlock(inner, known, depth + 1)));
  known.set(element, holds);
  return holds;
}

function withMark(element: Element, marks: readonly Mark[]): readonly Mark[] {
  const has = (type: Mark['type']) => marks.some((mark) => mark.type === type);
  if ((element.name === 'strong' || element.name === 'b') && !has('bold'))
    return [...marks, { type: 'bold' }];
  if ((element.name === 'em' || element.name === 'i') && !has('italic'))
    return [...marks, { type: 'italic' }];
  const href = element.name === 'a' ? safeAddress(getAttributeValue(element, 'href') ?? '') : undefined;
  return href === undefined || has('link') || href.length > 2000
    ? marks
    : [...marks, { type: 'link', attrs: { href } }];
}

function inlineText(data: string, marks: readonly Mark[]): Inline[] {
  const text = data.replace(/\0/g, '').replace(/[\t\n\f\r ]+/g, ' ');
  return text === '' ? [] : [{ type: 'text', text, ...(marks.length > 0 && { marks: [...marks] }) }];
}

/** Inline text with white space as a browser shows it: single, and none at the ends. */
function tidy(content: readonly Inline[]): Inline[] {
  const tidied: Inline[] = [];
  let after = ' ';
  for (const inline of content) {
    if (inline.type !== 'text') {
      tidied.push(inline);
      after = inline.type === 'hardBreak' ? ' ' : '';
      continue;
    }
    const text = after === ' ' ? inline.text.replace(/^ /, '') : inline.text;
    if (text === '') continue;
    after = text.endsWith(' ') ? ' ' : '';
    tidied.push({ ...inline, text });
  }
  for (let last = tidied.at(-1); last; last = tidied.at(-1)) {
    if (last.type === 'hardBreak') tidied.pop();
    else if (last.type === 'text' && last.text.endsWith(' ')) {
      tidied.pop();
      const text = last.text.trimEnd();
      if (text !== '') tidied.push({ ...last, text });
    } else break;
  }
  return tidied;
}
