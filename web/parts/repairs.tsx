import type { Condition } from '../../core/conditions/condition.ts';
import type { SayCount } from '../data/counts.ts';
import { TextButton } from './button.tsx';

/** A repair with what it changes for whom, in words; see {@link sayChanges} and {@link sayMoves}. */
interface Offer {
  readonly label: string;
  readonly effect: string;
  readonly apply: () => void;
}

/** Repairs of a finding as buttons, each with whom it changes something for beside it. */
export function Repairs({ offers }: { offers: readonly Offer[] }) {
  if (offers.length === 0) return null;
  return (
    <ul className="mt-1.5 flex flex-col gap-1">
      {offers.map(({ label, effect, apply }) => (
        <li key={label} className="flex flex-wrap items-baseline gap-x-2">
          <TextButton onClick={apply}>{label}</TextButton>
          <span className="text-[12.5px] text-quiet">{effect}</span>
        </li>
      ))}
    </ul>
  );
}

/** Who sees something else after an edit of a document. */
export function sayChanges(changes: Condition | null, sayCount: SayCount): string {
  if (changes === null) return 'changes nothing for anybody';
  const counted = sayCount(changes);
  return counted === '' ? '' : `changes it for ${counted}`;
}

/** Who comes into an audience and who goes out by an edit of its condition. */
export function sayMoves(
  { joins, leaves }: { joins: Condition | null; leaves: Condition | null },
  sayCount: SayCount,
): string {
  if (joins === null && leaves === null) return 'the same people stay in it';
  const parts = [
    ...(joins === null ? [] : [`adds ${sayCount(joins)}`]),
    ...(leaves === null ? [] : [`removes ${sayCount(leaves)}`]),
  ];
  return parts.join(', ');
}
