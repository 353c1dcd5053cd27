import type { PersonRecord } from '../../contract/people.ts';
import { localDay } from '../../core/attributes/calendar.ts';
import type { Catalogue } from '../../core/attributes/catalogue.ts';
import { FactReader, type Facts } from '../../core/attributes/viewer.ts';
import { type Person, personAsViewer } from '../../core/population/population.ts';
import { ContactRow, SiteAccountRow } from '../store/models.ts';

export interface KnownPerson extends Person {
  readonly name: string;
  readonly email: string;
}

/** All contacts held ready for counting, listing and serving; kept current by those who write contacts. */
export class People {
  private byId = new Map<number, KnownPerson>();
  private remembered: { catalogue: Catalogue; day: number; facts: Map<KnownPerson, Facts> } | undefined;

  async load(): Promise<void> {
    const [contacts, accounts] = await Promise.all([
      ContactRow.findAll({ raw: true, order: [['id', 'ASC']] }),
      SiteAccountRow.findAll({ raw: true, attributes: ['contactId'] }),
    ]);
    const withAccount = new Set(accounts.map((account) => account.contactId));
    this.byId = new Map(contacts.map((row) => [row.id, knownPerson(row, withAccount.has(row.id))]));
    this.remembered = undefined;
  }

  get total(): number {
    return this.byId.size;
  }

  all(): Iterable<KnownPerson> {
    return this.byId.values();
  }

  get(id: number): KnownPerson | undefined {
    return this.byId.get(id);
  }

  /** Facts of people at an instant, computed once a day and catalogue. */
  factsAt(catalogue: Catalogue, zone: string, instant: number): (person: KnownPerson) => Facts {
    const day = localDay(instant, zone);
    if (this.remembered?.catalogue !== catalogue || this.remembered.day !== day)
      this.remembered = { catalogue, day, facts: new Map() };
    const { facts } = this.remembered;
    const reader = new FactReader(catalogue);
    return (person) => {
      let known = facts.get(person);
      if (!known) {
        known = reader.read(personAsViewer(person, instant));
        facts.set(person, known);
      }
      return known;
    };
  }
}

function knownPerson(
  row: Pick<ContactRow, 'id' | 'name' | 'email' | 'values'>,
  hasAccount: boolean,
): KnownPerson {
  return {
    id: row.id,
    name: row.name,
    email: row.email,
    values: { ...row.values, email: row.email },
    hasAccount,
  };
}

export function personRecord({ id, name, email, values, hasAccount }: KnownPerson): PersonRecord {
  return { id, name, email, values, hasAccount };
}

/** The name to show for a contact: first and last name, or the address where neither is known. */
export function displayName(values: { [attribute: string]: unknown }, email: string): string {
  const parts = [values['first-name'], values['last-name']].filter(
    (part): part is string => typeof part === 'string' && part !== '',
  );
  return (parts.join(' ') || email).slice(0, 250);
}
