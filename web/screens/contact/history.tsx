import { Link } from 'react-router';
import { type HistoryEntry, historySchema } from '../../../contract/people.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { useApi } from '../../data/api.ts';
import { saidInstant } from '../../data/moment.ts';
import { FieldWords } from '../../parts/value/field-words.tsx';

/** What changed of a contact, when, and through whom or which file. */
export function History({ path, catalogue }: { path: string; catalogue: Catalogue }) {
  const { data } = useApi(`${path}/history`, historySchema);
  if (!data) return null;
  return (
    <section aria-label="History" className="mt-6">
      <h2 className="mb-1 text-[16px]">History</h2>
      {data.length === 0 && <p className="text-quiet">No changes yet.</p>}
      <ol>
        {data.map((entry) => (
          <li
            key={`${entry.kind} ${entry.id}`}
            className="grid grid-cols-1 wide:grid-cols-[110px_190px_1fr] gap-3 border-b border-line py-1.5"
          >
            <span className="whitespace-nowrap text-quiet">{saidInstant(entry.at)}</span>
            <Through entry={entry} />
            {entry.email && (
              <span>
                {entry.email.refused === null ? 'was sent' : 'was not sent'}{' '}
                <Link to={`/emails/${entry.email.document}`} className="underline">
                  {entry.email.name}
                </Link>
                {entry.email.refused !== null && `: ${entry.email.refused}`}
              </span>
            )}
            {entry.kind === 'added' && <span>added</span>}
            {(entry.kind === 'changed' || entry.kind === 'merged') && (
              <span>
                {entry.kind === 'merged' && 'merged with a duplicate '}
                <FieldWords fields={entry.fields} catalogue={catalogue} />
              </span>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}

function Through({ entry: { source, by, file } }: { entry: HistoryEntry }) {
  const name = file && (
    <Link to={`/people/import/${file.id}`} className="truncate underline">
      {file.name}
    </Link>
  );
  return (
    <span className="min-w-0 truncate">
      {source === 'person' && by}
      {source === 'import' && <>import of {name ?? 'a file'}</>}
      {source === 'together' && <>{name ?? 'a change of several people'}</>}
      {source === 'undo' && <>{name ?? 'an import'} undone</>}
      {source === 'sync' && 'CRM sync'}
      {source === 'update' && 'an update of Apple Porch'}
    </span>
  );
}
