import type { Count } from '../../../contract/audiences.ts';
import type { ConditionAnalysis } from '../../../core/analysis/condition-analysis.ts';
import type { Condition } from '../../../core/conditions/condition.ts';
import { useCounts } from '../../data/counts.ts';
import { Notice } from '../../parts/notice.tsx';
import { Repairs, sayMoves } from '../../parts/repairs.tsx';

const titles = {
  'never-true': 'This can never be true',
  'always-true': 'This is always true',
  'no-effect': 'A part changes nothing',
  'empty-group': 'A group without a test',
  over: 'A window that has ended',
  coming: 'Starts later',
  'past-midnight': 'Past midnight',
  'not-proved': 'Not proved',
  'needs-visit': 'Not known by email',
  same: 'The same as another audience',
  contained: 'Part of another audience',
  'nobody-today': 'Nobody today',
  'nobody-now': 'Nobody right now',
  'only-lacking': 'Only people with missing data',
  'same-today': 'The same as another audience today',
  'contained-today': 'Part of another audience today',
} as const;
const severities = ['wrong', 'careful', 'note'];

/** What is found about a condition: what is proved for every possible person, then what is so of today's contacts. */
export function Findings({
  proved,
  today,
  onRepair,
  refused,
}: {
  proved: ConditionAnalysis['findings'];
  today: Count['today'];
  onRepair: (condition: Condition) => void;
  /** Why nothing could be proved, where nothing could. */
  refused: string | undefined;
}) {
  const kinds = new Set(proved.map(({ kind }) => kind));
  const isSaid = ({ kind }: Count['today'][number]) =>
    kinds.has('never-true') ||
    ((kind === 'nobody-today' || kind === 'nobody-now') && (kinds.has('over') || kinds.has('coming'))) ||
    (kind === 'same-today' && kinds.has('same')) ||
    (kind === 'contained-today' && (kinds.has('same') || kinds.has('contained')));
  const findings = [
    ...proved,
    ...today.filter((found) => !isSaid(found)).map((found) => ({ ...found, relies: false })),
  ].sort((one, two) => severities.indexOf(one.severity) - severities.indexOf(two.severity));
  const sayCount = useCounts(
    findings.flatMap(({ repairs }) =>
      repairs.flatMap(({ joins, leaves }) => [joins, leaves].filter((one) => one !== null)),
    ),
  );
  if (findings.length === 0 && refused === undefined) return null;
  return (
    <section aria-label="Findings" className="mt-auto flex max-w-2xl flex-col gap-2 pt-6">
      {refused !== undefined && (
        <Notice kind="careful" title="Not proved">
          {refused}, so nothing is proved about this condition. Counts are right all the same.
        </Notice>
      )}
      {findings.map((finding) => (
        <Notice
          key={`${finding.kind} ${finding.sentence}`}
          kind={finding.severity}
          title={titles[finding.kind]}
        >
          {finding.sentence}
          {finding.relies && <span className="text-quiet"> This relies on your data rules.</span>}
          <Repairs
            offers={finding.repairs.map((repair) => ({
              label: repair.label,
              effect: sayMoves(repair, sayCount),
              apply: () => onRepair(repair.condition),
            }))}
          />
        </Notice>
      ))}
    </section>
  );
}
