import { useMemo } from 'react';
import { Link } from 'react-router';
import type { Contact } from '../../../contract/people.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { factsOf } from '../../../core/attributes/viewer.ts';
import { explain } from '../../../core/conditions/explain.ts';
import { Membership } from '../../../core/deciding/membership.ts';
import { audienceNames, useAudiences } from '../../data/data.ts';
import { useLooking } from '../../data/looking.tsx';
import { ExplanationTree } from '../documents/why-line.tsx';

/** The audiences that a contact is in, each with the reason. */
export function MemberOf({ contact, catalogue }: { contact: Contact; catalogue: Catalogue }) {
  const { data: audiences = [] } = useAudiences();
  const { viewer } = useLooking();
  const memberOf = useMemo(() => {
    const membership = new Membership(catalogue, audiences);
    const facts = factsOf(catalogue, { ...viewer, contact: contact.values, signedIn: contact.hasAccount });
    membership.lookAs(facts);
    const conditionOf = (id: string) => audiences.find((audience) => audience.id === id)?.condition;
    return audiences
      .filter((audience) => membership.containsViewer(audience.id))
      .map((audience) => ({
        audience,
        explanation: explain(audience.condition, facts, catalogue, conditionOf),
      }));
  }, [contact, catalogue, audiences, viewer]);
  return (
    <section aria-label="Audiences this person is in" className="mt-6">
      <h2 className="mb-1 text-[16px]">
        In {memberOf.length} {memberOf.length === 1 ? 'audience' : 'audiences'}
      </h2>
      <ul>
        {memberOf.map(({ audience, explanation }) => (
          <li key={audience.id} className="border-b border-line py-1.5">
            <Link to={`/audiences/${audience.id}`} className="font-medium hover:underline">
              {audience.name}
            </Link>
            <details>
              <summary className="cursor-pointer text-quiet">why</summary>
              <ExplanationTree explanation={explanation} nameOf={audienceNames(audiences)} />
            </details>
          </li>
        ))}
      </ul>
      {memberOf.length === 0 && <p className="text-quiet">No audience contains this person.</p>}
      <p className="mt-3 text-quiet">
        {contact.hasAccount
          ? 'Decided as signed in.'
          : 'Decided as recognised; there is no account to sign in with.'}
      </p>
    </section>
  );
}
