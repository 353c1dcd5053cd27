import fc from 'fast-check';
import { expect, it } from 'vitest';
import { NameSearch } from './name-search.ts';

it('finds whom looking at each name finds, also after changes', () => {
  const name = fc.string({ unit: fc.constantFrom('a', 'b', 'é', '\n', ' '), maxLength: 6 });
  const change = fc.record({ id: fc.nat({ max: 9000 }), name: fc.option(name, { nil: undefined }) });
  fc.assert(
    fc.property(fc.array(fc.array(change, { maxLength: 40 }), { maxLength: 4 }), name, (batches, raw) => {
      const wanted = raw.replaceAll('\n', ' ');
      if (wanted === '') return;
      const search = new NameSearch();
      const names = new Map<number, string>();
      for (const batch of batches) {
        for (const { id, name } of batch) {
          search.set(id, name);
          if (name === undefined) names.delete(id);
          else names.set(id, name.replaceAll('\n', ' '));
        }
        const found = [...names].filter(([, text]) => text.includes(wanted)).map(([id]) => id);
        expect(search.find(raw)).toEqual(found.sort((one, two) => one - two));
      }
    }),
    { numRuns: 400 },
  );
});
