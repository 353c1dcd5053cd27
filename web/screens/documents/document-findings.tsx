import type { DocumentAnalysis } from '../../../core/analysis/analyse.ts';
import type { Content } from '../../../core/documents/document.ts';
import { Notice } from '../../parts/notice.tsx';

/** What is proved about the document, those of the chosen slot first, each with its repairs. */
export function DocumentFindings({
  analysis,
  slot,
  onSelect,
  onRepair,
}: {
  analysis: DocumentAnalysis;
  slot: string | undefined;
  onSelect: (slot: string) => void;
  onRepair: (content: Content) => void;
}) {
  if (analysis.refused !== undefined)
    return (
      <Notice kind="careful" title="Not proved">
        {analysis.refused}; this document is too varied to prove things about.
      </Notice>
    );
  const findings = [...analysis.findings].sort(
    (left, right) => Number(right.slot === slot) - Number(left.slot === slot),
  );
  return (
    <section aria-label="Findings" className="flex flex-col gap-2 empty:hidden">
      {findings.map((finding) => (
        <Notice
          key={`${finding.kind} ${finding.slot} ${finding.variant}`}
          kind={finding.severity}
          title={titles[finding.kind]}
        >
          {finding.sentence}
          <span className="mt-1 flex flex-wrap gap-x-3">
            {finding.slot !== slot && (
              <button
                type="button"
                className="underline underline-offset-2"
                onClick={() => onSelect(finding.slot)}
              >
                Show me
              </button>
            )}
            {finding.repairs.map((repair) => (
              <button
                key={repair.label}
                type="button"
                className="underline underline-offset-2"
                onClick={() => onRepair(repair.content)}
              >
                {repair.label}
              </button>
            ))}
          </span>
        </Notice>
      ))}
    </section>
  );
}

const titles = {
  'never-true': 'Nobody can ever get it',
  'needs-sign-in': 'Nobody gets it by email',
  shadowed: 'Nobody gets it',
  gap: 'Some get nothing',
  'everyone-else-unreached': 'Nobody is left over',
  order: 'Another order than elsewhere',
} as const;
