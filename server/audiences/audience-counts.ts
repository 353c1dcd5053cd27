import type { Comparison, Count, Counts, OverTime } from '../../contract/audiences.ts';
import { aboutToday, type TodayFinding } from '../../core/analysis/today.ts';
import { instantOf, isoDate, localDay, localTime } from '../../core/attributes/calendar.ts';
import type { Audience } from '../../core/audiences/audience.ts';
import { attributesIn, type Condition } from '../../core/conditions/condition.ts';
import { validate } from '../../core/conditions/validate.ts';
import { withoutGaps } from '../../core/conditions/without-gaps.ts';
import { Membership } from '../../core/deciding/membership.ts';
import type { Channel } from '../../core/documents/document.ts';
import { newId } from '../ids.ts';
import type { People } from '../people/people.ts';
import { notFound } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';

const daysAhead = 30;
const crossingShown = 20;
/** Most parts of one condition that are counted each by itself. */
const mostParts = 200;

/** How many people, and who, are in conditions: saved ones, and those that are being written. */
export class AudienceCounts {
  constructor(
    private readonly people: People,
    private readonly drafts: Drafts,
  ) {}

  /** Who comes into a condition and who leaves it in the days to come, through time alone. */
  async overTime(condition: Condition, editing: string | null): Promise<OverTime> {
    const { snapshot, catalogue } = await this.drafts.decider();
    const id = editing ?? newId();
    const edited: Audience = { id, name: 'this audience', description: '', condition };
    const audiences = [...snapshot.audiences.filter((audience) => audience.id !== id), edited];
    if (new Membership(catalogue, audiences).problems.has(id)) return { days: [] };
    const { zone } = snapshot.settings;
    const now = Date.now();
    const today = localDay(now, zone);
    const { minute } = localTime(now, zone);
    // The same time of each day, so that a day more or less is all that differs.
    const days = Array.from({ length: daysAhead + 1 }, (_, ahead) => today + ahead);
    const steps = await this.people.asks.changes(
      this.people.scopeOf(snapshot),
      days.map((day) => ({ instant: instantOf({ day, minute }, zone), channel: 'page' })),
      condition,
      crossingShown,
    );
    const people = await this.people.find([
      ...new Set(steps.flatMap(({ entering, leaving }) => [...entering.ids, ...leaving.ids])),
    ]);
    const names = new Map(people.map(({ id: person, name }) => [person, name]));
    const named = (ids: readonly number[]) =>
      ids.map((person) => ({ id: person, name: names.get(person) ?? '' }));
    return {
      days: steps.map(({ count, entering, leaving }, index) => ({
        date: isoDate(days[index] ?? 0),
        count,
        entering: entering.count,
        leaving: leaving.count,
        comers: named(entering.ids),
        leavers: named(leaving.ids),
      })),
    };
  }

