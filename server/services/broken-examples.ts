import type { BrokenExample } from '../../contract/releases.ts';
import type { Decider } from '../../core/deciding/decide.ts';
import { AudienceRow } from '../store/models.ts';
import { type People, personAsViewer } from './people.ts';

/** The examples of audiences that do not hold: people who are in and must be out, or the other way round. */
export async function brokenExamples(
  decider: Decider,
  people: People,
  instant: number,
): Promise<BrokenExample[]> {
  const rows = await AudienceRow.findAll({
    attributes: ['id', 'name', 'examples'],
    order: [['name', 'ASC']],
  });
  const found: BrokenExample[] = [];
  for (const { id, name, examples } of rows)
    for (const { contact, name: person, isIn } of examples) {
      const known = contact === null ? null : await people.get(contact);
      // Whoever is gone is neither in nor out.
      if (known === undefined) continue;
      const viewer = known
        ? personAsViewer(known, instant)
        : { contact: null, signedIn: false, visit: {}, item: null, instant };
      if (decider.contains(id, decider.facts(viewer)) !== isIn)
        found.push({ audience: id, name, contact, person: known?.name ?? person, isIn });
    }
  return found;
}

/** What a broken example is known by where somebody says that it may stay so. */
export function exampleKey({ audience, contact, isIn }: Omit<BrokenExample, 'name' | 'person'>): string {
  return `${audience} ${contact ?? 'anonymous'} ${isIn ? 'in' : 'out'}`;
}
