import { describe, expect, it } from 'vitest';
import { analyseCondition } from '../../core/analysis/condition-analysis.ts';
import { analyseDocument } from '../../core/analysis/document-analysis.ts';
import { severities } from '../../core/analysis/finding.ts';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { type Facts, factsOf, type Viewer } from '../../core/attributes/viewer.ts';
import { all, any, type Condition, inAudience } from '../../core/conditions/condition.ts';
import { Decider } from '../../core/deciding/decide.ts';
import { Membership } from '../../core/deciding/membership.ts';
import type { Content, Document, Node } from '../../core/documents/document.ts';
import { contentSchema, slotsOf } from '../../core/documents/document.ts';
import { words } from '../../core/documents/text.ts';
import { Random } from '../../demo/random.ts';
import { demoSettings } from '../../demo/scenario.ts';
import {
  attributes,
  now,
  type RandomDocument,
  randomDocument,
  type Theme,
  tagIds,
  tierIds,
} from './random-documents.ts';

/** How many documents and conditions are tried; DOCUMENTS=10000 for a long run. */
const tried = Number(process.env.DOCUMENTS ?? 300);
const themes: readonly Theme[] = ['tags', 'orders', 'tier', 'city', 'renewal', 'moment', 'signed-in'];
const rank = (severity: (typeof severities)[number]) => severities.indexOf(severity);

/** Viewers of every kind, at moments spread over a year. */
function viewers(seed: number, count: number): Viewer[] {
  const random = new Random(seed);
  return Array.from({ length: count }, () => {
    const values: { [id: string]: unknown } = {};
    if (random.chance(0.8)) values.tier = random.pick(tierIds as [string, ...string[]]);
    if (random.chance(0.8)) values.tags = [tagIds[random.between(0, 9)] ?? '', 't20'];
    if (random.chance(0.8)) values.orders = random.between(-1, 9);
    if (random.chance(0.8)) values.city = random.pick(['a', 'b', 'ab', 'ba', 'aba', 'x', 'xab']);
    if (random.chance(0.8))
      values.renewal = new Date(now + random.between(-40, 400) * 86_400_000).toISOString().slice(0, 10);
    const contact = random.chance(0.85) ? values : null;
    return {
      contact,
      signedIn: contact !== null && random.chance(0.6),
      visit: {},
      item: null,
      instant: now + random.between(0, 400 * 96) * 900_000,
    };
  });
}

/** The same document with words in every variant, so that each says something else, and holes here and there. */
function written({ content }: RandomDocument, seed: number): Content {
  const random = new Random(seed);
  let count = 0;
  const fill = (nodes: readonly Node[]): Node[] => [
    ...(random.chance(0.8)
      ? Array.from({ length: random.between(1, 2) }, () => {
          const id = `h${count++}`;
          return { kind: 'heading' as const, id, level: 2 as const, content: words(`Words ${count}`) };
        })
      : []),
    ...nodes.map((node) =>
      node.kind === 'slot'
        ? {
            ...node,
            variants: node.variants.map((variant) => ({ ...variant, content: fill(variant.content) })),
            otherwise: fill(node.otherwise),
          }
        : node,
    ),
  ];
  return { subject: [], preview: [], body: fill(content.body) };
}

/** What a viewer reads, slot by slot. */
function read(content: Content, choiceOf: (slot: string) => number): string {
  const say = (nodes: readonly Node[]): string =>
    nodes
      .map((node) => {
        if (node.kind === 'slot') return say(node.variants[choiceOf(node.id)]?.content ?? node.otherwise);
        return node.kind === 'heading' ? JSON.stringify(node.content) : '';
      })
      .join('');
  return say(content.body);
}

