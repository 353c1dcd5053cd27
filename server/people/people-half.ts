import { Catalogue } from '../../core/attributes/catalogue.ts';
import { fold } from '../../core/attributes/text-folding.ts';
import { type Person, Population, type PopulationImage } from '../../core/population/population.ts';
import type { Access } from '../store/hosts.ts';
import { type HeldContact, type IdRange, streamContacts } from './held-rows.ts';
import type { NamedContacts } from './kept-people.ts';
import type { Scope } from './questions.ts';
import { TextsById } from './texts-by-id.ts';

/** Some contacts as plain data. */
export interface PeopleHalf {
  /** Without its indexes. */
  readonly image: PopulationImage;
  readonly named: readonly NamedContacts[];
}

/** A stored contact as counting needs it. */
export function personIn(row: HeldContact): Person {
  const values: { [attribute: string]: unknown } =
    typeof row.values === 'string' ? JSON.parse(row.values) : row.values;
  values.email = row.email;
  return { id: row.id, values, hasAccount: row.hasAccount === 1 };
}

/** The text that a contact is searched by. */
export function searchedBy({ name, email }: HeldContact): string {
  return fold(`${name} ${email}`);
}

/**
 * Reads the contacts in a range of ids into columns.
 *
 * @param tell called with the number of contacts read, now and then
 */
export async function readHalf(
  access: Access,
  { attributes, zone }: Scope,
  range: IdRange,
  tell: (read: number) => void,
): Promise<PeopleHalf> {
  const population = new Population(new Catalogue(attributes, zone));
  const [names, found] = [new TextsById(), new TextsById()];
  let read = 0;
  await streamContacts(access, range, (row) => {
    population.put(personIn(row));
    names.set(row.id, row.name);
    found.set(row.id, searchedBy(row));
    if (++read % 10_000 === 0) tell(read);
  });
  const named = Array.from({ length: names.length }, (_, at) => ({
    names: names.blockAt(at),
    found: found.blockAt(at),
  }));
  return { image: population.image(false), named: named.filter((block) => block.names.ids.length > 0) };
}
