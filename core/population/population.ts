import type { Facts, Viewer } from '../attributes/viewer.ts';
import type { Membership } from '../deciding/membership.ts';

/** A contact as counting needs it. */
export interface Person {
  readonly id: number;
  readonly values: { readonly [attribute: string]: unknown };
  /** With a site account a person counts as signed in, without one as recognised. */
  readonly hasAccount: boolean;
}

/** A person as a viewer at an instant (milliseconds since 1970 UTC). */
export function personAsViewer(person: Person, instant: number): Viewer {
  return { contact: person.values, signedIn: person.hasAccount, visit: {}, item: null, instant };
}

/**
 * The members of several audiences among people, in the people's order.
 *
 * @param factsOf the facts of a person; the caller may remember them
 */
export function membersOf<Of extends Person>(
  people: Iterable<Of>,
  audienceIds: readonly string[],
  membership: Membership,
  factsOf: (person: Of) => Facts,
): Map<string, Of[]> {
  const members = new Map(audienceIds.map((id): [string, Of[]] => [id, []]));
  const indexes = audienceIds.map((id) => [membership.indexOf(id), members.get(id) ?? []] as const);
  for (const person of people) {
    membership.lookAs(factsOf(person));
    for (const [index, list] of indexes) if (membership.contains(index)) list.push(person);
  }
  return members;
}
