import { dequal } from 'dequal';
import { LRUCache } from 'lru-cache';
import { Catalogue } from '../attributes/catalogue.ts';
import type { Audience } from '../audiences/audience.ts';
import { soundFacts } from '../audiences/fact-problems.ts';
import { any, audiencesIn } from '../conditions/condition.ts';
import { Membership } from '../deciding/membership.ts';
import {
  type ByItself,
  byItself,
  type ConditionAnalysis,
  comparingIn,
  type Study,
} from './condition-analysis.ts';
import { type Limit, Work } from './diagrams/work.ts';
import { compare, type Relative, relativesInWords } from './other-audiences.ts';
import type { Drafts } from './surroundings.ts';
import { Witnesses } from './witnesses.ts';

const nobody = any();
/** Most meanings of audiences about which something is kept. */
const mostKnown = 2000;
/** Most meanings that get a number. Past that all results are forgotten, which bounds the memory. */
const mostMeanings = 20_000;

/** What was proved about an audience with some meaning. */
interface Known {
  byItself?: ByItself;
  /** Its relation to other audiences, keyed by their meaning; null where there is none worth reporting. */
  readonly others: Map<number, Relative | null>;
}

/** What all results depend on besides the audiences. A change of it starts an empty one. */
interface Ground extends Pick<Drafts, 'attributes' | 'facts'>, Pick<Study, 'catalogue' | 'instant'> {
  readonly stated: Study['facts'];
  readonly zone: string;
  readonly witnesses: Witnesses;
  /** A number for each meaning that there was. */
  readonly meanings: Map<string, number>;
  readonly known: LRUCache<number, Known>;
}

/**
 * Everything that is proved about the audiences of a workspace, as {@link analyseCondition} says it of one. What was proved is
 * kept for as long as an audience means the same, so that after an edit only the audience that was edited, and how others
 * lie to it, is looked into.
 */
export class AudienceAnalyses {
  private ground: Ground | undefined;
  private drafts: Drafts | undefined;
  private study: Study | undefined;
  /** What each audience without an error means, by its id. */
  private meanings: ReadonlyMap<string, number> = new Map();

  /**
   * @param ids the audiences that are asked about
   * @param limit for each of them
   * @returns an answer for each; without any finding for one that has an error, or that is not there
   */
  of(drafts: Drafts, ids: readonly string[], instant: number, limit: Limit = {}): ConditionAnalysis[] {
    const { ground, study } = this.turnTo(drafts, instant);
    const byId = new Map(study.audiences.map((audience) => [audience.id, audience]));
    return ids.map((id) => {
      const audience = byId.get(id);
      const meaning = this.meanings.get(id);
      return audience && meaning !== undefined
        ? this.about(audience, meaning, { ground, study }, new Work(limit))
        : { findings: [], refused: undefined };
    });
  }

  private about(
    audience: Audience,
    meaning: number,
    { ground, study }: { ground: Ground; study: Study },
    work: Work,
  ): ConditionAnalysis {
    const known: Known = ground.known.get(meaning) ?? { others: new Map() };
    ground.known.set(meaning, known);
    const own = known.byItself ?? byItself(audience, study, work);
    // What there was no time for is looked into again when it is next asked for.
    if (own.refused === undefined && own.findings.every(({ kind }) => kind !== 'not-proved'))
      known.byItself = own;
    const { findings, isComparable, refused } = own;
    if (!isComparable) return { findings, refused };
    ground.witnesses.begin(audience.id, own.examples);
    const asked: string[] = [];
    for (const [id, other] of this.meanings)
      if (id !== audience.id && !known.others.has(other)) asked.push(id);
    const { relatives, open } = compare(audience, asked, comparingIn(study, ground.witnesses, work));
    for (const id of asked) {
      const other = this.meanings.get(id);
      if (other !== undefined && !open.has(id)) known.others.set(other, relatives.get(id) ?? null);
    }
    this.forgetOthers(known);
    const worthNaming = new Map<string, Relative>();
    for (const [id, other] of this.meanings) {
      const relative = known.others.get(other);
      if (relative && id !== audience.id) worthNaming.set(id, relative);
    }
    const said = relativesInWords(audience.condition, { relatives: worthNaming, open }, work, study.names);
    return { findings: [...findings, ...said], refused };
  }

  /** Drops what is known of meanings that no audience has any more, once these are many. */
  private forgetOthers({ others }: Known): void {
    if (others.size < 2 * this.meanings.size + 100) return;
    const current = new Set(this.meanings.values());
    for (const meaning of others.keys()) if (!current.has(meaning)) others.delete(meaning);
  }

  private turnTo(drafts: Drafts, instant: number): { ground: Ground; study: Study } {
    const ground = this.groundOf(drafts, instant);
    if (this.study && this.drafts === drafts && ground === this.ground) return { ground, study: this.study };
    const { audiences } = drafts;
    const { catalogue, stated: facts } = ground;
    const membership = new Membership(catalogue, audiences);
    const names = new Map(audiences.map(({ id, name }) => [id, name]));
    const study = {
      catalogue,
      audiences,
      membership,
      facts,
      names: { catalogue, audience: (id: string) => names.get(id) },
      instant,
    };
    this.meanings = meaningsOf(audiences, membership, ground.meanings);
    ground.witnesses.follow(membership, this.meanings);
    this.ground = ground;
    this.study = study;
    this.drafts = drafts;
    return { ground, study };
  }

  private groundOf({ attributes, facts, settings: { zone } }: Drafts, instant: number): Ground {
    const { ground } = this;
    if (
      ground &&
      ground.meanings.size < mostMeanings &&
      ground.instant === instant &&
      ground.zone === zone &&
      dequal(ground.attributes, attributes) &&
      dequal(ground.facts, facts)
    )
      return ground;
    const catalogue = new Catalogue(attributes, zone);
    const stated = soundFacts(facts, catalogue);
    const witnesses = new Witnesses(catalogue, stated);
    return {
      attributes,
      facts,
      zone,
      instant,
      catalogue,
      stated,
      witnesses,
      meanings: new Map(),
      known: new LRUCache({ max: mostKnown }),
    };
  }
}

/**
 * What each audience means, as a number: its condition, and those of all that it builds on together with their names, which
 * sentences quote. Two that mean the same have the same. Audiences with an error are left out.
 *
 * @param numbered the number of each meaning that there was; new ones are added
 */
function meaningsOf(
  audiences: readonly Audience[],
  { problems }: Membership,
  numbered: Map<string, number>,
): Map<string, number> {
  const byId = new Map(audiences.map((audience) => [audience.id, audience]));
  const meanings = new Map<string, number>();
  for (const { id, condition } of audiences) {
    if (problems.has(id)) continue;
    const reached = audiencesIn(condition);
    // A set goes on to what is added while it is gone through.
    for (const other of reached)
      for (const one of audiencesIn(byId.get(other)?.condition ?? nobody)) reached.add(one);
    const below = [...reached].map((other) => [other, byId.get(other)?.name, byId.get(other)?.condition]);
    const meaning = JSON.stringify([condition, ...below]);
    const number = numbered.get(meaning) ?? numbered.size;
    numbered.set(meaning, number);
    meanings.set(id, number);
  }
  return meanings;
}
