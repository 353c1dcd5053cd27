import { ChevronLeft, FileUp } from 'lucide-react';
import { type DragEvent, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { type Import, importSchema, largestImport } from '../../../contract/imports.ts';
import { encodingWords } from '../../../core/exchange/encoding.ts';
import { call, callWithoutAnswer, messageOf, useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { useCatalogue } from '../../data/data.ts';
import { upload } from '../../data/files.ts';
import { noteStep } from '../../data/first-steps.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { TextButton } from '../../parts/button.tsx';
import { Empty, Notice } from '../../parts/notice.tsx';
import { Columns } from './columns.tsx';
import { EarlierImports } from './earlier.tsx';
import { EverybodyGets } from './everybody-gets.tsx';
import { KnownPeople } from './known-people.tsx';
import { Outcome } from './outcome.tsx';
import { isRunning } from './status.ts';
import { usePlan } from './use-plan.ts';

const kindWords = { csv: 'CSV', vcard: 'vCard', 'json-lines': 'JSON Lines' };

export function Component() {
  const { id } = useParams();
  const navigate = useNavigate();
  const [problem, setProblem] = useState<string>();
  const [sending, setSending] = useState(false);
  const { data: one } = useApi(id === undefined ? null : `/imports/${encodeURIComponent(id)}`, importSchema);
  const isChange = one?.change != null;
  useTabTitle(isChange ? 'Edit people' : 'Import people');
  const choose = async (file: File | undefined) => {
    if (!file) return;
    setProblem(undefined);
    if (file.size > largestImport)
      return setProblem(
        `The file is larger than ${largestImport / 1024 / 1024} MB. Split it and import the parts.`,
      );
    setSending(true);
    try {
      const made = await upload(`/imports?name=${encodeURIComponent(file.name)}`, file, importSchema);
      void navigate(`/people/import/${made.id}`);
    } catch (error) {
      setProblem(messageOf(error));
    } finally {
      setSending(false);
    }
  };
  return (
    <div className="h-full overflow-y-auto px-7 py-5">
      <Link to="/people" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
        <ChevronLeft size={15} aria-hidden /> All people
      </Link>
      <div className="mt-1 flex items-center gap-6">
        <h1 className="text-[26px] leading-8">{isChange ? 'Edit people' : 'Import people'}</h1>
        {id !== undefined && !isChange && <FileField small sending={sending} onChoose={choose} />}
      </div>
      {problem !== undefined && (
        <div className="mt-4 max-w-2xl">
          <Notice kind="wrong" title={problem}>
            Nothing was imported.
          </Notice>
        </div>
      )}
      {id === undefined ? (
        <>
          <FileField sending={sending} onChoose={choose} />
          <EarlierImports />
        </>
      ) : (
        <OneImport key={id} id={id} />
      )}
    </div>
  );
}

/** Where a file is chosen, or dropped. */
function FileField({
  small = false,
  sending,
  onChoose,
}: {
  small?: boolean;
  sending: boolean;
  onChoose: (file: File | undefined) => void;
}) {
  const [over, setOver] = useState(false);
  const drop = {
    onDragOver: (event: DragEvent) => {
      event.preventDefault();
      setOver(true);
    },
    onDragLeave: () => setOver(false),
    onDrop: (event: DragEvent) => {
      event.preventDefault();
      setOver(false);
      onChoose(event.dataTransfer.files[0]);
    },
  };
  const words = sending ? 'Sending…' : small ? 'Choose another file' : 'Choose a file, or drop it here';
  return (
    <label
      {...drop}
      className={`cursor-pointer items-center rounded-md border border-dashed bg-paper focus-within:outline-2 hover:border-ink ${over ? 'border-leaf bg-leaf-wash' : 'border-edge'} ${small ? 'inline-flex gap-2 px-3 py-1.5' : 'mt-4 flex h-44 max-w-3xl flex-col justify-center gap-2'}`}
    >
      <FileUp size={small ? 15 : 28} aria-hidden />
      <span className={small ? '' : 'text-[18px] font-semibold'}>{words}</span>
      {!small && (
        <span className="text-quiet">
          CSV from a spreadsheet, contact cards (.vcf), or JSON Lines. Nothing is stored before you say so.
        </span>
      )}
      <input
        type="file"
        accept=".csv,.tsv,.txt,.vcf,.jsonl,.ndjson,text/csv,text/plain,text/vcard"
        className="sr-only"
        disabled={sending}
        onChange={(event) => {
          onChoose(event.target.files?.[0]);
          event.target.value = '';
        }}
      />
    </label>
  );
}

function OneImport({ id }: { id: string }) {
  const path = `/imports/${encodeURIComponent(id)}`;
  const {
    data: stored,
    error,
    mutate,
  } = useApi(path, importSchema, {
    again: (latest) => (isRunning(latest) ? 250 : 0),
  });
  const catalogue = useCatalogue();
  const navigate = useNavigate();
  const [problem, setProblem] = useState<string>();
  const act = async (request: Promise<Import>): Promise<boolean> => {
    setProblem(undefined);
    try {
      await mutate(await request, { revalidate: false });
      return true;
    } catch (error) {
      setProblem(messageOf(error));
      await mutate().catch(() => undefined);
      return false;
    }
  };
  const { data, change } = usePlan(stored, (plan) => act(call('PUT', `${path}/plan`, importSchema, plan)));
  if (error)
    return (
      <div className="mt-6">
        <Empty title={error.message} />
      </div>
    );
  if (!data || !catalogue) return null;
  const forget = async () => {
    try {
      await callWithoutAnswer('DELETE', path);
      void navigate('/people/import');
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const { survey, plan, failure } = data;
  const isChange = data.change !== null;
  const open = !['importing', 'imported', 'undoing'].includes(data.status);
  return (
    <>
      <p className="mt-2 text-quiet">
        <strong className="text-ink">{data.name}</strong>
        {survey
          ? ` — ${count(survey.records)} ${survey.records === 1 ? 'person' : 'people'}, ${kindWords[survey.kind]}, ${encodingWords[survey.encoding]}`
          : data.status === 'reading' && ` — reading ${Math.round(100 * (data.progress ?? 0))}%`}
        {!isRunning(data) && (
          <TextButton
            className="ml-4"
            title={
              isChange
                ? 'What was changed stays, and can’t be undone any more.'
                : 'The file and its report go; what it brought in stays, and can’t be undone any more.'
            }
            onClick={forget}
          >
            {isChange ? 'Remove from the list' : 'Delete file and report'}
          </TextButton>
        )}
      </p>
      {(problem ?? failure) !== null && (
        <div className="mt-3 max-w-3xl">
          <Notice kind="wrong" title={problem ?? failure ?? ''} />
        </div>
      )}
      {(isChange || (survey && plan)) && (
        <div className="mt-4 flex flex-col gap-6">
          <Outcome
            data={data}
            catalogue={catalogue}
            onTry={() => (plan ? change(plan) : act(call('POST', `${path}/again`, importSchema)))}
            onPlan={change}
            act={(step) => {
              if (step === 'run') noteStep('people');
              return act(call('POST', `${path}/${step}`, importSchema));
            }}
          />
          {open && survey && plan && (
            <>
              <Columns
                survey={survey}
                plan={plan}
                problems={data.problems}
                catalogue={catalogue}
                onChange={change}
              />
              <KnownPeople plan={plan} onChange={change} />
              <EverybodyGets plan={plan} catalogue={catalogue} onChange={change} />
            </>
          )}
        </div>
      )}
    </>
  );
}
