import type { Overlap } from '../../../core/analysis/overlaps.ts';
import { type Channel, variantLetter } from '../../../core/documents/document.ts';
import { notProved } from '../../data/analysis.ts';
import { count } from '../../data/count.ts';
import { type Counted, useCounted } from '../../data/counts.ts';

const mostShown = 6;

/** The overlaps of a slot; undefined while they are being worked out. */
export type Overlaps = readonly Overlap[] | 'not proved' | undefined;

const none: readonly Overlap[] = [];

/** Who matches two variants of a slot at once, and which of them they get. */
export function OverlapLines({ overlaps, channel }: { overlaps: Overlaps; channel: Channel }) {
  const known = typeof overlaps === 'object' ? overlaps : none;
  const counted = useCounted(
    known.map(({ people }) => people),
    channel,
  );
  const size = (found: Counted | undefined) => (found?.by === 'contacts' ? found.count : 0);
  const lines = known
    .map((overlap) => ({ ...overlap, found: counted(overlap.people) }))
    .sort((one, two) => size(two.found) - size(one.found));
  if (overlaps === 'not proved')
    return (
      <p className="mt-3 text-[13px] text-quiet">{notProved}: who matches two of these variants at once.</p>
    );
  if (lines.length === 0) return null;
  return (
    <section aria-label="Who matches two variants" className="mt-3 text-[13px] text-quiet">
      <ul className="flex flex-col gap-0.5">
        {lines.slice(0, mostShown).map(({ first, second, found }) => (
          <li key={`${first} ${second}`}>{said(variantLetter(first), variantLetter(second), found)}</li>
        ))}
      </ul>
      {lines.length > mostShown && <p>And {count(lines.length - mostShown)} more pairs of variants.</p>}
    </section>
  );
}

function said(first: string, second: string, found: Counted | undefined) {
  if (found?.by !== 'contacts')
    return `Some may match ${first} and ${second}${found ? `, decided per ${found.by}` : ''}; they get ${first}.`;
  if (found.count === 0)
    return `Nobody matches ${first} and ${second} ${found.isNow ? 'right now' : 'today'}; who does gets ${first}.`;
  const [matches, gets] = found.count === 1 ? ['contact matches', 'and gets'] : ['contacts match', 'and get'];
  return (
    <>
      <strong className="text-ink">{count(found.count)}</strong> {matches} {first} and {second} {gets} {first}
      .
    </>
  );
}
