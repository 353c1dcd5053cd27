import { useState } from 'react';
import type { ChosenRepair } from '../../../core/analysis/document-analysis.ts';
import { type DocumentFinding, type OfferedRepair, severities } from '../../../core/analysis/finding.ts';
import type { Channel } from '../../../core/documents/document.ts';
import type { DocumentAnalysis } from '../../data/analysis.ts';
import { useCounts } from '../../data/counts.ts';
import { TextButton } from '../../parts/button.tsx';
import { Notice } from '../../parts/notice.tsx';
import { Repairs, sayChanges } from '../../parts/repairs.tsx';

type Finding = DocumentFinding<OfferedRepair>;

const mostShown = 4;

/** What is proved about the document, of one slot or of all that is not about it, each with its repairs; the gravest first. */
export function DocumentFindings({
  analysis,
  channel,
  slot,
  about,
  onSelect,
  onRepair,
}: {
  analysis: DocumentAnalysis;
  channel: Channel;
  slot: string | undefined;
  /** What is shown: what is about the chosen slot, or everything else. */
  about: 'slot' | 'others';
  onSelect: (id: string) => void;
  onRepair: (repair: ChosenRepair) => void;
}) {
  const [isWhole, setIsWhole] = useState(false);
  const isOfSlot = (finding: Finding) => slot !== undefined && finding.slot === slot;
  const all = analysis.findings
    .filter((finding) => isOfSlot(finding) === (about === 'slot'))
    .sort((one, two) => severities.indexOf(one.severity) - severities.indexOf(two.severity));
  const findings = isWhole ? all : all.slice(0, mostShown);
  const asked = findings.flatMap(({ people, repairs }) => [
    ...(people ? [people] : []),
    ...repairs.flatMap(({ changes }) => (changes === null ? [] : [changes])),
  ]);
  const sayCount = useCounts(asked, channel);
  if (analysis.refused !== undefined)
    return about === 'slot' ? null : (
      <Notice kind="careful" title="Not proved">
        {analysis.refused}, so nothing is proved about this document. What each person sees is right all the
        same.
      </Notice>
    );
  const affected = ({ people }: Finding): string => {
    const counted = people ? sayCount(people) : '';
    if (counted === '') return '';
    if (counted.startsWith('decided')) return ` This is ${counted}.`;
    return counted.endsWith('right now') ? ` That is ${counted}.` : ` That is ${counted} today.`;
  };
  return (
    <section
      aria-label={about === 'slot' ? 'Findings of the slot' : 'Findings'}
      className="flex flex-col gap-2 empty:hidden"
    >
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
                apply: () => onRepair({ ...finding, label: repair.label }),
              }))}
            />
          </Notice>
        );
      })}
      {findings.length < all.length && (
        <TextButton onClick={() => setIsWhole(true)}>
          Show {all.length - findings.length} more{' '}
          {all.length - findings.length === 1 ? 'finding' : 'findings'}
        </TextButton>
      )}
    </section>
  );
}

const titles: Record<DocumentFinding['kind'], string> = {
  'never-true': 'Nobody can ever get it',
  over: 'A variant that has ended',
  'needs-sign-in': 'Nobody gets it by email',
  'needs-visit': 'Nobody gets it by email',
  shadowed: 'Nobody gets it',
  'always-true': 'Everybody gets the same',
  gap: 'Some get nothing',
  'everyone-else-unreached': 'No one is left for everyone else',
  order: 'Another order than elsewhere',
  deviates: 'Other audiences than set for all slots',
  'no-fallback': 'A gap in the text',
  'not-here': 'Nobody gets it here',
  circle: 'An audience that builds on itself',
  coming: 'Starts later',
  'one-slot': 'Two slots that are one',
  'gap-between': 'Some get none of them',
  'not-proved': 'Not proved',
};
