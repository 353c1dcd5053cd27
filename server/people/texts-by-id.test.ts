import fc from 'fast-check';
import { expect, it } from 'vitest';
import { TextsById } from './texts-by-id.ts';

it('holds what was set last, line by line and as blocks, also those that went through blocks (property)', () => {
  const text = fc.string({ unit: fc.constantFrom('a', 'é', ' '), maxLength: 4 });
  const change = fc.record({ id: fc.nat({ max: 9000 }), text: fc.option(text, { nil: undefined }) });
  fc.assert(
    fc.property(fc.array(fc.array(change, { maxLength: 20 }), { maxLength: 4 }), (batches) => {
      let texts = new TextsById();
      const known = new Map<number, string>();
      for (const batch of batches) {
        for (const { id, text } of batch) {
          texts.set(id, text);
          if (text === undefined) known.delete(id);
          else known.set(id, text);
        }
        const read = new TextsById();
        const all: [number, string][] = [];
        for (let at = 0; at < texts.length; at++) {
          const block = texts.blockAt(at);
          read.putBlock(block);
          const lines = block.text.split('\n');
          for (const [index, id] of block.ids.entries()) all.push([id, lines[index] ?? '']);
        }
        expect(all).toEqual([...known].sort(([one], [two]) => one - two));
        for (const { id } of batch) {
          expect(texts.get(id)).toBe(known.get(id));
          expect(read.get(id)).toBe(known.get(id));
        }
        texts = read;
      }
    }),
    { numRuns: 300 },
  );
});
