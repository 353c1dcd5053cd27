import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { audience, few, settings } from '../../test/drafted-audiences.ts';
import { attributes, noon, randomConditionOf } from '../../test/random-conditions.ts';
import type { Audience } from '../audiences/audience.ts';
import { all, any, inAudience, not, test } from '../conditions/condition.ts';
import { AudienceAnalyses } from './audience-analyses.ts';
import { analyseCondition } from './condition-analysis.ts';
import type { Drafts } from './surroundings.ts';

const drafted = (...audiences: Audience[]): Drafts => ({ attributes, settings, audiences, facts: [] });
const unlimited = { time: 60_000 };

/** What is found of all audiences by somebody who knows nothing from before. */
function anew(drafts: Drafts, instant: number) {
  return drafts.audiences.map(({ id, condition }) =>
    analyseCondition(drafts, condition, id, instant, unlimited),
  );
}

const idsOf = ({ audiences }: Drafts) => audiences.map(({ id }) => id);
const sentences = (findings: readonly { sentence: string }[]) => findings.map(({ sentence }) => sentence);

/** One thing after another that is done to the drafts. */
const edits = fc.array(
  fc.oneof(
    fc.record({ kind: fc.constant('condition' as const), at: fc.nat(20), condition: randomConditionOf(few) }),
    fc.record({ kind: fc.constant('built on' as const), at: fc.nat(20), other: fc.nat(20) }),
    fc.record({ kind: fc.constant('name' as const), at: fc.nat(20), name: fc.constantFrom('Old', 'New') }),
    fc.record({ kind: fc.constant('delete' as const), at: fc.nat(20) }),
    fc.record({ kind: fc.constant('add' as const), condition: randomConditionOf(few) }),
    fc.record({ kind: fc.constant('label' as const), label: fc.constantFrom('tier', 'level') }),
    fc.record({ kind: fc.constant('fact' as const), is: fc.boolean() }),
    fc.record({ kind: fc.constant('later' as const) }),
  ),
  { minLength: 6, maxLength: 10 },
);
type Edit = (typeof edits extends fc.Arbitrary<infer Edits> ? Edits : never)[number];

function edited(drafts: Drafts, edit: Edit, turn: number): Drafts {
  const { audiences } = drafts;
  const place = 'at' in edit ? edit.at % Math.max(1, audiences.length) : -1;
  const changed = (change: (one: Audience) => Audience) => ({
    ...drafts,
    audiences: audiences.map((one, at) => (at === place ? change(one) : one)),
  });
  switch (edit.kind) {
    case 'condition':
      return changed((one) => ({ ...one, condition: edit.condition }));
    case 'built on': {
      // One that comes before, so that there is no circle.
      const [other] = audiences.slice(0, place).filter((_, at) => at >= edit.other % Math.max(1, place));
      const condition = all(test('vip', 'is-yes'), ...(other ? [inAudience(other.id)] : []));
      return changed((one) => ({ ...one, condition }));
    }
    case 'name':
      return changed((one) => ({ ...one, name: `${edit.name} ${one.id}` }));
    case 'delete':
      return { ...drafts, audiences: audiences.filter((_, at) => at !== place) };
    case 'add':
      return { ...drafts, audiences: [...audiences, audience(`added ${turn}`, edit.condition)] };
    case 'label':
      return {
        ...drafts,
        attributes: attributes.map((one) => (one.id === 'tier' ? { ...one, label: edit.label } : one)),
      };
    case 'fact': {
      const fact = { id: 'told', who: all(), also: test('vip', 'has-value') };
      return { ...drafts, facts: edit.is ? [fact] : [] };
    }
    case 'later':
      return drafts;
  }
}

describe('all audiences of a workspace', () => {
  it('after any edits, are found to be what they are found to be anew', () => {
    const start = fc.array(randomConditionOf(few), { minLength: 3, maxLength: 7 });
    fc.assert(
      fc.property(start, edits, (conditions, steps) => {
        const kept = new AudienceAnalyses();
        let drafts = drafted(...conditions.map((condition, at) => audience(`a${at}`, condition)));
        let instant = noon;
        for (const [turn, edit] of steps.entries()) {
          drafts = edited(drafts, edit, turn);
          if (edit.kind === 'later') instant += 600_000;
          // A copy, as it comes from another thread.
          const found = kept.of(structuredClone(drafts), idsOf(drafts), instant, unlimited);
          expect(found).toEqual(anew(drafts, instant));
        }
      }),
      { numRuns: 25 },
    );
  });

  it('says something else of an audience where one that it builds on changed, or is called otherwise', () => {
    const kept = new AudienceAnalyses();
    const ask = (vips: Audience) => {
      const drafts = drafted(
        vips,
        audience('both', all(inAudience('vips'), test('tier', 'has-value'))),
        audience('tiered', test('tier', 'has-value')),
      );
      return kept.of(drafts, ['both'], noon, unlimited).flatMap(({ findings }) => sentences(findings));
    };
    expect(ask(audience('vips', test('vip', 'is-yes')))).toEqual(['Always part of “tiered”.']);
    expect(ask(audience('vips', test('tier', 'has-value'), 'Friends'))).toEqual([
      '“Friends” changes nothing: the same people are in it without.',
      'The same people as “Friends”, always.',
      'The same people as “tiered”, always.',
    ]);
    expect(ask(audience('vips', test('tier', 'has-value'), 'Patrons'))[0]).toMatch(/^“Patrons”/);
    expect(ask(audience('vips', test('vip', 'is-yes')))).toEqual(['Always part of “tiered”.']);
  });

  it('tells two audiences with the same condition apart where a third builds on one of them', () => {
    const drafts = drafted(
      audience('one', test('vip', 'is-yes')),
      audience('two', test('vip', 'is-yes')),
      audience('third', all(inAudience('one'), test('tier', 'has-value'))),
    );
    const [, , third] = new AudienceAnalyses().of(drafts, idsOf(drafts), noon, unlimited);
    expect(sentences(third?.findings ?? [])).toEqual(['Always part of “two”.']);
  });

  it('has no answer for what is not there, and none for an audience with an error', () => {
    const drafts = drafted(audience('broken', inAudience('gone')), audience('whole', test('vip', 'is-yes')));
    const nothing = { findings: [], refused: undefined };
    expect(new AudienceAnalyses().of(drafts, ['broken', 'gone'], noon)).toEqual([nothing, nothing]);
  });

  it('looks again into what there was no time for', () => {
    const kept = new AudienceAnalyses();
    const drafts = drafted(
      audience('small', all(test('vip', 'is-yes'), test('tier', 'has-value'))),
      audience('large', any(test('vip', 'is-yes'), not(test('tier', 'has-value')))),
    );
    const [late] = kept.of(drafts, ['small'], noon, { time: -1 });
    expect(late?.findings.map(({ kind }) => kind)).toEqual(['not-proved']);
    const [found] = kept.of(drafts, ['small'], noon, unlimited);
    expect(sentences(found?.findings ?? [])).toEqual(['Always part of “large”.']);
  });
});
