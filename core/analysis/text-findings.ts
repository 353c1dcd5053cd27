import { test as testOf } from '../conditions/condition.ts';
import { aroundEach } from '../deciding/around.ts';
import { type Content, type Node, textOf, walkContent, withText } from '../documents/document.ts';
import { updateNode } from '../documents/edit.ts';
import { mergeFieldsOf } from '../documents/text.ts';
import { never } from './diagrams/diagrams.ts';
import type { DocumentContext, Draft } from './document-context.ts';
import { allOf, whoMeets } from './placed.ts';

/** Finds merge fields without fallback words that are shown to viewers who lack the value. */
export function fallbackFindings(content: Content, context: DocumentContext): Draft[] {
  const { names, access, world } = context;
  const around = aroundEach(content);
  return [...walkContent(content)].flatMap(({ node }) => {
    const lacking = [...mergeFieldsOf(textOf(node))].filter(({ attrs }) => attrs.fallback.trim() === '');
    const ids = [...new Set(lacking.map(({ attrs }) => attrs.attribute))];
    return ids.flatMap((id): Draft[] => {
      const attribute = names.catalogue.get(id);
      if (!attribute) return [];
      const words = /name/.test(id) ? 'friend' : `your ${attribute.label}`;
      const outside = around.get(node.id) ?? [];
      const people = allOf([...whoMeets(outside, access), testOf(id, 'has-no-value')]);
      // Where everybody who comes here has a value there is no hole.
      if (world.tells(id) && world.possibly(world.condition(people)) === never) return [];
      return [
        {
          kind: 'no-fallback',
          severity: 'careful',
          slot: outside.at(-1)?.slot.id,
          variant: null,
          block: node.id,
          people,
          sentence: () =>
            `Whoever has no ${attribute.label} gets a hole in the text: its merge field has no fallback.`,
          candidates: () => [
            {
              label: `Say “${words}” there`,
              content: updateNode(content, node.id, (old) => withFallback(old, id, words)),
              changes: people,
            },
          ],
        },
      ];
    });
  });
}

function withFallback(node: Node, attribute: string, fallback: string): Node {
  return node.kind === 'slot'
    ? node
    : withText(node, (one) => [
        one.type === 'mergeField' && one.attrs.attribute === attribute && one.attrs.fallback.trim() === ''
          ? { ...one, attrs: { ...one.attrs, fallback } }
          : one,
      ]);
}
