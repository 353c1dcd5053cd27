import { type AudienceVersion, audienceVersionsSchema } from '../../../contract/audiences.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { say } from '../../../core/conditions/words.ts';
import { useApi } from '../../data/api.ts';
import { saidInstant } from '../../data/moment.ts';
import { TextButton } from '../../parts/button.tsx';

/** How an audience was each time it was stored; any of these can be taken up again. */
export function Versions({
  audience,
  catalogue,
  nameOf,
  onRestore,
}: {
  audience: string;
  catalogue: Catalogue;
  nameOf: (id: string) => string;
  onRestore: (version: AudienceVersion) => void;
}) {
  const { data } = useApi(`/audiences/${audience}/versions`, audienceVersionsSchema);
  if (!data || data.length < 2) return null;
  return (
    <details className="mt-6 max-w-2xl">
      <summary className="cursor-pointer font-medium">Earlier versions ({data.length - 1})</summary>
      <ol className="mt-1">
        {data.slice(1).map((version) => (
          <li
            key={version.id}
            className="grid grid-cols-1 wide:grid-cols-[150px_1fr_auto] gap-3 border-b border-line py-1.5"
          >
            <span className="text-quiet">
              {saidInstant(version.at)}
              <br />
              {version.accountName}
            </span>
            <span>
              <strong>{version.name}</strong>: {say(version.condition, catalogue, nameOf)}
            </span>
            <TextButton onClick={() => onRestore(version)}>Restore</TextButton>
          </li>
        ))}
      </ol>
    </details>
  );
}