  /** Who is in a condition, saved or not. A condition with problems counts nobody and says why. */
  async count(condition: Condition, editing: string | null): Promise<Count> {
    const { snapshot, catalogue } = await this.drafts.decider();
    const { asks } = this.people;
    const id = editing ?? newId();
    const edited: Audience = { id, name: 'this audience', description: '', condition };
    const audiences = [...snapshot.audiences.filter((audience) => audience.id !== id), edited];
    const membership = new Membership(catalogue, audiences);
    const problems = [...(membership.problems.get(id) ?? [])];
    const scope = this.people.scopeOf(snapshot);
    const asked: Condition = problems.length > 0 ? { kind: 'any', of: [] } : condition;
    const tested = [...attributesIn(condition)].filter((one) => catalogue.get(one)?.source === 'contact');
    const now = this.people.now();
    const parts = problems.length > 0 ? [] : [...partsOf(condition)].slice(0, mostParts);
    const onlyLacking: Condition = {
      kind: 'all',
      of: [withoutGaps(asked, (id) => catalogue.get(id)?.source === 'contact'), { kind: 'not', of: asked }],
    };
    const others = snapshot.audiences.filter((one) => one.id !== id && !membership.problems.has(one.id));
    const names = new Map(snapshot.audiences.map((audience) => [audience.id, audience.name]));
    // Beside a condition that counts nobody, or everybody, there is nothing to say of today.
    const isGroup = condition.kind === 'all' || condition.kind === 'any';
    const today =
      problems.length > 0 || (isGroup && condition.of.length === 0)
        ? undefined
        : aboutToday(condition, others, { catalogue, audience: (one) => names.get(one) });
    const [[count = 0, leftOut = 0, ...passing], lacking, total, todays] = await Promise.all([
      asks.count(scope, now, [asked, onlyLacking, ...parts.map(({ part }) => part)]),
      asks.lacking(scope, tested),
      asks.total(),
      today && this.people.held ? asks.count(scope, now, today.conditions) : [],
    ]);
    return {
      count,
      total,
      problems,
      lacking: tested
        .map((attribute, index) => ({ attribute, count: lacking[index] ?? 0 }))
        .filter(({ count }) => count > 0),
      leftOut,
      parts: parts.map(({ path }, index) => ({ path, count: passing[index] ?? 0 })),
      today: todays.length === 0 ? [] : (today?.read(todays) ?? []).map(shown),
    };
  }

  /** How many are in each of some conditions; one with a problem counts nobody. */
  async counts(conditions: readonly Condition[], channel: Channel): Promise<Counts> {
    const { snapshot, catalogue } = await this.drafts.decider();
    const ids = new Set(snapshot.audiences.map(({ id }) => id));
    const sound = conditions.map((condition): Condition => {
      const problems = validate(condition, { catalogue, hasAudience: (id) => ids.has(id) });
      return problems.length > 0 ? { kind: 'any', of: [] } : condition;
    });
    const { asks } = this.people;
    const [counts, total] = await Promise.all([
      asks.count(this.people.scopeOf(snapshot), this.people.now(channel), sound),
      asks.total(),
    ]);
    return { counts, total };
  }

  /** How some audiences share contacts. */
  async compare(ids: readonly string[]): Promise<Comparison> {
    const { snapshot } = await this.drafts.decider();
    for (const id of ids)
      if (!snapshot.audiences.some((audience) => audience.id === id)) throw notFound('audience');
    const scope = this.people.scopeOf(snapshot);
    const now = this.people.now();
    // A slot for each audience: its faces are the combinations.
    const body = ids.map((audience, index) => ({
      kind: 'slot' as const,
      id: `s${index}`,
      name: audience,
      variants: [{ id: `v${index}`, audience, content: [] }],
      otherwise: [],
    }));
    const [faces, sizes, total] = await Promise.all([
      this.people.asks.faces(scope, now, { subject: [], preview: [], body }),
      this.people.asks.count(
        scope,
        now,
        ids.map((audience) => ({ kind: 'audience', audience })),
      ),
      this.people.asks.total(),
    ]);
    const kinds = faces.map(({ choices, count }) => ({ isIn: choices.map((choice) => choice === 0), count }));
    return { total, sizes, kinds };
  }
}

function shown({ kind, severity, sentence, repairs }: TodayFinding): Count['today'][number] {
  return { kind, severity, sentence, repairs: [...repairs] };
}

/** Every part of a condition with its path, from the outside in. */
function* partsOf(condition: Condition, path = ''): Generator<{ path: string; part: Condition }> {
  if (path !== '') yield { path, part: condition };
  if (condition.kind === 'not') yield* partsOf(condition.of, join(path, 'of'));
  if (condition.kind === 'all' || condition.kind === 'any')
    for (const [index, part] of condition.of.entries()) yield* partsOf(part, join(path, `of.${index}`));
}

function join(path: string, step: string): string {
  return path === '' ? step : `${path}.${step}`;
}
