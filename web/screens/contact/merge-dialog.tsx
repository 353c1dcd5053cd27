import { useState } from 'react';
import { type Contact, contactSchema, type PersonRecord } from '../../../contract/people.ts';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { formatValue } from '../../../core/attributes/format.ts';
import { readValue } from '../../../core/attributes/parse.ts';
import { sameValue } from '../../../core/exchange/merge.ts';
import { call, messageOf } from '../../data/api.ts';
import { Button, TextButton } from '../../parts/button.tsx';
import { Dialog } from '../../parts/dialog.tsx';
import { PersonSearch } from '../../parts/person-search.tsx';
import { toast } from '../../parts/toast.tsx';

/** Makes one of two records of one person, attribute by attribute. */
export function MergeDialog({
  contact,
  catalogue,
  open,
  onClose,
}: {
  contact: Contact;
  catalogue: Catalogue;
  open: boolean;
  onClose: () => void;
}) {
  const [other, setOther] = useState<PersonRecord>();
  const close = () => {
    setOther(undefined);
    onClose();
  };
  return (
    <Dialog
      open={open}
      onClose={close}
      wide={other !== undefined}
      title={other ? `Merge ${other.name} into ${contact.name}` : `Merge ${contact.name} with a duplicate`}
      description="For two contacts that are the same person. The duplicate’s history, emails and account move here, and the duplicate is deleted."
    >
      {other ? (
        <Fields
          contact={contact}
          other={other}
          catalogue={catalogue}
          onBack={() => setOther(undefined)}
          onDone={close}
        />
      ) : (
        <PersonSearch
          label="Which contact is the duplicate?"
          onChoose={(person) => person.id !== contact.id && setOther(person)}
        />
      )}
    </Dialog>
  );
}

function Fields({
  contact,
  other,
  catalogue,
  onBack,
  onDone,
}: {
  contact: Contact;
  other: PersonRecord;
  catalogue: Catalogue;
  onBack: () => void;
  onDone: () => void;
}) {
  const differing = catalogue.attributes.filter(
    ({ id, source }) =>
      source === 'contact' &&
      id !== 'email' &&
      !sameValue(contact.values[id], (other.values[id] ?? null) as string | null),
  );
  const [fromOther, setFromOther] = useState(
    () => new Set(differing.filter(({ id }) => contact.values[id] === undefined).map(({ id }) => id)),
  );
  const take = (id: string, theirs: boolean) => {
    const next = new Set(fromOther);
    if (theirs) next.add(id);
    else next.delete(id);
    setFromOther(next);
  };
  const merge = async () => {
    try {
      await call('POST', `/contacts/${contact.id}/merge`, contactSchema, {
        other: other.id,
        fromOther: [...fromOther],
      });
      toast.success(`${other.email} is merged into ${contact.email}.`);
      onDone();
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  return (
    <>
      <table className="w-full">
        <thead>
          <tr className="text-left">
            <th scope="col" className="py-1 font-medium">
              Keep
            </th>
            <th scope="col" className="py-1 font-medium">
              {contact.email}
            </th>
            <th scope="col" className="py-1 font-medium">
              {other.email}
            </th>
          </tr>
        </thead>
        <tbody>
          {differing.map((attribute) => (
            <tr key={attribute.id} className="border-t border-line">
              <th scope="row" className="w-44 py-1.5 text-left font-normal text-quiet">
                {attribute.label}
              </th>
              {[contact, other].map((person) => (
                <td key={person.id} className="py-1.5">
                  <label className="flex items-baseline gap-2">
                    <input
                      type="radio"
                      name={attribute.id}
                      className="accent-leaf"
                      checked={fromOther.has(attribute.id) === (person === other)}
                      onChange={() => take(attribute.id, person === other)}
                    />
                    {words(attribute, person.values[attribute.id])}
                  </label>
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {differing.length === 0 && <p className="text-quiet">Both contacts have the same values.</p>}
      <div className="mt-4 flex items-center justify-end gap-3">
        <TextButton onClick={onBack}>Choose another contact</TextButton>
        <Button look="primary" onClick={merge}>
          Merge into {contact.email}
        </Button>
      </div>
    </>
  );
}

function words(attribute: Attribute, raw: unknown): string {
  const value = readValue(attribute, raw);
  return value === undefined ? 'no value' : formatValue(attribute, value);
}
