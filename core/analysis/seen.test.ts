import { describe, expect, it } from 'vitest';
import type { Content, Node } from '../documents/document.ts';
import { words } from '../documents/text.ts';
import { Numbers, seenOf } from './seen.ts';

const heading = (text: string, id = text): Node => ({ kind: 'heading', id, level: 2, content: words(text) });
const slot = (id: string, shown: Node[], otherwise: Node[]): Node => ({
  kind: 'slot',
  id,
  name: id,
  variants: [{ id: `${id} a`, audience: 'some', content: shown }],
  otherwise,
});
const page = (...body: Node[]) => ({ kind: 'page' as const, content: { subject: [], preview: [], body } });
const isSame = (
  one: { kind: 'page' | 'email'; content: Content },
  choices: number[],
  other: { kind: 'page' | 'email'; content: Content },
  otherChoices: number[],
) => {
  const numbers = new Numbers();
  return seenOf(one, '', numbers)(choices).join() === seenOf(other, '', numbers)(otherChoices).join();
};

describe('what is seen', () => {
  it('is the same whichever way it came to be shown', () => {
    const plain = page(heading('Hello'), heading('Bye'));
    const differing = page(slot('s', [heading('Hello')], [heading('Welcome')]), heading('Bye'));
    expect(isSame(plain, [], differing, [0])).toBe(true);
    expect(isSame(plain, [], differing, [-1])).toBe(false);
    // A slot that shows nothing is as if it were not there.
    expect(
      isSame(page(heading('Bye')), [], page(slot('s', [heading('Hello')], []), heading('Bye')), [-1]),
    ).toBe(true);
  });

  it('does not depend on ids and the names of sections, and does on where blocks stand', () => {
    const section = (id: string, name: string, ...children: Node[]): Node => ({
      kind: 'section',
      id,
      name,
      tone: 'plain',
      layout: 'stack',
      children,
    });
    const one = page(section('x', 'Offer', heading('Hello', 'h1')), heading('Bye', 'h2'));
    expect(isSame(one, [], page(section('y', '', heading('Hello', 'g1')), heading('Bye', 'g2')), [])).toBe(
      true,
    );
    // The second heading within the section, not after it.
    expect(isSame(one, [], page(section('x', 'Offer', heading('Hello'), heading('Bye'))), [])).toBe(false);
    expect(isSame(one, [], page(heading('Bye'), section('x', 'Offer', heading('Hello'))), [])).toBe(false);
  });

  it('is told apart by region, kind and frame', () => {
    const inSubject = {
      kind: 'page' as const,
      content: { subject: [heading('Hello')], preview: [], body: [] },
    };
    expect(isSame(page(heading('Hello')), [], inSubject, [])).toBe(false);
    expect(isSame(page(heading('Hello')), [], { ...page(heading('Hello')), kind: 'email' }, [])).toBe(false);
    const numbers = new Numbers();
    const [one, other] = ['one', 'other'].map((frame) => seenOf(page(), frame, numbers)([]).join());
    expect(one).not.toBe(other);
  });
});
