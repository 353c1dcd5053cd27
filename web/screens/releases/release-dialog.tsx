import { useState } from 'react';
import { Link } from 'react-router';
import type { z } from 'zod';
import { type changeSchema, exampleKey, releaseSchema } from '../../../contract/releases.ts';
import { call, messageOf } from '../../data/api.ts';
import { usePending } from '../../data/data.ts';
import { noteStep } from '../../data/first-steps.ts';
import { Button } from '../../parts/button.tsx';
import { Dialog } from '../../parts/dialog.tsx';
import { TextField } from '../../parts/field.tsx';
import { Notice } from '../../parts/notice.tsx';
import { ScrollList } from '../../parts/scroll-list.tsx';
import { toast } from '../../parts/toast.tsx';
import { ImpactList } from './impact.tsx';
import { OpenFindings } from './open-findings.tsx';

type Change = z.infer<typeof changeSchema>;

/** What differs from the live site, and the one action that makes it live. */
export function ReleaseDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title="Release"
      description="Everything below goes live in one step. You can go back to an earlier release at any time."
    >
      {open && <ReleaseForm onClose={onClose} />}
    </Dialog>
  );
}

function ReleaseForm({ onClose }: { onClose: () => void }) {
  const { data: pending, mutate } = usePending();
  const [note, setNote] = useState('');
  const [accepts, setAccepts] = useState(false);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string>();
  if (!pending) return null;
  const release = async () => {
    setBusy(true);
    setProblem(undefined);
    try {
      const made = await call('POST', '/releases', releaseSchema, {
        note,
        fingerprint: pending.fingerprint,
        accepted: accepts ? pending.brokenExamples.map(exampleKey) : [],
      });
      noteStep('release');
      toast.success(`Release ${made.id} is live.`, {
        action: { label: 'Open the site', onClick: () => window.open('/site/', '_blank', 'noreferrer') },
      });
      onClose();
    } catch (error) {
      setProblem(messageOf(error));
      await mutate();
    } finally {
      setBusy(false);
    }
  };
  return (
    <div className="flex flex-col gap-3">
      {problem !== undefined && <Notice kind="wrong" title={problem} />}
      {pending.problems.length > 0 && (
        <Notice kind="wrong" title="Fix this first">
          <ul>
            {pending.problems.map((entry) => (
              <li key={`${entry.document} ${entry.message}`}>
                <strong>{entry.name}</strong>: {entry.message}
              </li>
            ))}
          </ul>
        </Notice>
      )}
      {pending.brokenExamples.length > 0 && (
        <Notice kind="wrong" title="Examples in the wrong audience">
          <ul>
            {pending.brokenExamples.map((example) => (
              <li key={exampleKey(example)}>
                {example.person} {example.isIn ? 'should be in' : 'should not be in'}{' '}
                <Link
                  to={`/audiences/${example.audience}`}
                  onClick={onClose}
                  className="font-semibold underline underline-offset-2"
                >
                  {example.name}
                </Link>{' '}
                but {example.isIn ? 'isn’t' : 'is'}.
              </li>
            ))}
          </ul>
          <label className="mt-2 flex items-center gap-2">
            <input type="checkbox" checked={accepts} onChange={(event) => setAccepts(event.target.checked)} />
            Release anyway
          </label>
        </Notice>
      )}
      {pending.changes.length === 0 ? (
        <p className="text-quiet">Nothing changed since the last release.</p>
      ) : (
        <>
          <ChangeList changes={pending.changes} />
          <OpenFindings changes={pending.changes} onLeave={onClose} />
          <ImpactList />
        </>
      )}
      <TextField
        label="Release note"
        value={note}
        maxLength={500}
        placeholder="Optional, shown in the list of releases"
        onChange={(event) => setNote(event.target.value)}
      />
      <div className="sticky -bottom-6 -mx-6 -mb-6 flex justify-end gap-2 bg-paper px-6 pb-6 pt-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="primary"
          disabled={
            busy ||
            pending.changes.length === 0 ||
            pending.problems.length > 0 ||
            (pending.brokenExamples.length > 0 && !accepts)
          }
          onClick={release}
        >
          Make it live
        </Button>
      </div>
    </div>
  );
}

export function ChangeList({ changes }: { changes: readonly Change[] }) {
  return (
    <ScrollList className="max-h-[220px] rounded-md border border-line">
      {changes.map((change) => (
        <li key={`${change.what} ${change.id}`} className="border-b border-line/60 px-3 py-2 last:border-0">
          <span className="text-quiet">{change.what === 'settings' ? '' : change.what}</span>{' '}
          <strong>{change.name}</strong>{' '}
          <span className={change.change === 'removed' ? 'text-apple' : 'text-leaf'}>{change.change}</span>
          {change.details.length > 0 && (
            <ul className="text-quiet">
              {change.details.map((detail) => (
                <li key={detail}>{detail}</li>
              ))}
            </ul>
          )}
        </li>
      ))}
    </ScrollList>
  );
}
