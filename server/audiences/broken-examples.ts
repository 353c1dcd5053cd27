import type { StoredAudience } from '../../contract/audiences.ts';
import type { BrokenExample } from '../../contract/releases.ts';
import type { Viewer } from '../../core/attributes/viewer.ts';
import type { Decider } from '../../core/deciding/decide.ts';
import { type People, personAsViewer } from '../people/people.ts';

/** The examples of audiences that do not hold: people who are in and must be out, or the other way round. */
export async function brokenExamples(
  audiences: readonly StoredAudience[],
  decider: Decider,
  people: People,
  instant: number,
): Promise<BrokenExample[]> {
  const ids = new Set(audiences.flatMap(({ examples }) => examples.flatMap(({ contact }) => contact ?? [])));
  const known = new Map((await people.find([...ids])).map((person) => [person.id, person]));
  const anonymous: Viewer = { contact: null, signedIn: false, visit: {}, item: null, instant };
  return audiences.flatMap(({ id, name, examples }) =>
    examples.flatMap(({ contact, name: person, isIn }): BrokenExample[] => {
      const found = contact === null ? undefined : known.get(contact);
      // A contact that is gone is neither in nor out.
      if (contact !== null && !found) return [];
      const viewer = found ? personAsViewer(found, instant) : anonymous;
      return decider.contains(id, decider.facts(viewer)) === isIn
        ? []
        : [{ audience: id, name, contact, person: found?.name ?? person, isIn }];
    }),
  );
}
