import { Check, CircleAlert, X } from 'lucide-react';
import { useMemo } from 'react';
import { Link } from 'react-router';
import type { Example, ListedAudience } from '../../../contract/audiences.ts';
import { contactSchema } from '../../../contract/people.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { factsOf, type Viewer } from '../../../core/attributes/viewer.ts';
import type { Condition } from '../../../core/conditions/condition.ts';
import { Membership } from '../../../core/deciding/membership.ts';
import { useApi } from '../../data/api.ts';
import { personLabel, useLooking } from '../../data/looking.tsx';
import { Button, IconButton } from '../../parts/button.tsx';

const ownId = '\u0000own';

/** People who must be in an audience or out of it, held to the condition at every change. */
export function Examples({
  examples,
  condition,
  catalogue,
  audiences,
  onChange,
}: {
  examples: readonly Example[];
  condition: Condition;
  catalogue: Catalogue;
  audiences: readonly ListedAudience[];
  onChange: (examples: Example[]) => void;
}) {
  const { look } = useLooking();
  const membership = useMemo(
    () => new Membership(catalogue, [...audiences, { id: ownId, name: '', description: '', condition }]),
    [catalogue, audiences, condition],
  );
  const contact = look.person?.id ?? null;
  const name = look.person ? personLabel(look).name : 'An anonymous visitor';
  const pinned = examples.some((example) => example.contact === contact);
  const pin = (isIn: boolean) => onChange([...examples, { contact, name, isIn }]);
  return (
    <section aria-label="Examples" className="mt-5">
      <h2 className="mb-1 text-[16px]">Examples that must hold</h2>
      <ul>
        {examples.map((example) => (
          <ExampleRow
            key={example.contact ?? 'anonymous'}
            example={example}
            membership={membership}
            catalogue={catalogue}
            onRemove={() => onChange(examples.filter((other) => other !== example))}
          />
        ))}
      </ul>
      {pinned ? (
        <p className="mt-1 text-quiet">Look as somebody else to add another.</p>
      ) : (
        <div className="mt-1 flex flex-wrap items-center gap-2">
          <span className="min-w-0 truncate">{name}</span>
          <Button className="h-8" onClick={() => pin(true)}>
            must be in
          </Button>
          <Button className="h-8" onClick={() => pin(false)}>
            must be out
          </Button>
        </div>
      )}
    </section>
  );
}

function ExampleRow({
  example: { contact, name, isIn },
  membership,
  catalogue,
  onRemove,
}: {
  example: Example;
  membership: Membership;
  catalogue: Catalogue;
  onRemove: () => void;
}) {
  const { viewer } = useLooking();
  const { data, error } = useApi(contact === null ? null : `/contacts/${contact}`, contactSchema);
  const as: Viewer | undefined =
    contact === null
      ? { ...viewer, contact: null, signedIn: false }
      : data && { ...viewer, contact: data.values, signedIn: data.hasAccount };
  const holds = useMemo(() => {
    if (!as) return undefined;
    membership.lookAs(factsOf(catalogue, as));
    return membership.containsViewer(ownId) === isIn;
  }, [as, membership, catalogue, isIn]);
  const gone = error?.status === 404;
  return (
    <li className="flex items-center gap-2 border-b border-line py-1">
      {holds === false ? (
        <CircleAlert size={15} className="shrink-0 text-apple" aria-label="does not hold" />
      ) : (
        <Check size={15} className="shrink-0 text-leaf" aria-label={holds ? 'holds' : 'not known'} />
      )}
      <span className={`min-w-0 flex-1 truncate ${holds === false ? 'text-apple' : ''}`}>
        {contact === null || gone ? (
          name
        ) : (
          <Link to={`/people/${contact}`} className="font-medium hover:underline">
            {data?.name ?? name}
          </Link>
        )}{' '}
        {gone
          ? 'is gone'
          : holds === false
            ? `must be ${isIn ? 'in' : 'out'}, but is ${isIn ? 'out' : 'in'}`
            : `is ${isIn ? 'in' : 'out'}, as it must be`}
      </span>
      <IconButton label={`Remove ${name} from the examples`} onClick={onRemove}>
        <X size={14} />
      </IconButton>
    </li>
  );
}
