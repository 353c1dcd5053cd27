import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoSnapshot } from '../../demo/scenario.ts';
import { noon } from '../../test/random-conditions.ts';
import type { Viewer } from '../attributes/viewer.ts';
import { all, inAudience, not, test } from '../conditions/condition.ts';
import type { Snapshot } from '../deciding/release.ts';
import { type Document, walkContent } from '../documents/document.ts';
import { CompiledSnapshot } from '../rendering/compiled.ts';
import { changedAudiences } from './changed-audiences.ts';
import { Comparison } from './comparison.ts';
import { whatMayDiffer } from './may-differ.ts';

const compare = (before: Snapshot | undefined, after: Snapshot) =>
  new Comparison(before, after, noon, new Map());
const compared = (before: Snapshot | undefined, after: Snapshot) =>
  compare(before, after).documents.map(({ id }) => id);
const withAudience = (id: string, change: Partial<Snapshot['audiences'][number]>): Snapshot => ({
  ...demoSnapshot,
  audiences: demoSnapshot.audiences.map((one) => (one.id === id ? { ...one, ...change } : one)),
});
const withDocument = (id: string, change: (document: Document) => Document): Snapshot => ({
  ...demoSnapshot,
  documents: demoSnapshot.documents.map((one) => (one.id === id ? change(one) : one)),
});
const heading = (words: string) => ({
  kind: 'heading' as const,
  id: 'new',
  level: 2 as const,
  content: [{ type: 'text' as const, text: words }],
});
const withWords = (words: string) => (document: Document) => ({
  ...document,
  content: { ...document.content, body: [...document.content.body, heading(words)] },
});
/** Documents without lists: changes of list entries are reported per item, not per page. */
const someDocuments = demoSnapshot.documents.filter(
  ({ kind, content }) =>
    kind !== 'shared' && [...walkContent(content)].every(({ node }) => node.kind !== 'list'),
);

describe('a comparison', () => {
  it('works out nothing where nothing that anybody sees is another', () => {
    expect(compared(demoSnapshot, structuredClone(demoSnapshot))).toEqual([]);
    expect(
      compared(demoSnapshot, withAudience('midnight-members', { name: 'M', description: 'new' })),
    ).toEqual([]);
  });

  it('works out the one page that reads differently, and everything at the first release', () => {
    expect(compared(demoSnapshot, withDocument('home', withWords('New')))).toEqual(['home']);
    expect(new Set(compared(undefined, demoSnapshot))).toEqual(
      new Set(['menu', ...demoSnapshot.documents.map(({ id }) => id), ...itemIds()]),
    );
  });

  it('needs no more than what may differ, which is little', () => {
    const after = withDocument('home', withWords('New'));
    const lean = whatMayDiffer(demoSnapshot, after);
    const filled = lean.after.documents.filter(({ content }) => content.body.length > 0);
    expect(filled.map(({ id }) => id)).toEqual(['home']);
    expect(lean.after.items).toEqual([]);
    const [whole, less] = [compare(demoSnapshot, after), compare(lean.before, lean.after)];
    expect(less.documents).toEqual(whole.documents);
    const faces = whole.documents.map(() => []);
    expect(less.changes(faces)).toEqual(whole.changes(faces));
  });

  it('says of each document who gets which face of it, however many nobody gets', () => {
    const after = withDocument('home', withWords('New'));
    const comparison = compare(demoSnapshot, after);
    const [home] = comparison.documents;
    const slots = home?.slots.after.length ?? 0;
    // A face that nobody was proved to get is counted all the same where somebody does.
    const choices = [...Array(slots * 2)].map(() => -1);
    const [changes] = comparison.changes([[{ choices, count: 12, contact: 7 }]]);
    expect(changes?.contacts).toBe(12);
    expect(changes?.anonymous).toBe(true);
    expect(changes?.changes[0]).toEqual({
      before: choices.slice(slots),
      after: choices.slice(slots),
      opening: undefined,
      contacts: 12,
      contact: 7,
    });
    const rest = changes?.changes.slice(1) ?? [];
    expect(rest.length).toBeGreaterThan(0);
    expect(rest.every(({ contacts, contact }) => contacts === 0 && contact === null)).toBe(true);
  });

  it('lists the most frequent changes only, and says so', () => {
    const comparison = compare(demoSnapshot, withDocument('home', withWords('New')));
    const slots = comparison.documents[0]?.slots.after.length ?? 0;
    const faces = [...Array(45)].map((_, at) => ({
      choices: [...Array(slots * 2)].map((__, index) => (index % slots === 0 ? at : -1)),
      count: 100 - at,
      contact: at,
    }));
    const [changes] = comparison.changes([faces]);
    expect(changes?.changes).toHaveLength(40);
    expect(changes?.complete).toBe(false);
    expect(changes?.contacts).toBe(faces.reduce((sum, { count }) => sum + count, 0));
  });
});

