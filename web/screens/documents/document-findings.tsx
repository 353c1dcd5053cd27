import type { DocumentAnalysis } from '../../../core/analysis/analyse.ts';
import type { DocumentFinding } from '../../../core/analysis/finding.ts';
import type { Channel, Content } from '../../../core/documents/document.ts';
import { useCounts } from '../../app/counts.ts';
import { TextButton } from '../../parts/button.tsx';
import { Notice } from '../../parts/notice.tsx';
import { Repairs, sayChanges } from '../../parts/repairs.tsx';

/** What is proved about the document, those of the chosen slot first, each with its repairs. */
export function DocumentFindings({
  analysis,
  channel,
  slot,
  onSelect,
  onRepair,
}: {
  analysis: DocumentAnalysis;
  channel: Channel;
  slot: string | undefined;
  onSelect: (id: string) => void;
  onRepair: (content: Content) => void;
}) {
  const asked = analysis.findings.flatMap(({ people, repairs }) => [
    ...(people ? [people] : []),
    ...repairs.flatMap(({ changes }) => (changes === null ? [] : [changes])),
  ]);
  const sayCount = useCounts(asked, channel);
  if (analysis.refused !== undefined)
    return (
      <Notice kind="careful" title="Not proved">
        {analysis.refused}, so nothing is proved about this document. What each person sees is right all the
        same.
      </Notice>
    );
  const findings = [...analysis.findings].sort(
    (left, right) => Number(right.slot === slot) - Number(left.slot === slot),
  );
  const affected = ({ people }: DocumentFinding): string => {
    const counted = people ? sayCount(people) : '';
    if (counted === '') return '';
    return counted.startsWith('decided') ? ` Who that is is ${counted}.` : ` That is ${counted} today.`;
  };
  return (
    <section aria-label="Findings" className="flex flex-col gap-2 empty:hidden">
      {findings.map((finding) => {
        const place = finding.slot ?? finding.block;
        return (
          <Notice
            key={`${finding.kind} ${place} ${finding.variant} ${finding.sentence}`}
            kind={finding.severity}
            title={titles[finding.kind]}
          >
            {finding.sentence}
            {affected(finding)}
            {place !== undefined && place !== slot && (
              <span className="mt-1 block">
                <TextButton onClick={() => onSelect(place)}>Show me</TextButton>
              </span>
            )}
            <Repairs
              offers={finding.repairs.map((repair) => ({
                label: repair.label,
                effect: sayChanges(repair.changes, sayCount),
                apply: () => onRepair(repair.content),
              }))}
            />
          </Notice>
        );
      })}
    </section>
  );
}

const titles: Record<DocumentFinding['kind'], string> = {
  'never-true': 'Nobody can ever get it',
  over: 'A variant that is over',
  'needs-sign-in': 'Nobody gets it by email',
  'needs-visit': 'Nobody gets it by email',
  shadowed: 'Nobody gets it',
  'always-true': 'Everybody gets the same',
  gap: 'Some get nothing',
  'everyone-else-unreached': 'Nobody is left over',
  order: 'Another order than elsewhere',
  deviates: 'Other audiences than are set',
  'no-fallback': 'A hole in the text',
  'not-here': 'Nobody gets it here',
  circle: 'An audience that builds on itself',
  coming: 'Starts later',
  'one-slot': 'Two slots that are one',
  'gap-between': 'Some get none of them',
  'not-proved': 'Not proved',
};
