import { getSchema } from '@tiptap/core';
import type { Node, NodeType, Schema } from '@tiptap/pm/model';
import { EditorState, type Transaction } from '@tiptap/pm/state';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Inline, type TextBlock, wholeText } from '../../../core/documents/text.ts';
import { Random } from '../../../demo/random.ts';
import { extensionsFor, onlyStorable, storedLine, storedText, type TextKind } from './text-schema.ts';

const say = () => ({ words: '', missing: false });
const schemaOf = (kind: TextKind): Schema =>
  getSchema(
    extensionsFor(
      kind,
      say,
      () => -1,
      () => {},
    ),
  );

const inline = fc.oneof(
  fc.string({ minLength: 1, maxLength: 8 }).map((text): Inline => ({ type: 'text', text })),
  fc.constant<Inline>({ type: 'hardBreak' }),
  fc.constant<Inline>({ type: 'mergeField', attrs: { attribute: 'tier', fallback: 'friend', look: null } }),
  fc.constant<Inline>({
    type: 'alternatives',
    attrs: { id: 'a', name: 'words', variants: [{ id: 'v', audience: 'x', words: 'one' }], otherwise: '' },
  }),
);
const paragraph = fc
  .array(inline, { maxLength: 4 })
  .map((content) =>
    content.length > 0 ? { type: 'paragraph' as const, content } : { type: 'paragraph' as const },
  );
const paragraphs = fc.array(paragraph, { maxLength: 3 });
const block: fc.Arbitrary<TextBlock> = fc.oneof(
  paragraph,
  paragraphs.map((content) => ({ type: 'blockquote' as const, content })),
  fc.record({
    type: fc.constantFrom('bulletList' as const, 'orderedList' as const),
    content: fc.array(
      paragraphs.map((content) => ({ type: 'listItem' as const, content })),
      { maxLength: 3 },
    ),
  }),
  fc
    .array(
      fc
        .array(
          fc.record({
            type: fc.constantFrom('tableHeader' as const, 'tableCell' as const),
            content: paragraphs,
          }),
          { maxLength: 3 },
        )
        .map((content) => ({ type: 'tableRow' as const, content })),
      { maxLength: 3 },
    )
    .map((content) => ({ type: 'table' as const, content })),
);

/** A document of everything that a schema allows, made at random from what each place can hold. */
function anyDocument(schema: Schema, random: Random): Node {
  const make = (type: NodeType, depth: number): Node => {
    if (type.isText) return schema.text(random.pick(['word', 'ö', '🔭']));
    const children: Node[] = [];
    let match = type.contentMatch;
    for (let count = random.between(0, 4); count > 0 || !match.validEnd; count--) {
      const types = Array.from({ length: match.edgeCount }, (_, at) => match.edge(at).type).filter(
        (next) => depth < 6 || next.isInline || next.name === 'paragraph' || !match.validEnd,
      );
      const [first, ...rest] = types;
      if (!first) break;
      const child = make(random.pick([first, ...rest]), depth + 1);
      const next = match.matchType(child.type);
      if (!next) break;
      children.push(child);
      match = next;
    }
    return type.create(null, children);
  };
  return make(schema.topNodeType, 0);
}

describe('what the text editor holds and what is stored', () => {
  it.each<TextKind>(['text', 'inline', 'line'])('%s: all that can be written can be stored', (kind) => {
    const schema = schemaOf(kind);
    const random = new Random(5);
    const stored = kind === 'text' ? storedText : storedLine;
    for (let run = 0; run < 400; run++) {
      const document = anyDocument(schema, random);
      document.check();
      // A merge field that names nothing is none; the tools always name one.
      const json = JSON.parse(JSON.stringify(document.toJSON()), (_key, value) =>
        value?.type === 'mergeField'
          ? { ...value, attrs: { ...value.attrs, attribute: 'tier' } }
          : value?.type === 'alternatives'
            ? { ...value, attrs: { ...value.attrs, id: 'a' } }
            : value,
      );
      expect(stored(json), JSON.stringify(json)).toBeDefined();
    }
  });

  it('all that is stored can be written, and stays as it is', () => {
    const schema = schemaOf('text');
    fc.assert(
      fc.property(fc.array(block, { minLength: 1, maxLength: 4 }), (blocks) => {
        const whole = wholeText(blocks);
        if (whole.length === 0) return;
        const document = schema.nodeFromJSON({ type: 'doc', content: whole });
        document.check();
        const back = schema.nodeFromJSON({ type: 'doc', content: storedText(document.toJSON()) });
        expect(back.eq(document)).toBe(true);
      }),
    );
  });

  it('gives tables their parts, and nothing else', () => {
    const roles = Object.fromEntries(
      Object.values(schemaOf('text').nodes).flatMap(({ name, spec }) =>
        spec.tableRole === undefined ? [] : [[name, spec.tableRole]],
      ),
    );
    expect(roles).toEqual({ table: 'table', tableRow: 'row', tableCell: 'cell', tableHeader: 'header_cell' });
  });

  it('lets in no change that could not be stored, and says so', () => {
    const refused: string[] = [];
    const schema = schemaOf('text');
    const plugins = [onlyStorable('text', () => refused.push('refused'))];
    const row = (cells: number) => ({
      type: 'tableRow',
      content: Array.from({ length: cells }, () => ({ type: 'tableCell', content: [{ type: 'paragraph' }] })),
    });
    const table = (cells: number) => schema.nodeFromJSON({ type: 'table', content: [row(cells)] });
    const state = EditorState.create({ schema, plugins });
    const put = (node: Node): Transaction => state.tr.insert(0, node);
    expect(state.apply(put(table(50))).doc.childCount).toBe(2);
    expect(refused).toEqual([]);
    expect(state.apply(put(table(51))).doc.childCount).toBe(1);
    expect(refused).toEqual(['refused']);
  });
});
