import { facesOf } from '../../core/analysis/faces.ts';
import { World } from '../../core/analysis/world.ts';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { inAudience, test } from '../../core/conditions/condition.ts';
import { Decider } from '../../core/deciding/decide.ts';
import { visibilityOf } from '../../core/deciding/visibility.ts';
import { audiencesOf } from '../../core/documents/uses.ts';
import { demoSettings } from '../../demo/scenario.ts';
import { attributes, end, now, type RandomDocument } from './random-documents.ts';

export interface ProvedFaces {
  /** The combinations of choices, as texts, in order. */
  readonly faces: readonly string[];
  readonly complete: boolean;
  /** Those whose invented viewer gets something else. */
  readonly wrong: readonly string[];
}

/** What the analysis says that a document can show within two years from now. */
export function provedFaces(document: RandomDocument): ProvedFaces {
  const audiences = [...document.audiences];
  const settings = { ...demoSettings, zone: document.zone };
  const decider = new Decider({
    settings,
    attributes: [...attributes],
    audiences,
    documents: [{ id: 'd', kind: 'page', name: 'd', slug: 'd', content: document.content }],
  });
  const last = new Date(end + 900_000);
  const world = new World({
    catalogue: new Catalogue(attributes, document.zone),
    membership: decider.membership,
    audiences,
    used: audiencesOf(document.content),
    channel: 'page',
    instant: now,
    given: [
      test('moment', 'before', localText(last, document.zone)),
      ...(document.access === undefined ? [] : [inAudience(document.access)]),
    ],
  });
  const { faces, complete } = facesOf(document.content, world);
  const visible = visibilityOf(document.content);
  return {
    faces: faces.map(({ choices }) => choices.join()).sort(),
    complete,
    wrong: faces.flatMap(({ choices, witness }) => {
      const got = visible(decider.decide('d', decider.facts(witness))).join();
      return got === choices.join() ? [] : [`${choices.join()}: ${got}`];
    }),
  };
}

/** What clocks show, as conditions write it. */
function localText(date: Date, zone: string): string {
  return new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short', timeStyle: 'short' })
    .format(date)
    .replace(' ', 'T');
}
