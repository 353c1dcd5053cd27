import { Link } from 'react-router';
import { type ListedJob, listedJobsSchema } from '../../../contract/jobs.ts';
import { callWithoutAnswer, messageOf, useApi } from '../../data/api.ts';
import { saidInstant } from '../../data/moment.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Button } from '../../parts/button.tsx';
import { Empty } from '../../parts/notice.tsx';
import { ProgressBar } from '../../parts/progress-bar.tsx';
import { toast } from '../../parts/toast.tsx';

const cell = 'border-b border-line/60 px-3 py-2 align-baseline';
const percent = new Intl.NumberFormat('en-GB', { style: 'percent' });

/** What is done in the background: what runs, waits, ran and failed. */
export function Component() {
  const { data } = useApi('/jobs', listedJobsSchema);
  useTabTitle('Activity');
  if (!data) return null;
  // What a dialog showed right away is nothing to come back to.
  const isShown = ({ key, status }: ListedJob) => status !== 'done' || !key?.startsWith('impact-');
  const once = data.filter((job) => job.every === null && isShown(job));
  const repeated = data.filter(({ every }) => every !== null);
  return (
    <div className="h-full overflow-y-auto px-6 py-5">
      <h1 className="text-[26px] leading-8">Activity</h1>
      <p className="text-quiet">Background jobs: running, finished and scheduled</p>
      <div className="mt-4 max-w-5xl">
        {once.length === 0 ? (
          <Empty title="No activity yet">
            Imports, large exports, CRM syncs and emails that are being sent are listed here.
          </Empty>
        ) : (
          <JobTable label="Jobs" jobs={once} />
        )}
        {repeated.length > 0 && (
          <>
            <h2 className="mb-2 mt-8 text-[18px]">Scheduled</h2>
            <JobTable label="Scheduled" jobs={repeated} />
          </>
        )}
      </div>
    </div>
  );
}

function JobTable({ label, jobs }: { label: string; jobs: readonly ListedJob[] }) {
  return (
    <table aria-label={label} className="w-full rounded-md border border-line bg-paper">
      <thead>
        <tr>
          {['What', 'Status', 'By', 'When'].map((title) => (
            <th key={title} scope="col" className={`${cell} text-left font-medium`}>
              {title}
            </th>
          ))}
          <th scope="col" className={cell}>
            <span className="sr-only">Actions</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {jobs.map((job) => (
          <tr key={job.id}>
            <td className={`${cell} font-semibold`}>
              <Title job={job} />
            </td>
            <td className={cell}>
              <Status job={job} />
            </td>
            <td className={`${cell} text-quiet`}>{job.accountName || 'Apple Porch'}</td>
            <td className={`${cell} whitespace-nowrap text-quiet`}>{whenOf(job)}</td>
            <td className={`${cell} w-32 text-right`}>
              <Actions job={job} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What it is, leading to what it is for. */
function Title({ job: { key, title } }: { job: ListedJob }) {
  const [, imported] = /^import-(\d+)$/.exec(key ?? '') ?? [];
  const to =
    imported !== undefined ? `/people/import/${imported}` : key === 'crm-sync' ? '/people/sync' : null;
  return to === null ? (
    title
  ) : (
    <Link to={to} className="hover:underline">
      {title}
    </Link>
  );
}

function Status({ job: { status, progress, failure, attempts, isStopping } }: { job: ListedJob }) {
  return (
    <>
      <span className={status === 'failed' ? 'text-apple' : status === 'done' ? 'text-leaf' : ''}>
        {isStopping && status === 'running' ? 'Stopping' : words[status]}
        {status === 'running' && progress !== null && ` ${percent.format(progress)}`}
        {attempts > 1 && `, try ${attempts}`}
      </span>
      {status === 'running' && progress !== null && (
        <div className="mt-1 w-40">
          <ProgressBar label="Progress" done={progress} />
        </div>
      )}
      {failure && status !== 'done' && <p className="max-w-md text-[13px] text-quiet">{failure}</p>}
    </>
  );
}

const words: { [status in ListedJob['status']]: string } = {
  waiting: 'Waiting',
  running: 'Running',
  done: 'Done',
  failed: 'Failed',
  stopped: 'Stopped',
};

/** The instant that matters most. */
function whenOf({ status, every, createdAt, startedAt, finishedAt, runAfter }: ListedJob): string {
  if (every !== null) return `next ${saidInstant(runAfter)}`;
  if (status === 'waiting' && startedAt !== null) return `again ${saidInstant(runAfter)}`;
  return saidInstant(finishedAt ?? startedAt ?? createdAt);
}

function Actions({ job: { id, title, status, file, every, isStopping } }: { job: ListedJob }) {
  const act = async (what: 'stop' | 'again') => {
    try {
      await callWithoutAnswer('POST', `/jobs/${id}/${what}`);
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  if (every === null && (status === 'running' || status === 'waiting'))
    return (
      <Button className="h-8" disabled={isStopping} onClick={() => act('stop')} aria-label={`Stop: ${title}`}>
        Stop
      </Button>
    );
  if (file !== null)
    return (
      <a
        href={`/api${file}`}
        download
        aria-label={`Download: ${title}`}
        className="inline-flex h-8 items-center rounded-md border border-line bg-paper px-3 hover:border-edge"
      >
        Download
      </a>
    );
  if (status === 'failed' || status === 'stopped')
    return (
      <Button className="h-8" onClick={() => act('again')} aria-label={`Run again: ${title}`}>
        Run again
      </Button>
    );
  return null;
}
