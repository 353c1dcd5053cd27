import type { Node, Section, Slot } from '../core/documents/document.ts';
import type { Inline, TextBlock } from '../core/documents/text.ts';

let made = 0;
/** Ids in the order of writing, so that the demo is the same at every load. */
export const id = (): string => `d${(++made).toString(36).padStart(4, '0')}`;

export const first = (fallback: string): Inline => ({
  type: 'mergeField',
  attrs: { attribute: 'first-name', fallback },
});
export const field = (attribute: string, fallback: string): Inline => ({
  type: 'mergeField',
  attrs: { attribute, fallback },
});
export type Words = (string | Inline)[];
export const inlines = (words: Words): Inline[] =>
  words.map((word) => (typeof word === 'string' ? { type: 'text', text: word } : word));
export const bold = (text: string): Inline => ({ type: 'text', text, marks: [{ type: 'bold' }] });

export const heading = (level: 1 | 2 | 3, ...words: Words): Node => ({
  kind: 'heading',
  id: id(),
  level,
  content: inlines(words),
});
export const text = (...paragraphs: Words[]): Node => ({
  kind: 'text',
  id: id(),
  content: paragraphs.map((words): TextBlock => ({ type: 'paragraph', content: inlines(words) })),
});
export const picture = (name: string, alt: string): Node => ({
  kind: 'picture',
  id: id(),
  picture: name,
  alt,
});
export const button = (label: string, address: string): Node => ({
  kind: 'button',
  id: id(),
  label: inlines([label]),
  address,
});
export const line = (...words: Words): Node => ({ kind: 'line', id: id(), content: inlines(words) });
export const section = (
  name: string,
  tone: Section['tone'],
  layout: Section['layout'],
  ...children: Node[]
): Node => ({ kind: 'section', id: id(), name, tone, layout, children });
export const slot = (
  name: string,
  variants: [audience: string, content: Node[]][],
  otherwise: Node[],
): Slot => ({
  kind: 'slot',
  id: id(),
  name,
  variants: variants.map(([audience, content]) => ({ id: id(), audience, content })),
  otherwise,
});
