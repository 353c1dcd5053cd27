import { X } from 'lucide-react';
import { useState } from 'react';
import { type SendReport, sendReportSchema } from '../../../contract/mail.ts';
import type { PersonRecord } from '../../../contract/people.ts';
import type { Document } from '../../../core/documents/document.ts';
import { call, messageOf } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { useAudiences, usePending } from '../../data/data.ts';
import { Button, IconButton } from '../../parts/button.tsx';
import { Dialog } from '../../parts/dialog.tsx';
import { Notice } from '../../parts/notice.tsx';
import { PersonSearch } from '../../parts/person-search.tsx';
import { SelectField } from '../../parts/select-field.tsx';
import { SendProgress } from './send-progress.tsx';

export function SendDialog({
  open,
  onClose,
  email,
}: {
  open: boolean;
  onClose: () => void;
  email: Document;
}) {
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title={`Send “${email.name}”`}
      description="Each message is composed for its reader, from the released version."
    >
      {open && <SendForm email={email} onClose={onClose} />}
    </Dialog>
  );
}

function SendForm({ email, onClose }: { email: Document; onClose: () => void }) {
  const { data: audiences = [] } = useAudiences();
  const { data: pending } = usePending();
  const [people, setPeople] = useState<PersonRecord[]>([]);
  const [audience, setAudience] = useState('');
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string>();
  const [begun, setBegun] = useState<SendReport>();
  const changed = pending?.changes.some((change) => change.id === email.id);
  const chosen = audiences.find((other) => other.id === audience);
  const send = async () => {
    setBusy(true);
    setProblem(undefined);
    try {
      const body = {
        document: email.id,
        contacts: people.map((person) => person.id),
        audience: audience === '' ? null : audience,
      };
      setBegun(await call('POST', '/sends', sendReportSchema, body));
    } catch (error) {
      setProblem(messageOf(error));
    } finally {
      setBusy(false);
    }
  };
  if (begun) return <SendProgress begun={begun} onClose={onClose} />;
  return (
    <div className="flex flex-col gap-4">
      {changed && (
        <Notice kind="careful" title="This email has changes that are not released">
          What goes out is the version that is live.
        </Notice>
      )}
      {problem !== undefined && <Notice kind="wrong" title={problem} />}
      <div>
        <h3 className="mb-1 text-[14px]">People</h3>
        {people.length > 0 && (
          <ul className="mb-2 flex flex-wrap gap-1.5">
            {people.map((person) => (
              <li key={person.id} className="inline-flex items-center rounded-md border border-line pl-2">
                {person.name}
                <IconButton
                  label={`Remove ${person.name}`}
                  onClick={() => setPeople(people.filter((other) => other.id !== person.id))}
                >
                  <X size={13} />
                </IconButton>
              </li>
            ))}
          </ul>
        )}
        <div className="h-[190px] rounded-md border border-line p-1.5 [&>div]:max-h-full">
          <PersonSearch
            label="Add a person"
            onChoose={(person) =>
              setPeople((before) =>
                before.some((other) => other.id === person.id) ? before : [...before, person],
              )
            }
          />
        </div>
      </div>
      <SelectField
        label="Audience"
        value={audience}
        options={[
          { value: '', label: 'no audience' },
          ...audiences.map((other) => ({
            value: other.id,
            label: other.count === null ? other.name : `${other.name} (${count(other.count)})`,
          })),
        ]}
        onChange={setAudience}
      />
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button look="primary" disabled={busy || (people.length === 0 && audience === '')} onClick={send}>
          {busy ? 'Sending…' : sendLabel(people.length, chosen ? chosen.count : 0)}
        </Button>
      </div>
    </div>
  );
}

/** @param audience how many are in the audience; null where that is not counted yet */
function sendLabel(people: number, audience: number | null): string {
  if (audience === null) return 'Send to this audience';
  if (people > 0 && audience > 0) return `Send to up to ${count(people + audience)}`;
  return people + audience > 0 ? `Send to ${count(people + audience)}` : 'Send';
}
