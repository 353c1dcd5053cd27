import { describe, expect, it } from 'vitest';
import { type Content, contentSchema, type Node, type Slot, slotsOf } from './document.ts';
import { deviationOf, outerSlotsOf, setAudiences, spreadAudiences, wrapForAll } from './page-audiences.ts';
import { words } from './text.ts';

let made = 0;
const newId = () => `new${++made}`;
const heading = (id: string): Node => ({ kind: 'heading', id, level: 2, content: words(id) });
const slot = (id: string, ...audiences: string[]): Slot => ({
  kind: 'slot',
  id,
  name: id,
  variants: audiences.map((audience) => ({
    id: `${id}-${audience}`,
    audience,
    content: [heading(`${id}-${audience}-h`)],
  })),
  otherwise: [heading(`${id}-else`)],
});
const content = (...body: Node[]): Content => ({ subject: [], preview: [], body });
const orders = (of: Content) =>
  Object.fromEntries(slotsOf(of).map(({ id, variants }) => [id, variants.map(({ audience }) => audience)]));

describe('the audiences of a whole document', () => {
  it('say of a slot what it lacks, what it has besides, and what stands the other way round', () => {
    const set = ['gold', 'silver', 'new'];
    expect(deviationOf(slot('s', 'gold', 'silver', 'new'), set)).toBeUndefined();
    expect(deviationOf(slot('s', 'gold', 'new'), set)).toEqual({
      lacking: ['silver'],
      extra: [],
      swapped: undefined,
    });
    expect(deviationOf(slot('s', 'silver', 'staff', 'gold', 'new'), set)).toEqual({
      lacking: [],
      extra: ['staff'],
      swapped: ['silver', 'gold'],
    });
    expect(deviationOf(slot('s'), set)?.lacking).toEqual(set);
  });

  it('are followed by the slots that had them: a new one, another order, one that goes', () => {
    const before = setAudiences(
      content(slot('x', 'gold', 'silver'), slot('y', 'gold', 'silver'), slot('own', 'silver')),
      ['gold', 'silver'],
      newId,
    );
    expect(orders(before)).toEqual({ x: ['gold', 'silver'], y: ['gold', 'silver'], own: ['silver'] });
    const more = setAudiences(before, ['new', 'silver', 'gold'], newId);
    expect(orders(more)).toEqual({
      x: ['new', 'silver', 'gold'],
      y: ['new', 'silver', 'gold'],
      own: ['silver'],
    });
    const [x] = slotsOf(more);
    // What was written stays with its audience; the new variant begins as what everyone else gets.
    expect(x?.variants.map(({ id }) => id).slice(1)).toEqual(['x-silver', 'x-gold']);
    expect(x?.variants[0]?.content).toMatchObject([{ kind: 'heading', content: words('x-else') }]);
    const fewer = setAudiences(more, ['new', 'gold'], newId);
    expect(orders(fewer)).toEqual({ x: ['new', 'gold'], y: ['new', 'gold'], own: ['silver'] });
    expect(contentSchema.safeParse(fewer).success).toBe(true);
  });

  it('are spread to every slot without losing a variant', () => {
    const set = setAudiences(content(slot('x', 'silver', 'staff'), slot('y')), ['gold', 'silver'], newId);
    expect(orders(spreadAudiences(set, newId))).toEqual({
      x: ['gold', 'silver', 'staff'],
      y: ['gold', 'silver'],
    });
    const alike = setAudiences(content(slot('x', 'gold')), ['gold'], newId);
    expect(spreadAudiences(alike, newId)).toBe(alike);
    expect(spreadAudiences(content(slot('x')), newId)).toEqual(content(slot('x')));
  });

  it('taken away change no slot', () => {
    const set = setAudiences(content(slot('x', 'gold')), ['gold'], newId);
    expect(setAudiences(set, [], newId)).toEqual(content(slot('x', 'gold')));
  });

  it('leave out a slot inside another, which chooses among them already', () => {
    const outer = slot('outer', 'gold');
    const inner = slot('inner', 'staff');
    const [first] = outer.variants;
    const nested = content(
      { ...outer, variants: first ? [{ ...first, content: [inner] }] : [] },
      {
        kind: 'section',
        id: 'sec',
        name: '',
        tone: 'plain',
        layout: 'stack',
        children: [slot('deep', 'gold')],
      },
    );
    expect(outerSlotsOf(nested).map(({ id }) => id)).toEqual(['outer', 'deep']);
    const set = setAudiences(setAudiences(nested, ['gold'], newId), ['gold', 'new'], newId);
    expect(orders(set)).toMatchObject({ outer: ['gold', 'new'], inner: ['staff'], deep: ['gold', 'new'] });
  });

  it('are those of a new slot around blocks, each with a copy', () => {
    const set = setAudiences(content(heading('a'), heading('b'), heading('c')), ['gold', 'silver'], newId);
    const wrapped = wrapForAll(set, ['a', 'b'], 'Both', newId);
    const [slot] = slotsOf(wrapped);
    expect(orders(wrapped)).toEqual({ [slot?.id ?? '']: ['gold', 'silver'] });
    expect(slot?.otherwise.map(({ id }) => id)).toEqual(['a', 'b']);
    for (const variant of slot?.variants ?? []) expect(variant.content).toHaveLength(2);
    expect(contentSchema.safeParse(wrapped).success).toBe(true);
    expect(wrapForAll(set, ['a', 'c'], 'Apart', newId)).toBe(set);
    expect(wrapForAll(set, [], 'None', newId)).toBe(set);
    const unset = content(heading('a'));
    expect(wrapForAll(unset, ['a'], 'Unset', newId)).toBe(unset);
  });

  it('reach the words that differ inside a line', () => {
    const line: Node = {
      kind: 'heading',
      id: 'h',
      level: 2,
      content: [
        { type: 'text', text: 'Good ' },
        {
          type: 'alternatives',
          attrs: {
            id: 'w',
            name: 'greeting',
            variants: [{ id: 'wv', audience: 'gold', words: 'evening' }],
            otherwise: 'day',
          },
        },
      ],
    };
    const set = setAudiences(content(line), ['gold'], newId);
    const more = setAudiences(set, ['silver', 'gold'], newId);
    expect(orders(more)).toEqual({ w: ['silver', 'gold'] });
    expect(JSON.stringify(more.body)).toContain('"words":"day"');
  });
});
