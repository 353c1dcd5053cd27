import { Catalogue } from '../attributes/catalogue.ts';
import type { StatedFact } from '../audiences/fact.ts';
import { soundFacts } from '../audiences/fact-problems.ts';
import { Membership } from '../deciding/membership.ts';
import type { Snapshot } from '../deciding/release.ts';
import type { Names } from './finding.ts';

/** The drafts that proofs depend on. */
export type Drafts = Pick<Snapshot, 'settings' | 'attributes' | 'audiences' | 'facts'>;

export interface Surroundings {
  readonly catalogue: Catalogue;
  readonly membership: Membership;
  readonly facts: readonly StatedFact[];
  readonly names: Names;
}

const known = new WeakMap<Drafts, Surroundings>();

/** What every question about some drafts is answered with, made once for them. */
export function surroundings(drafts: Drafts): Surroundings {
  let found = known.get(drafts);
  if (!found) {
    const { attributes, audiences, settings, facts } = drafts;
    const catalogue = new Catalogue(attributes, settings.zone);
    const byId = new Map(audiences.map((audience) => [audience.id, audience.name]));
    found = {
      catalogue,
      membership: new Membership(catalogue, audiences),
      facts: soundFacts(facts, catalogue),
      names: { catalogue, audience: (id) => byId.get(id) },
    };
    known.set(drafts, found);
  }
  return found;
}
