import { useEffect, useMemo, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { storedDocumentSchema } from '../../../contract/documents.ts';
import { itemValues } from '../../../core/collections/collection.ts';
import { everyoneElse } from '../../../core/deciding/decide.ts';
import { faceKey, visibilityOf } from '../../../core/deciding/visibility.ts';
import { type Document, type Slot, slotsOf } from '../../../core/documents/document.ts';
import { withShared } from '../../../core/documents/shared.ts';
import { useDocumentAnalysis } from '../../data/analysis.ts';
import { useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { useSayOutcome } from '../../data/counts.ts';
import { audienceNames, useAudiences, useDocuments, useLibrary } from '../../data/data.ts';
import { useDecider, usePieces } from '../../data/decider.ts';
import { lookOf, type Step, useLooking, viewerOf } from '../../data/looking.tsx';
import { useSkeleton } from '../../data/skeleton.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { usePrinting } from '../../data/use-printing.ts';
import { Idea } from '../../parts/idea.tsx';
import { useLookInAddress } from '../../parts/look-in-address.ts';
import { Empty } from '../../parts/notice.tsx';
import { Select } from '../../parts/select.tsx';
import { VariantMark } from '../../parts/variant-mark.tsx';
import { useCast } from '../documents/use-cast.ts';
import { isPossibleOnly, stepsByAudience, useSteps } from '../documents/use-steps.ts';
import { WhyLine } from '../documents/why-line.tsx';
import { FaceWidth, useFaceWidth } from './face-width.tsx';
import { type Column, LineupTable } from './lineup-table.tsx';

/** How many columns stand across a printed sheet, and how wide each is, in pixels. */
const columnsAcross = 4;
const printedWidth = 190;
const mostPrinted = 60;

/** Viewers side by side: what each gets in every slot. */
export function Component() {
  const { id } = useParams();
  const navigate = useNavigate();
  // Shared content is looked at where it stands.
  const documents = useDocuments().data?.filter(({ kind }) => kind !== 'shared');
  const firstId = documents?.[0]?.id;
  useEffect(() => {
    if (id === undefined && firstId) void navigate(`/lineup/${firstId}`, { replace: true });
  }, [id, firstId, navigate]);
  const { data: document, error } = useApi(
    id === undefined ? null : `/documents/${encodeURIComponent(id)}`,
    storedDocumentSchema,
  );
  useTabTitle(document ? `Lineup of ${document.name}` : 'Lineup');
  if (error || documents?.length === 0)
    return (
      <div className="p-8">
        <Empty title={error?.message ?? 'No page or email to line up yet'}>
          <Link to="/pages" className="underline">
            All pages
          </Link>
        </Empty>
      </div>
    );
  if (!document || document.id !== id) return null;
  return (
    <div className="flex h-full flex-col pt-4">
      <div className="flex items-center gap-4 px-5">
        <h1 className="text-[26px] leading-8">Lineup</h1>
        <Select
          aria-label="Page or email"
          value={document.id}
          onChange={(chosen) => navigate(`/lineup/${chosen}`)}
          className="font-semibold"
          options={(documents ?? []).map(({ id, name, kind }) => ({ value: id, label: `${name} (${kind})` }))}
        />
        <Link to={`/${document.kind}s/${document.id}`} className="underline underline-offset-2">
          Open the canvas
        </Link>
      </div>
      <Board key={document.id} document={document} />
    </div>
  );
}

function Board({ document: stored }: { document: Document }) {
  useLookInAddress();
  const pieces = usePieces();
  const library = useLibrary();
  const item = library?.items.find(({ collection }) => collection === stored.collection);
  const document = useMemo(
    () => (pieces ? { ...stored, content: withShared(stored.content, pieces) } : stored),
    [stored, pieces],
  );
  const decider = useDecider(document);
  const { data: audiences = [] } = useAudiences();
  const { look, viewer, since, change } = useLooking();
  const nameOf = audienceNames(audiences);
  const version = audiences.map((audience) => `${audience.id}:${audience.revision}`).join();
  const skeleton = useSkeleton(document);
  const cast = useCast(skeleton, look.instant, version);
  const analysis = useDocumentAnalysis(skeleton, since);
  const seen = useMemo(() => {
    if (!decider) return undefined;
    const signedIn = document.kind === 'page' && viewer.signedIn;
    const visible = visibilityOf(document.content);
    const decide = (who: typeof viewer) => {
      const of = item ? { ...who, item: itemValues(item, library?.views[item.id]) } : who;
      const facts = decider.facts(of);
      return { viewer: of, facts, choices: Int8Array.from(visible(decider.decide(document.id, facts))) };
    };
    return { decide, current: faceKey(decide({ ...viewer, signedIn }).choices) };
  }, [decider, document, viewer, item, library]);
  const faces = useSteps(analysis, cast, nameOf, seen?.current);
  const [by, setBy] = useState<'face' | 'audience'>('face');
  const [width, setWidth] = useFaceWidth();
  const printing = usePrinting();
  const [chosen, setChosen] = useState<{ step: string; slot: string }>();
  const steps = useMemo(
    () => (by === 'face' ? faces : cast ? stepsByAudience(cast, audienceNames(audiences)) : []),
    [by, faces, cast, audiences],
  );
  const columnOf = useMemo(() => {
    const known = new Map<Step, Column>();
    return (step: Step): Column | undefined => {
      let column = known.get(step);
      if (!column && seen) {
        const signedIn = document.kind === 'page' && step.signedIn;
        column = seen.decide(viewerOf({ ...look, ...lookOf(step), signedIn }, since));
        known.set(step, column);
      }
      return column;
    };
  }, [seen, look, since, document.kind]);
  if (!decider || !cast) return null;
  const isShown = (step: Step) =>
    by === 'face' ? step.key === seen?.current : look.person?.id === step.person?.id;
  const slots = slotsOf(document.content);
  const table = {
    document,
    decider,
    slots,
    columnOf,
    isShown,
    onShow: (step: Step) => change(lookOf(step)),
    onChoose: (step: Step, slot: Slot) => setChosen({ step: step.key, slot: slot.id }),
  };
  const occurring = faces.filter((step) => !isPossibleOnly(step)).length;
  const missing = cast.people.filter(({ person }) => person === null);
  const chosenStep = steps.find(({ key }) => key === chosen?.step) ?? steps[0];
  const chosenColumn = chosenStep && columnOf(chosenStep);
  const chosenSlot = slots.find((slot) => slot.id === chosen?.slot) ?? slots[0];
  if (slots.length === 0)
    return (
      <div className="p-5">
        <Empty title={`“${document.name}” is the same for all`}>
          <Link to={`/${document.kind}s/${document.id}`} className="underline">
            Make a block differ
          </Link>
        </Empty>
      </div>
    );
  return (
    <>
      <div className="flex items-center gap-4 px-5 pt-2">
        <fieldset className="flex rounded-md border border-line">
          <legend className="sr-only">Columns show</legend>
          {(['face', 'audience'] as const).map((value) => (
            <button
              key={value}
              type="button"
              aria-pressed={by === value}
              onClick={() => setBy(value)}
              className={`h-8 px-3 first:rounded-l-[7px] last:rounded-r-[7px] ${by === value ? 'bg-ink text-paper' : 'text-quiet hover:text-ink'}`}
            >
              {value === 'face' ? 'Every face' : 'By audience'}
            </button>
          ))}
        </fieldset>
        <p className="text-quiet" role="status">
          {by === 'audience' ? (
            `Anonymous, and one contact of each audience used.${missing.length > 0 ? ` Nobody is in ${missing.map(({ audience }) => nameOf(audience)).join(', ')} today.` : ''}`
          ) : !analysis ? (
            'Working out the faces…'
          ) : analysis.refused !== undefined ? (
            `${analysis.refused}: which faces there are.`
          ) : (
            <>
              <strong className="text-ink">
                {count(faces.length)} {faces.length === 1 ? 'face' : 'faces'}
              </strong>{' '}
              {analysis.complete === false
                ? 'are listed; there are more than can be.'
                : `are all that anyone can get; ${count(occurring)} occur today${occurring < faces.length ? `, ${count(faces.length - occurring)} are possible` : ''}.`}
            </>
          )}
        </p>
        <FaceWidth width={width} onChange={setWidth} />
      </div>
      <div className="max-w-3xl px-5 py-2">
        <Idea term="face" />
      </div>
      {printing &&
        chunked(steps.slice(0, mostPrinted), columnsAcross).map((across, index) => (
          <LineupTable
            key={across[0]?.key}
            {...table}
            steps={across}
            first={index * columnsAcross}
            columnWidth={printedWidth}
            isWhole
          />
        ))}
      {printing && steps.length > mostPrinted && (
        <p className="px-5">
          The first {mostPrinted} of {count(steps.length)} are printed.
        </p>
      )}
      <LineupTable
        {...table}
        steps={steps}
        columnWidth={width}
        chosen={chosenStep && chosenSlot && { step: chosenStep.key, slot: chosenSlot.id }}
      >
        {chosenColumn && chosenSlot && (
          <div className="sticky left-5 mt-2 ml-5 grid w-[1100px] max-w-[calc(100%-40px)] grid-cols-2 items-start gap-4">
            <WhyLine
              slot={chosenSlot}
              kind={document.kind}
              decider={decider}
              facts={chosenColumn.facts}
              nameOf={nameOf}
              name={chosenStep.person?.name ?? 'an anonymous visitor'}
              instant={since}
            />
            <Shares
              slot={chosenSlot}
              outcomes={cast.slots.find((entry) => entry.slot === chosenSlot.id)?.outcomes ?? []}
              total={cast.total}
              nameOf={nameOf}
            />
          </div>
        )}
      </LineupTable>
    </>
  );
}

function chunked<Thing>(things: readonly Thing[], size: number): Thing[][] {
  const starts = Array.from({ length: Math.ceil(things.length / size) }, (_, index) => index * size);
  return starts.map((start) => things.slice(start, start + size));
}

/** How the contacts divide over a slot's variants today. */
function Shares({
  slot,
  outcomes,
  total,
  nameOf,
}: {
  slot: Slot;
  outcomes: readonly { count: number }[];
  total: number;
  nameOf: (audience: string) => string;
}) {
  const sayOutcome = useSayOutcome();
  return (
    <section aria-label="How many get each" className="rounded-md border border-line bg-paper p-3">
      <h3 className="text-[14px]">
        {slot.name}: who gets what of {count(total)} contacts
      </h3>
      <ul className="mt-1 flex flex-col gap-1.5">
        {outcomes.map((outcome, index) => {
          const choice = index < slot.variants.length ? index : everyoneElse;
          const variant = slot.variants[choice];
          return (
            <li key={variant?.id ?? 'everyone else'} className="flex items-center gap-2">
              <VariantMark choice={choice} />
              <span className="w-44 truncate">{variant ? nameOf(variant.audience) : 'Everyone else'}</span>
              <span className="h-1.5 flex-1 overflow-hidden rounded-full bg-line" aria-hidden>
                <span
                  className="block h-full bg-leaf"
                  style={{ width: `${(100 * outcome.count) / Math.max(1, total)}%` }}
                />
              </span>
              <strong className="w-14 text-right">{sayOutcome(slot, choice, outcome.count)}</strong>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