describe('an audience has other people', () => {
  const changed = (after: Snapshot) => [...changedAudiences(demoSnapshot, after)].sort();
  const builtOn = (id: string): Snapshot => ({
    ...demoSnapshot,
    audiences: [
      ...demoSnapshot.audiences,
      { id: 'first', name: 'First', description: '', condition: not(inAudience(id)) },
      { id: 'second', name: 'Second', description: '', condition: all(inAudience('first')) },
    ],
  });

  it('with its own condition, and with that of one that it builds on, however far', () => {
    const before = builtOn('midnight-members');
    const condition = test('tier', 'is-one-of', 'twilight');
    const after = {
      ...before,
      audiences: before.audiences.map((one) => (one.id === 'midnight-members' ? { ...one, condition } : one)),
    };
    const found = changedAudiences(before, after);
    expect(found).toContain('midnight-members');
    expect(found).toContain('first');
    expect(found).toContain('second');
    expect(found).not.toContain('dusk-members');
  });

  it('with an attribute that it asks for, and with the time zone', () => {
    const attributes = demoSnapshot.attributes.map((one) =>
      one.id === 'tier' && 'choices' in one ? { ...one, choices: one.choices.slice(1) } : one,
    );
    const found = changed({ ...demoSnapshot, attributes });
    expect(found).toContain('midnight-members');
    expect(found).not.toContain('newsletter-readers');
    expect(changed({ ...demoSnapshot, settings: { ...demoSnapshot.settings, zone: 'Asia/Tokyo' } })).toEqual(
      demoSnapshot.audiences.map(({ id }) => id).sort(),
    );
  });

  it('that is new or gone', () => {
    expect(changed(builtOn('midnight-members'))).toEqual(['first', 'second']);
    const audiences = demoSnapshot.audiences.filter(({ id }) => id !== 'midnight-members');
    expect(changed({ ...demoSnapshot, audiences })).toContain('midnight-members');
  });
});

// The renderer is the oracle: it knows nothing of comparisons.
describe('what is left out of a comparison', () => {
  const ids = demoSnapshot.audiences.map(({ id }) => id);
  const edits = fc.oneof(
    fc.record({
      audience: fc.constantFrom(...ids),
      tier: fc.constantFrom('dusk', 'twilight', 'midnight'),
    }),
    fc.record({ document: fc.constantFrom(...someDocuments.map(({ id }) => id)), words: fc.string() }),
    fc.record({ zone: fc.constantFrom('UTC', 'Asia/Tokyo') }),
  );
  const viewers: Viewer[] = [null, 'dusk', 'twilight', 'midnight'].flatMap((tier) =>
    [true, false].map((signedIn) => ({
      contact: tier === null ? null : { tier, 'first-name': 'Nell', newsletter: signedIn },
      signedIn: tier !== null && signedIn,
      visit: { 'visit-device': 'phone' },
      item: null,
      instant: noon,
    })),
  );

  it('is the same for everybody, as it is served', () => {
    const seen = { left: 0, other: 0 };
    fc.assert(
      fc.property(fc.array(edits, { minLength: 1, maxLength: 3 }), (made) => {
        let after = demoSnapshot;
        for (const edit of made) {
          const { audience, tier, document, words, zone } = { ...none, ...edit };
          if (zone) after = { ...after, settings: { ...after.settings, zone } };
          after = {
            ...after,
            audiences: after.audiences.map((one) =>
              one.id === audience ? { ...one, condition: test('tier', 'is-one-of', tier) } : one,
            ),
            documents: after.documents.map((one) => (one.id === document ? withWords(words)(one) : one)),
          };
        }
        const [left, right] = [demoSnapshot, after].map(
          (one) => new CompiledSnapshot(one, 'http://127.0.0.1'),
        );
        const inIt = new Set(compared(demoSnapshot, after));
        const lean = whatMayDiffer(demoSnapshot, after);
        expect(new Set(compared(lean.before, lean.after))).toEqual(inIt);
        for (const { id, kind } of someDocuments)
          for (const viewer of viewers) {
            const of = (site: CompiledSnapshot | undefined) =>
              kind === 'email'
                ? site?.emails.compose(id, viewer, 'http://127.0.0.1/stop').html
                : withoutMenu(JSON.stringify(site?.pages.named(id, viewer)));
            const differs = of(left) !== of(right);
            if (differs) seen.other++;
            else seen.left++;
            if (!inIt.has(id)) expect([id, differs]).toEqual([id, false]);
          }
      }),
      { numRuns: 25, seed: 1 },
    );
    expect(seen.other).toBeGreaterThan(20);
    expect(seen.left).toBeGreaterThan(20);
  });
});

const none = { audience: '', tier: '', document: '', words: '', zone: '' };

function withoutMenu(html: string | undefined): string | undefined {
  return html?.replace(/<nav class=\\"site-menu\\".*?<\/nav>/g, '');
}

function itemIds(): string[] {
  return (demoSnapshot.items ?? [])
    .filter(({ from, until }) => (from ?? '') <= new Date(noon).toISOString() && until === null)
    .map(({ id }) => id);
}
