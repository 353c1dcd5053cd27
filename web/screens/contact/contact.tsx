import { ChevronLeft, Eye, Merge, Pencil, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { type Contact, contactSchema, erasedSchema } from '../../../contract/people.ts';
import type { Attribute, Value } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { formatValue } from '../../../core/attributes/format.ts';
import { readValue } from '../../../core/attributes/parse.ts';
import { call, messageOf, useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { useCatalogue } from '../../data/data.ts';
import { useLooking } from '../../data/looking.tsx';
import { saidInstant } from '../../data/moment.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Button } from '../../parts/button.tsx';
import { Confirm } from '../../parts/confirm.tsx';
import { Empty } from '../../parts/notice.tsx';
import { Initials } from '../../parts/person.tsx';
import { toast } from '../../parts/toast.tsx';
import { ValueEditor } from '../../parts/value/value-editor.tsx';
import { History } from './history.tsx';
import { MemberOf } from './member-of.tsx';
import { MergeDialog } from './merge-dialog.tsx';
import { Sees } from './sees.tsx';

export function Component() {
  const { id = '' } = useParams();
  const path = `/contacts/${encodeURIComponent(id)}`;
  const { data: contact, error, mutate } = useApi(path, contactSchema);
  const catalogue = useCatalogue();
  useTabTitle(contact?.name);
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
  if (!contact || !catalogue || contact.id !== Number(id)) return null;
  const change = async (change: { values?: { [attribute: string]: unknown }; mail?: boolean }) => {
    if (change.mail !== undefined) {
      // A tick shows at once.
      const unsubscribedAt = change.mail ? null : new Date().toISOString();
      void mutate({ ...contact, unsubscribedAt }, { revalidate: false });
    }
    try {
      const stored = await call('PUT', path, contactSchema, { ...change, updatedAt: contact.updatedAt });
      await mutate(stored, { revalidate: false });
    } catch (error) {
      toast.error(messageOf(error));
      await mutate();
    }
  };
  return (
    <div className="grid h-full grid-cols-1 wide:grid-cols-[1fr_380px]">
      <div className="overflow-y-auto px-7 py-5">
        <Link to="/people" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
          <ChevronLeft size={15} aria-hidden /> All people
        </Link>
        <div className="mt-1 flex items-center gap-3">
          <Initials name={contact.name} large />
          <div className="min-w-0">
            <h1 className="truncate text-[26px] leading-8">{contact.name}</h1>
            <p className="text-quiet">
              {contact.email}
              {contact.externalId !== null && ` · external ID ${contact.externalId}`}
            </p>
          </div>
          <Actions contact={contact} catalogue={catalogue} />
        </div>
        <h2 className="mb-1 mt-5 text-[16px]">Attributes</h2>
        <Values
          key={contact.id}
          contact={contact}
          catalogue={catalogue}
          onStore={(id, value) => change({ values: { [id]: value } })}
        />
        <History path={path} catalogue={catalogue} />
      </div>
      <aside aria-label="What this person gets" className="overflow-y-auto border-l border-line px-5 py-5">
        <LookButton contact={contact} />
        <dl className="mt-4 flex flex-col gap-1">
          <div className="flex justify-between">
            <dt className="text-quiet">Account on the site</dt>
            <dd>{contact.hasAccount ? 'yes' : 'no'}</dd>
          </div>
          <div className="flex items-baseline justify-between">
            <dt className="text-quiet">Mail</dt>
            <dd>
              <label className="flex items-baseline gap-2">
                {contact.unsubscribedAt ? `stopped ${saidInstant(contact.unsubscribedAt)}` : 'may be sent'}
                <input
                  type="checkbox"
                  aria-label="Can be emailed"
                  className="accent-leaf"
                  checked={contact.unsubscribedAt === null}
                  onChange={(event) => change({ mail: event.target.checked })}
                />
              </label>
            </dd>
          </div>
          <div className="flex justify-between">
            <dt className="text-quiet">Last changed</dt>
            <dd>{saidInstant(contact.updatedAt)}</dd>
          </div>
        </dl>
        <Sees path={path} />
        <MemberOf contact={contact} catalogue={catalogue} />
      </aside>
    </div>
  );
}

function LookButton({ contact }: { contact: Contact }) {
  const { look, lookAs } = useLooking();
  const looking = look.person?.id === contact.id;
  return (
    <Button
      look={looking ? 'plain' : 'primary'}
      disabled={looking}
      icon={<Eye size={16} aria-hidden />}
      className="w-full"
      onClick={() => lookAs(contact)}
    >
      {looking ? 'You look as this person' : 'Look as this person'}
    </Button>
  );
}

/** So many attributes without a value are shown without being asked for. */
const mostBlank = 4;

/** What is known of a contact; what is not is folded away, where it is much. */
function Values({
  contact,
  catalogue,
  onStore,
}: {
  contact: Contact;
  catalogue: Catalogue;
  onStore: (attribute: string, value: Value | null) => void;
}) {
  // What has had a value on this screen stays where it is, so that nothing moves while it is edited.
  const [first] = useState(contact.values);
  const own = catalogue.attributes.filter(({ source }) => source === 'contact');
  const isKnown = ({ id }: Attribute) => first[id] !== undefined || contact.values[id] !== undefined;
  const blank = own.filter((attribute) => !isKnown(attribute));
  const folds = blank.length > mostBlank;
  const list = (attributes: readonly Attribute[]) => (
    <dl className="grid grid-cols-1 wide:grid-cols-2 gap-x-10">
      {attributes.map((attribute) => (
        <Entry
          key={attribute.id}
          attribute={attribute}
          raw={contact.values[attribute.id]}
          onStore={(value) => onStore(attribute.id, value)}
        />
      ))}
    </dl>
  );
  return (
    <>
      {list(folds ? own.filter(isKnown) : own)}
      {folds && (
        <details className="mt-2">
          <summary className="cursor-pointer py-1 text-quiet hover:text-ink">
            {count(blank.length)} attributes without a value
          </summary>
          {list(blank)}
        </details>
      )}
    </>
  );
}

/** One attribute with its value, which is edited where it stands. */
function Entry({
  attribute,
  raw,
  onStore,
}: {
  attribute: Attribute;
  raw: unknown;
  onStore: (value: Value | null) => void;
}) {
  const [editing, setEditing] = useState(false);
  const value = readValue(attribute, raw);
  const fixed = attribute.id === 'email';
  const words = value === undefined ? 'no value' : formatValue(attribute, value);
  const look = value === undefined ? 'text-quiet' : 'font-medium';
  return (
    <div className="flex min-h-9 items-baseline gap-3 border-b border-line py-0.5">
      <dt className="w-36 shrink-0 text-quiet first-letter:uppercase">{attribute.label}</dt>
      <dd className="flex min-w-0 flex-1">
        {fixed && <span className={`py-1.5 ${look}`}>{words}</span>}
        {!fixed && editing && (
          <ValueEditor
            attribute={attribute}
            value={value}
            onStore={(next) => {
              setEditing(false);
              onStore(next);
            }}
            onLeave={() => setEditing(false)}
          />
        )}
        {!fixed && !editing && (
          <button
            type="button"
            aria-label={`Edit ${attribute.label}: ${words}`}
            onClick={() => setEditing(true)}
            className={`group -mx-2 flex min-w-0 flex-1 items-baseline gap-2 rounded-md px-2 py-1.5 text-left hover:bg-paper ${look}`}
          >
            <span className="min-w-0 break-words">{words}</span>
            <Pencil
              size={13}
              aria-hidden
              className="shrink-0 self-center text-quiet opacity-0 group-hover:opacity-100 group-focus-visible:opacity-100"
            />
          </button>
        )}
      </dd>
    </div>
  );
}

function Actions({ contact, catalogue }: { contact: Contact; catalogue: Catalogue }) {
  const navigate = useNavigate();
  const [asking, setAsking] = useState<'merge' | 'erase'>();
  const erase = async () => {
    try {
      const erased = await call('DELETE', `/contacts/${contact.id}`, erasedSchema);
      const parts = [
        `${count(erased.changes)} entries of history`,
        `${count(erased.deliveries)} deliveries`,
        `${count(erased.messages)} messages`,
        ...(erased.account ? ['the account on the site'] : []),
        ...(erased.files > 0 ? [`${count(erased.files)} files of imports`] : []),
      ];
      toast.success(`${contact.name} is erased, with ${parts.join(', ')}.`, { duration: 10_000 });
      void navigate('/people');
    } catch (error) {
      setAsking(undefined);
      toast.error(messageOf(error));
    }
  };
  return (
    <span className="ml-auto flex gap-2">
      <Button look="quiet" icon={<Merge size={15} aria-hidden />} onClick={() => setAsking('merge')}>
        Merge duplicate…
      </Button>
      <Button look="danger" icon={<Trash2 size={15} aria-hidden />} onClick={() => setAsking('erase')}>
        Erase…
      </Button>
      <MergeDialog
        contact={contact}
        catalogue={catalogue}
        open={asking === 'merge'}
        onClose={() => setAsking(undefined)}
      />
      <Confirm
        open={asking === 'erase'}
        title={`Erase ${contact.name}?`}
        description="The contact goes, with its history, the mail that was sent to it, its account on the site, and the files it was imported from. This can’t be undone."
        action="Erase permanently"
        onConfirm={erase}
        onClose={() => setAsking(undefined)}
      />
    </span>
  );
}
