import { describe, expect, it } from 'vitest';
import { type Content, type Node, type Slot, slotsOf } from '../../../core/documents/document.ts';
import { words } from '../../../core/documents/text.ts';
import { slotEdits } from './slot-edits.ts';

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

/** A document with two slots, and what was asked of the screen around it. */
function panel(choice: number) {
  const [own, other] = [slot('own', 'gold', 'silver'), slot('other', 'bronze')];
  let content: Content = { subject: [], preview: [], body: [own, other] };
  const asked: unknown[] = [];
  const actions = slotEdits(own, {
    edit: (update) => {
      content = update(content);
    },
    choice,
    show: (shown) => asked.push(['show', shown]),
    force: (forced) => asked.push(['force', forced]),
    select: (selected) => asked.push(['select', selected]),
  });
  const now = (at = 0) => slotsOf(content)[at];
  return {
    actions,
    asked,
    now,
    content: () => content,
    audiences: (at = 0) => now(at)?.variants.map(({ audience }) => audience),
  };
}

describe('the panel of a slot', () => {
  it('adds a variant as a copy of what is on screen, and shows it', () => {
    const { actions, asked, now, audiences } = panel(1);
    actions.addVariant('new');
    expect(audiences()).toEqual(['gold', 'silver', 'new']);
    expect(now()?.variants[2]?.content).toMatchObject([{ kind: 'heading', content: words('own-silver-h') }]);
    expect(asked).toEqual([['force', 2]]);
    const fromElse = panel(-1);
    fromElse.actions.addVariant('new');
    expect(fromElse.now()?.variants[2]?.content).toMatchObject([{ content: words('own-else') }]);
  });

  it('moves, changes and removes variants', () => {
    const { actions, audiences, asked } = panel(0);
    actions.moveVariant('own-silver', 0);
    expect(audiences()).toEqual(['silver', 'gold']);
    actions.setAudience('own-gold', 'platinum');
    expect(audiences()).toEqual(['silver', 'platinum']);
    actions.removeVariant('own-silver');
    expect(audiences()).toEqual(['platinum']);
    actions.show(-1);
    expect(asked).toEqual([['show', -1]]);
  });

  it('gives everyone else nothing, and words again that begin as the first variant', () => {
    const { actions, now } = panel(0);
    actions.setNothing();
    expect(now()?.otherwise).toEqual([]);
    actions.writeOtherwise();
    expect(now()?.otherwise).toMatchObject([{ content: words('own-gold-h') }]);
    expect(now()?.otherwise[0]?.id).not.toBe('own-gold-h');
    actions.rename('Banner');
    expect(now()?.name).toBe('Banner');
  });

  it('dissolves into what is on screen, which is chosen then', () => {
    for (const [choice, left] of [
      [1, 'own-silver-h'],
      [-1, 'own-else'],
    ] as const) {
      const { actions, asked, content } = panel(choice);
      actions.dissolve();
      expect(content().body.map(({ id }) => id)).toEqual([left, 'other']);
      expect(asked).toEqual([['select', left]]);
    }
  });

  it('copies a variant into another slot, and takes audiences in their order', () => {
    const { actions, audiences, now } = panel(0);
    actions.copyInto('own-gold', 'other');
    expect(audiences(1)).toEqual(['bronze', 'gold']);
    actions.copyInto(null, 'other');
    expect(now(1)?.otherwise).toMatchObject([{ content: words('own-else') }]);
    actions.takeAudiences(['silver', 'new', 'gold']);
    expect(audiences()).toEqual(['silver', 'new', 'gold']);
  });
});
