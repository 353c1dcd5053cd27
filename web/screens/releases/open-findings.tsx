import { useMemo } from 'react';
import { Link } from 'react-router';
import useSWR from 'swr';
import { storedDocumentSchema } from '../../../contract/documents.ts';
import type { Pending } from '../../../contract/releases.ts';
import { withShared } from '../../../core/documents/shared.ts';
import { notProved, useAudienceFindings, useDocumentFindings } from '../../data/analysis.ts';
import { call } from '../../data/api.ts';
import { useAudiences } from '../../data/data.ts';
import { usePieces } from '../../data/decider.ts';
import { useLooking } from '../../data/looking.tsx';
import { ScrollList } from '../../parts/scroll-list.tsx';

const severities = ['wrong', 'careful', 'note'] as const;
const looks = { wrong: 'text-apple', careful: 'text-honey', note: 'text-quiet' };
const words = { wrong: 'wrong', careful: 'look at this', note: 'worth knowing' };

interface Open {
  readonly to: string;
  readonly name: string;
  readonly severity: (typeof severities)[number];
  readonly sentence: string;
}

/** What is found about everything that a release would change, the gravest first, each leading to where it can be mended. */
export function OpenFindings({ changes, onLeave }: { changes: Pending['changes']; onLeave: () => void }) {
  const { since } = useLooking();
  const pieces = usePieces();
  const changed = useMemo(
    () => changes.filter(({ what, change }) => change !== 'removed' && (what === 'page' || what === 'email')),
    [changes],
  );
  const stored = useSWR(changed.length > 0 ? ['changed documents', changed] : null, () =>
    Promise.all(changed.map(({ id }) => call('GET', `/documents/${id}`, storedDocumentSchema))),
  ).data;
  const documents = useMemo(
    () =>
      changed.length === 0
        ? []
        : pieces && stored?.map((one) => ({ ...one, content: withShared(one.content, pieces) })),
    [changed, stored, pieces],
  );
  const ofDocuments = useDocumentFindings(documents, since);
  const ofAudiences = useAudienceFindings(since);
  const { data: audiences } = useAudiences();
  const open = useMemo((): Open[] | undefined => {
    if (!documents || !ofDocuments || !ofAudiences || !audiences) return undefined;
    const inAudiences = new Set(changes.filter(({ what }) => what === 'audience').map(({ id }) => id));
    const found = [
      ...documents.flatMap(({ id, kind, name }) => {
        const analysis = ofDocuments.get(id);
        const to = `/${kind}s/${id}`;
        return [
          ...(analysis?.findings ?? []).map(({ severity, sentence }) => ({ to, name, severity, sentence })),
          ...(analysis?.refused === undefined
            ? []
            : [{ to, name, severity: 'careful' as const, sentence: notProved }]),
        ];
      }),
      ...audiences
        .filter(({ id }) => inAudiences.has(id))
        .flatMap(({ id, name }) =>
          (ofAudiences.get(id)?.findings ?? []).map(({ severity, sentence }) => ({
            to: `/audiences/${id}`,
            name,
            severity,
            sentence,
          })),
        ),
    ];
    return found.sort((one, two) => severities.indexOf(one.severity) - severities.indexOf(two.severity));
  }, [documents, ofDocuments, ofAudiences, audiences, changes]);
  return (
    <section aria-label="Findings">
      <h3 className="mb-1 font-semibold">Findings in these changes</h3>
      {open === undefined ? (
        <p className="text-quiet">Looking …</p>
      ) : open.length === 0 ? (
        <p className="text-quiet">None.</p>
      ) : (
        <ScrollList className="max-h-[160px] rounded-md border border-line">
          {open.map(({ to, name, severity, sentence }, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: two findings may say the same
            <li key={index} className="border-b border-line/60 px-3 py-1.5 last:border-0">
              <Link to={to} onClick={onLeave} className="group">
                <strong className="underline underline-offset-2 group-hover:decoration-2">{name}</strong>{' '}
                <span className={looks[severity]}>{words[severity]}</span>: {sentence}
              </Link>
            </li>
          ))}
        </ScrollList>
      )}
    </section>
  );
}