describe('every repair that is offered', () => {
  it('of a document removes its finding, brings nothing worse, and changes exactly whom it says', {
    timeout: 3_600_000,
  }, () => {
    let repairs = 0;
    for (let seed = 1; seed <= tried; seed++) {
      const random = randomDocument(seed, themes);
      const content = written(random, seed);
      const drafts = {
        settings: { ...demoSettings, zone: random.zone },
        attributes: [...attributes],
        audiences: [...random.audiences],
      };
      const documentOf = (made: Content): Document => ({
        id: 'd',
        kind: 'page',
        name: 'd',
        slug: 'd',
        content: made,
        access: random.access === undefined ? null : { audience: random.access, otherwise: 'not-found' },
      });
      const { findings } = analyseDocument(drafts, documentOf(content), now, {});
      const people = viewers(seed, 60);
      const readBy = (made: Content) => {
        const decider = new Decider({ ...drafts, documents: [documentOf(made)] });
        return people.map((viewer) => {
          const choices = decider.decide('d', decider.facts(viewer));
          const places = new Map(slotsOf(made).map(({ id }, index) => [id, choices[index] ?? -1]));
          return read(made, (slot) => places.get(slot) ?? -1);
        });
      };
      const isIn = checker(drafts, people);
      const mayOpen = random.access === undefined ? people.map(() => true) : isIn(inAudience(random.access));
      for (const finding of findings)
        for (const repair of finding.repairs) {
          repairs++;
          const said = `seed ${seed} ${finding.kind} ${repair.label}`;
          expect(contentSchema.safeParse(repair.content).error?.issues, said).toBeUndefined();
          const after = analyseDocument(drafts, documentOf(repair.content), now, {}).findings;
          const place = ({ kind, slot, variant, block }: typeof finding) =>
            [kind, slot, variant, block].join();
          expect(after.map(place), said).not.toContain(place(finding));
          const worse = (of: typeof findings) =>
            of.filter((one) => rank(one.severity) < rank(finding.severity)).length;
          expect(worse(after), said).toBeLessThanOrEqual(worse(findings));
          const [before, next] = [readBy(content), readBy(repair.content)];
          const changes = repair.changes === null ? people.map(() => false) : isIn(repair.changes);
          for (const [index, change] of changes.entries())
            if (mayOpen[index])
              expect(`${said} ${index} ${before[index] !== next[index]}`).toBe(`${said} ${index} ${change}`);
        }
    }
    expect(repairs).toBeGreaterThan(tried / 3);
  });

  it('of a condition removes its finding, brings nothing worse, and lets exactly those in and out that it says', {
    timeout: 3_600_000,
  }, () => {
    let repairs = 0;
    for (let seed = 1; seed <= tried; seed++) {
      const random = randomDocument(50_000 + seed, themes);
      const [first, second, third] = random.audiences;
      if (!first || !second) continue;
      // Contradictions, repetitions and empty groups are rare by chance.
      const parts = [first.condition, second.condition, ...(third ? [third.condition] : [])];
      const shapes: Condition[] = [
        all(...parts),
        any(...parts, all(...parts)),
        all(...parts, any()),
        any(...parts, all()),
        all(first.condition, { kind: 'not', of: first.condition }),
        all(first.condition, any(first.condition, second.condition)),
      ];
      const condition = shapes[seed % shapes.length] ?? all();
      const drafts = {
        settings: { ...demoSettings, zone: random.zone },
        attributes: [...attributes],
        audiences: [...random.audiences],
      };
      const { findings } = analyseCondition(drafts, condition, null, now, {});
      const people = viewers(seed, 60);
      const isIn = checker(drafts, people);
      for (const finding of findings)
        for (const repair of finding.repairs) {
          repairs++;
          const said = `seed ${seed} ${finding.kind} ${repair.label} ${JSON.stringify(condition)}`;
          const after = analyseCondition(drafts, repair.condition, null, now, {}).findings;
          expect(
            after.map(({ kind, sentence }) => kind + sentence),
            said,
          ).not.toContain(finding.kind + finding.sentence);
          const worse = (of: typeof findings) =>
            of.filter((one) => rank(one.severity) < rank(finding.severity)).length;
          expect(worse(after), said).toBeLessThanOrEqual(worse(findings));
          const [before, next] = [isIn(condition), isIn(repair.condition)];
          const joins = repair.joins === null ? people.map(() => false) : isIn(repair.joins);
          const leaves = repair.leaves === null ? people.map(() => false) : isIn(repair.leaves);
          for (const index of people.keys()) {
            expect([said, index, !before[index] && next[index]]).toEqual([said, index, joins[index]]);
            expect([said, index, before[index] && !next[index]]).toEqual([said, index, leaves[index]]);
          }
        }
    }
    expect(repairs).toBeGreaterThan(tried / 3);
  });
});

/** Which of some viewers are in a condition. */
function checker(
  drafts: { settings: { zone: string }; audiences: RandomDocument['audiences'] },
  people: readonly Viewer[],
): (condition: Condition) => boolean[] {
  const catalogue = new Catalogue(attributes, drafts.settings.zone);
  const facts: Facts[] = people.map((viewer) => factsOf(catalogue, viewer));
  return (condition) => {
    const asked = { id: 'asked', name: '', description: '', condition };
    const membership = new Membership(catalogue, [...drafts.audiences, asked]);
    return facts.map((of) => {
      membership.lookAs(of);
      return membership.containsViewer('asked');
    });
  };
}
