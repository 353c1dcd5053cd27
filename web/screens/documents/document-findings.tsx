import useSWR from 'swr';
import { countsSchema } from '../../../contract/audiences.ts';
import type { DocumentAnalysis } from '../../../core/analysis/analyse.ts';
import type { DocumentFinding } from '../../../core/analysis/finding.ts';
import type { Content } from '../../../core/documents/document.ts';
import { call } from '../../app/api.ts';
import { Notice } from '../../parts/notice.tsx';
import { count } from '../../parts/person.tsx';

/** What is proved about the document, those of the chosen slot first, each with its repairs. */
export function DocumentFindings({
  analysis,
  slot,
  onSelect,
  onRepair,
}: {
  analysis: DocumentAnalysis;
  slot: string | undefined;
  onSelect: (id: string) => void;
  onRepair: (content: Content) => void;
}) {
  const people = analysis.findings.flatMap((finding) => finding.people ?? []);
  const { data } = useSWR(
    people.length > 0 ? ['/audiences/counts', people] : null,
    () => call('POST', '/audiences/counts', countsSchema, { conditions: people }),
    { keepPreviousData: true, revalidateOnFocus: false },
  );
  if (analysis.refused !== undefined)
    return (
      <Notice kind="careful" title="Not proved">
        {analysis.refused}; this document is too varied to prove things about.
      </Notice>
    );
  const findings = [...analysis.findings].sort(
    (left, right) => Number(right.slot === slot) - Number(left.slot === slot),
  );
  const affected = (finding: DocumentFinding): string => {
    const at = finding.people && people.indexOf(finding.people);
    const found = at === undefined ? undefined : data?.counts[at];
    return data && found !== undefined
      ? ` That is ${count(found)} of ${count(data.total)} contacts today.`
      : '';
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
            <span className="mt-1 flex flex-wrap gap-x-3">
              {place !== undefined && place !== slot && (
                <button
                  type="button"
                  className="text-left underline underline-offset-2"
                  onClick={() => onSelect(place)}
                >
                  Show me
                </button>
              )}
              {finding.repairs.map((repair) => (
                <button
                  key={repair.label}
                  type="button"
                  className="text-left underline underline-offset-2"
                  onClick={() => onRepair(repair.content)}
                >
                  {repair.label}
                </button>
              ))}
            </span>
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
};
