import { useEffect, useRef, useState } from 'react';
import { Link, useParams } from 'react-router';
import { type StoredDocument, storedDocumentSchema } from '../../../contract/documents.ts';
import { fromAddress, keepInAddress } from '../../data/address.ts';
import { useApi } from '../../data/api.ts';
import { personLabel } from '../../data/looking.tsx';
import { useTabTitle } from '../../data/tab-title.ts';
import { useLookInAddress } from '../../parts/look-in-address.ts';
import { Empty } from '../../parts/notice.tsx';
import { DocumentView } from '../../parts/rendering/document-view.tsx';
import { useShown } from './use-shown.ts';

const narrowest = 280;
const widest = 2560;
/** The width of some screens, in pixels. */
const screens = [
  ['Phone', 390],
  ['Tablet', 768],
  ['Computer', 1280],
] as const;

export function Component() {
  const { id = '' } = useParams();
  const { data, error } = useApi(`/documents/${encodeURIComponent(id)}`, storedDocumentSchema);
  if (error)
    return (
      <div className="p-8">
        <Empty title={error.message}>
          <Link to="/pages" className="underline">
            All pages
          </Link>
        </Empty>
      </div>
    );
  return data?.id === id ? <Preview key={id} stored={data} /> : null;
}

/** A page or email as its viewer gets it, at any width and with nothing of the studio around it but one line. */
function Preview({ stored }: { stored: StoredDocument }) {
  const { document, decided, viewer, look } = useShown(stored, stored);
  const [width, setWidth] = useWidth();
  useLookInAddress();
  useTabTitle(`${stored.name}, preview`);
  const { name, state } = personLabel(look);
  const kind = stored.kind === 'shared' ? 'shared' : `${stored.kind}s`;
  const isClosed =
    decided && stored.access && !decided.decider.contains(stored.access.audience, decided.facts);
  return (
    <div className="flex h-full flex-col">
      <header className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-4 py-1.5">
        <h1 className="min-w-0 truncate text-[15px]">{stored.name}</h1>
        <p className="min-w-0 truncate text-quiet">
          as {name}, {state}
          {isClosed && ', who may not open it'}
        </p>
        <fieldset className="ml-auto flex min-w-0 flex-wrap items-center gap-1">
          <legend className="sr-only">Width of the page</legend>
          {screens.map(([label, pixels]) => (
            <button
              key={label}
              type="button"
              aria-pressed={width === pixels}
              onClick={() => setWidth(pixels)}
              className={`h-8 rounded-md border px-2 ${width === pixels ? 'border-ink font-semibold' : 'border-transparent text-quiet hover:text-ink'}`}
            >
              {label}
            </button>
          ))}
          <input
            type="range"
            aria-label="Width of the page"
            aria-valuetext={`${width} pixels`}
            min={narrowest}
            max={widest}
            step={10}
            value={width}
            onChange={({ target }) => setWidth(target.valueAsNumber)}
            className="w-40 accent-leaf"
          />
          <output className="w-16 text-right">{width} px</output>
        </fieldset>
        <Link to={`/${kind}/${stored.id}`} className="text-leaf underline">
          Edit
        </Link>
      </header>
      <Scaled width={width}>
        {decided && (
          <DocumentView
            document={document}
            decider={decided.decider}
            viewer={viewer}
            facts={decided.facts}
            choices={decided.choices}
          />
        )}
      </Scaled>
    </div>
  );
}

/** The width that the page is laid out at, in pixels; kept in the address. */
function useWidth(): [number, (width: number) => void] {
  const [width, setWidth] = useState(() => {
    const wanted = Math.round(Number(fromAddress('width') ?? window.innerWidth));
    return Number.isFinite(wanted) ? Math.min(widest, Math.max(narrowest, wanted)) : 1280;
  });
  useEffect(() => keepInAddress({ width: String(width) }), [width]);
  return [width, setWidth];
}

/** Something laid out at a width; where the window has less, it is drawn smaller to fit. */
function Scaled({ width, children }: { width: number; children: React.ReactNode }) {
  const frame = useRef<HTMLElement>(null);
  const page = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState({ width: window.innerWidth, height: 0 });
  useEffect(() => {
    const measure = () =>
      setRoom({ width: frame.current?.clientWidth ?? 0, height: page.current?.offsetHeight ?? 0 });
    const observer = new ResizeObserver(measure);
    for (const element of [frame.current, page.current]) if (element) observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const scale = Math.min(1, room.width / width);
  return (
    <section
      ref={frame}
      id="work"
      aria-label="The page"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
      tabIndex={0}
      className="min-h-0 flex-1 overflow-auto"
    >
      <div className="mx-auto" style={{ width: width * scale, height: room.height * scale || undefined }}>
        <div
          ref={page}
          className="shadow-soft"
          style={{ width, transform: `scale(${scale})`, transformOrigin: '0 0' }}
        >
          {children}
        </div>
      </div>
    </section>
  );
}
