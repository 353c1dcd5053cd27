import { Link } from 'react-router';
import { type SendReport, sendReportSchema } from '../../../contract/mail.ts';
import { useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { Button } from '../../parts/button.tsx';
import { Notice } from '../../parts/notice.tsx';
import { ProgressBar } from '../../parts/progress-bar.tsx';

/** How far a send is, and what came of it. It goes on when this is closed. */
export function SendProgress({ begun, onClose }: { begun: SendReport; onClose: () => void }) {
  const { data: report = begun } = useApi(`/sends/${begun.id}`, sendReportSchema);
  const { isFinished, job, recipients, sent, waiting, refused, unsure } = report;
  const runs = !isFinished && job !== null;
  const notSent = refused.length + unsure.length;
  return (
    <div className="flex flex-col gap-3">
      {runs ? (
        <div>
          <p role="status">
            {recipients === 0 ? 'Finding the recipients…' : `${count(sent)} of ${count(recipients)} sent`}
          </p>
          <div className="mt-2">
            <ProgressBar
              label="Sending progress"
              done={recipients === 0 ? 0 : (recipients - waiting) / recipients}
            />
          </div>
          <p className="mt-2 text-quiet">
            You can close this. Sending goes on, and Activity shows how far it is.
          </p>
        </div>
      ) : (
        <Notice
          kind={isFinished && notSent === 0 ? 'note' : 'careful'}
          title={
            notSent === 0
              ? `${count(sent)} ${sent === 1 ? 'message' : 'messages'} sent.`
              : `${count(sent)} sent, ${count(notSent)} not`
          }
        >
          {waiting > 0 && (
            <p>
              {count(waiting)} wait: the mail server did not take them. Run the job again under{' '}
              <Link to="/activity" className="underline">
                Activity
              </Link>
              .
            </p>
          )}
          <ul className="max-h-60 overflow-y-auto">
            {refused.map(({ email, reason }) => (
              <li key={email}>
                {email}: {reason}
              </li>
            ))}
            {unsure.map((email) => (
              <li key={email}>{email}: may have got it; the server ended while it was handed over</li>
            ))}
          </ul>
        </Notice>
      )}
      <div className="flex justify-end gap-2">
        {!runs && sent > 0 && (
          <Link
            to="/mailbox"
            className="inline-flex h-9 items-center rounded-md border border-line px-3 hover:border-edge"
          >
            Open mailbox
          </Link>
        )}
        <Button look="primary" onClick={onClose}>
          {runs ? 'Close' : 'Done'}
        </Button>
      </div>
    </div>
  );
}
