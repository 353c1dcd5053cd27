import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoAttributes, demoAudiences, demoDocuments, demoSettings } from '../../demo/scenario.ts';
import { attributes, noon, randomConditionOf, randomViewer, tested } from '../../test/random-conditions.ts';
import type { Viewer } from '../attributes/viewer.ts';
import { type Condition, test } from '../conditions/condition.ts';
import { Decider } from '../deciding/decide.ts';
import type { Snapshot } from '../deciding/release.ts';
import { faceKey, visibilityOf } from '../deciding/visibility.ts';
import type { Node, Slot } from '../documents/document.ts';
import { updateSlot } from '../documents/edit.ts';
import { words } from '../documents/text.ts';
import { differenceOf, pair } from './difference.ts';

const demo: Snapshot = {
  settings: demoSettings,
  attributes: demoAttributes,
  audiences: demoAudiences,
  documents: demoDocuments,
};
const home = demoDocuments[0];
if (!home) throw new Error('the demo has no page');

function differ(before: Snapshot | undefined, after: Snapshot, id = 'home') {
  const pairing = pair(before, after, id);
  return { pairing, ...differenceOf(pairing, after, noon) };
}

describe('the difference of two releases', () => {
  it('is nothing where nothing changed, nor where only names and ids did', () => {
    expect(differ(demo, demo).transitions).toEqual([]);
    const renamed = demoAudiences.map((audience) => ({ ...audience, name: `${audience.name}!` }));
    expect(differ(demo, { ...demo, audiences: renamed }).transitions).toEqual([]);
  });

  it('is everybody where the page is new, gone, or differs for all', () => {
    const without = { ...demo, documents: [] };
    expect(differ(without, demo).transitions).toHaveLength(7);
    expect(differ(undefined, demo).transitions.every(({ before }) => before === undefined)).toBe(true);
    expect(differ(demo, without).transitions.every(({ after }) => after === undefined)).toBe(true);
    const settings = { ...demoSettings, name: 'Another name' };
    expect(differ(demo, { ...demo, settings }).transitions).toHaveLength(7);
  });

  it('is exactly those who see another variant when an audience changes', () => {
    const audiences = demoAudiences.map((audience) =>
      audience.id === 'renewing' ? { ...audience, condition: test('renewal', 'within-next', 30) } : audience,
    );
    const { transitions } = differ(demo, { ...demo, audiences });
    // Staff who renew soon and come often now get the renewal card too, of both tiers.
    expect(transitions.map(({ before, after }) => [before?.join(), after?.join()])).toEqual(
      expect.arrayContaining([
        ['1,0,2', '1,0,0'],
        ['2,0,1', '2,0,0'],
      ]),
    );
    expect(transitions).toHaveLength(2);
    for (const { witness } of transitions) expect(witness.contact).toMatchObject({ roles: ['staff'] });
  });

  it('is those who get a block that was limited to some screens', () => {
    const slot = home.content.body.find((node) => node.kind === 'slot')?.id ?? '';
    const narrow = (node: Node): Node => (node.kind === 'slot' ? node : { ...node, screens: 'narrow' });
    const content = updateSlot(home.content, slot, ({ variants, ...rest }) => ({
      ...rest,
      variants: variants.map((one, index) =>
        index === 0 ? { ...one, content: one.content.map(narrow) } : one,
      ),
    }));
    const documents = [{ ...home, content }, ...demoDocuments.slice(1)];
    const { transitions } = differ(demo, { ...demo, documents });
    expect(transitions.length).toBeGreaterThan(0);
    expect(new Set(transitions.map(({ before }) => before?.[0]))).toEqual(new Set([0]));
  });

  it('is those who saw the words of a variant that reads differently', () => {
    const content = updateSlot(
      home.content,
      home.content.body.find((node) => node.kind === 'slot')?.id ?? '',
      (slot) => ({
        ...slot,
        variants: slot.variants.map((variant, index) =>
          index === 0 ? { ...variant, content: [] } : variant,
        ),
      }),
    );
    const documents = [{ ...home, content }, ...demoDocuments.slice(1)];
    const { transitions } = differ(demo, { ...demo, documents });
    expect(transitions.map(({ before }) => before?.[0])).toEqual([0]);
  });

  it('is those who may open a page no longer, or only from then on, and nobody else', () => {
    const closedTo = (audience: string, otherwise: 'sign-in' | 'not-found' = 'sign-in'): Snapshot => ({
      ...demo,
      documents: demoDocuments.map((document) =>
        document.id === 'home' ? { ...document, access: { audience, otherwise } } : document,
      ),
    });
    const decider = new Decider(demo);
    const isMidnight = (viewer: Viewer) => decider.contains('midnight-members', decider.facts(viewer));
    const openings = ({ pairing, transitions }: ReturnType<typeof differ>) =>
      transitions.map(({ before, after, witness }) => [
        pairing.opening([...(before ?? []), ...(after ?? [])]),
        isMidnight(witness),
      ]);
    const closed = openings(differ(demo, closedTo('midnight-members')));
    expect(closed.length).toBeGreaterThan(1);
    expect(new Set(closed.map(String))).toEqual(new Set(['lost,false']));
    const opened = openings(differ(closedTo('midnight-members'), demo));
    expect(new Set(opened.map(String))).toEqual(new Set(['gained,false']));
    expect(openings(differ(closedTo('midnight-members'), closedTo('midnight-members')))).toEqual([]);
    // What the others get instead is seen by the others.
    const instead = differ(closedTo('midnight-members'), closedTo('midnight-members', 'not-found'));
    expect(new Set(openings(instead).map(String))).toEqual(new Set([',false']));
    // A new page that they can't open is nothing new to them.
    const fresh = differ({ ...demo, documents: [] }, closedTo('midnight-members', 'not-found'));
    expect(new Set(openings(fresh).map(String))).toEqual(new Set([',true']));
  });

  it('holds for any two pages, audiences and viewers', () => {
    const heading = (id: string, text: string): Node => ({
      kind: 'heading',
      id,
      level: 2,
      content: words(text),
    });
    const few = fc.uniqueArray(fc.constantFrom(...tested.filter(({ source }) => source !== 'item')), {
      minLength: 1,
      maxLength: 3,
    });
    const side = few.chain((some) =>
      fc.record({
        conditions: fc.tuple(randomConditionOf(some), randomConditionOf(some)),
        texts: fc.array(fc.constantFrom('one', 'two', 'three'), { minLength: 3, maxLength: 3 }),
        order: fc.constantFrom([0, 1], [1, 0], [0]),
      }),
    );
    const snapshotOf = ({
      conditions,
      texts,
      order,
    }: {
      conditions: readonly Condition[];
      texts: readonly string[];
      order: readonly number[];
    }): Snapshot => {
      const slot: Slot = {
        kind: 'slot',
        id: 's',
        name: 's',
        variants: order.map((index) => ({
          id: `v${index}`,
          audience: `a${index}`,
          content: [heading(`h${index}`, texts[index] ?? '')],
        })),
        otherwise: [heading('else', texts[2] ?? '')],
      };
      return {
        settings: { ...demoSettings, zone: 'Europe/London' },
        attributes,
        audiences: conditions.map((condition, index) => ({
          id: `a${index}`,
          name: '',
          description: '',
          condition,
        })),
        documents: [
          {
            id: 'home',
            kind: 'page',
            name: 'Home',
            slug: '',
            content: { subject: [], preview: [], body: [slot] },
          },
        ],
      };
    };
    fc.assert(
      fc.property(
        side,
        side,
        fc.array(randomViewer, { minLength: 5, maxLength: 25 }),
        (one, two, viewers) => {
          const [before, after] = [snapshotOf(one), snapshotOf(two)];
          const { transitions, pairing } = differ(before, after);
          const seen = (snapshot: Snapshot, viewer: Viewer) => {
            const decider = new Decider(snapshot);
            const choices = decider.decide('home', decider.facts(viewer));
            const document = snapshot.documents[0];
            const [slot] = document?.content.body ?? [];
            const shown =
              slot?.kind === 'slot' ? (slot.variants[choices[0] ?? -1]?.content ?? slot.otherwise) : [];
            const [first] = shown;
            return {
              choices: visibilityOf(document?.content ?? home.content)(choices),
              text: first?.kind === 'heading' ? JSON.stringify(first.content) : '',
            };
          };
          const listed = transitions.map((change) => `${change.before?.join()} ${change.after?.join()}`);
          for (const viewer of [
            ...viewers.map((who) => ({ ...who, item: null })),
            ...transitions.map(({ witness }) => witness),
          ]) {
            const [left, right] = [seen(before, viewer), seen(after, viewer)];
            const key = `${faceKey(left.choices)} ${faceKey(right.choices)}`;
            expect(`${key}: ${listed.includes(key)}`).toBe(`${key}: ${left.text !== right.text}`);
          }
          expect(pairing.content.body).toHaveLength(2);
        },
      ),
      { numRuns: 150 },
    );
  });
});
