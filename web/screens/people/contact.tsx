import { ChevronLeft, Eye } from 'lucide-react';
import { useMemo } from 'react';
import { Link, useParams } from 'react-router';
import { contactSchema } from '../../../contract/people.ts';
import { formatValue } from '../../../core/attributes/format.ts';
import { readValue } from '../../../core/attributes/parse.ts';
import { factsOf } from '../../../core/attributes/viewer.ts';
import { Membership } from '../../../core/deciding/membership.ts';
import { useApi } from '../../app/api.ts';
import { useAudiences, useCatalogue } from '../../app/data.ts';
import { useLooking } from '../../app/looking.tsx';
import { saidInstant } from '../../app/moment.ts';
import { Button } from '../../parts/button.tsx';
import { Empty } from '../../parts/notice.tsx';
import { Initials } from '../../parts/person.tsx';

export function Component() {
  const { id = '' } = useParams();
  const { data: contact, error } = useApi(`/contacts/${encodeURIComponent(id)}`, contactSchema);
  const catalogue = useCatalogue();
  const { data: audiences = [] } = useAudiences();
  const { look, viewer, lookAs } = useLooking();
  const memberOf = useMemo(() => {
    if (!contact || !catalogue) return [];
    const membership = new Membership(catalogue, audiences);
    const asPerson = { ...viewer, contact: contact.values, signedIn: contact.hasAccount };
    membership.lookAs(factsOf(catalogue, asPerson));
    return audiences.filter((audience) => membership.containsViewer(audience.id));
  }, [contact, catalogue, audiences, viewer]);
  if (error)
    return (
      <div className="p-8">
        <Empty title={error.message}>
          <Link to="/people" className="underline">
            All people
          </Link>
        </Empty>
      </div>
    );
  if (!contact || !catalogue) return null;
  const attributes = catalogue.attributes.filter((attribute) => attribute.source === 'contact');
  return (
    <div className="grid h-full grid-cols-[1fr_340px]">
      <div className="overflow-y-auto px-7 py-5">
        <Link to="/people" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
          <ChevronLeft size={15} aria-hidden /> All people
        </Link>
        <div className="mt-1 flex items-center gap-3">
          <Initials name={contact.name} large />
          <div>
            <h1 className="text-[26px] leading-8">{contact.name}</h1>
            <p className="text-quiet">{contact.email}</p>
          </div>
        </div>
        <h2 className="mb-1 mt-5 text-[16px]">Attributes</h2>
        <dl className="grid grid-cols-2 gap-x-10">
          {attributes.map((attribute) => {
            const value = readValue(attribute, contact.values[attribute.id]);
            return (
              <div key={attribute.id} className="flex items-baseline gap-3 border-b border-line py-1.5">
                <dt className="w-36 shrink-0 text-quiet">{attribute.label}</dt>
                <dd className={value === undefined ? 'text-quiet' : 'min-w-0 break-words font-medium'}>
                  {value === undefined ? 'no value' : formatValue(attribute, value)}
                </dd>
              </div>
            );
          })}
        </dl>
      </div>
      <aside aria-label="What this person is in" className="overflow-y-auto border-l border-line px-5 py-5">
        <Button
          look={look.person?.id === contact.id ? 'plain' : 'primary'}
          disabled={look.person?.id === contact.id}
          icon={<Eye size={16} aria-hidden />}
          className="w-full"
          onClick={() => lookAs(contact)}
        >
          {look.person?.id === contact.id ? 'You look as this person' : 'Look as this person'}
        </Button>
        <dl className="mt-5 flex flex-col gap-1">
          <div className="flex justify-between">
            <dt className="text-quiet">Account on the site</dt>
            <dd>{contact.hasAccount ? 'yes' : 'no'}</dd>
          </div>
          <div className="flex justify-between">
            <dt className="text-quiet">Email</dt>
            <dd>
              {contact.unsubscribedAt ? `stopped ${saidInstant(contact.unsubscribedAt)}` : 'may be sent'}
            </dd>
          </div>
          <div className="flex justify-between">
            <dt className="text-quiet">Last changed</dt>
            <dd>{saidInstant(contact.updatedAt)}</dd>
          </div>
        </dl>
        <h2 className="mb-2 mt-6 text-[16px]">
          In {memberOf.length} {memberOf.length === 1 ? 'audience' : 'audiences'}
        </h2>
        <ul className="flex flex-col gap-1.5">
          {memberOf.map((audience) => (
            <li key={audience.id}>
              <Link
                to={`/audiences/${audience.id}`}
                className="block rounded-md border border-line bg-paper px-3 py-2 font-medium hover:border-edge"
              >
                {audience.name}
              </Link>
            </li>
          ))}
        </ul>
        {memberOf.length === 0 && <p className="text-quiet">No audience contains this person.</p>}
        <p className="mt-3 text-quiet">
          {contact.hasAccount
            ? 'Decided as signed in.'
            : 'Decided as recognised; there is no account to sign in with.'}
        </p>
      </aside>
    </div>
  );
}
