import { type Impact, impactSchema } from '../../../contract/releases.ts';
import { useApi } from '../../app/api.ts';
import { count } from '../../parts/person.tsx';
import { VariantMark } from '../../parts/variant-mark.tsx';

type DocumentImpact = Impact['documents'][number];
type FaceChange = DocumentImpact['changes'][number];

const rowsShown = 5;

/** Whom a release would change what for, proved before it is made. */
export function ImpactList() {
  const { data, error } = useApi('/releases/impact', impactSchema);
  if (error)
    return <p className="text-quiet">Whom it changes things for could not be worked out: {error.message}</p>;
  if (!data) return <p className="text-quiet">Working out whom it changes things for …</p>;
  return (
    <section aria-label="Whom it changes things for" className="flex flex-col gap-2">
      <h3 className="text-[14px]">Whom it changes things for</h3>
      {data.documents.length === 0 ? (
        <p className="text-quiet">Nobody who can come sees or gets anything else.</p>
      ) : (
        <ul className="max-h-[220px] overflow-y-auto rounded-md border border-line">
          {data.documents.map((document) => (
            <li key={document.id} className="border-b border-line/60 px-3 py-2 last:border-0">
              <div>
                <strong>{document.name}</strong>: {sayWho(document, data.total)}
              </div>
              <ul className="mt-1 flex flex-col gap-0.5 text-quiet">
                {rowsOf(document)
                  .slice(0, rowsShown)
                  .map((row) => (
                    <li key={row.key} className="flex flex-wrap items-center gap-x-2">
                      <Steps steps={row.steps} />
                      <span>{sayContacts(row)}</span>
                    </li>
                  ))}
                {rowsOf(document).length > rowsShown && (
                  <li>and {count(rowsOf(document).length - rowsShown)} more kinds of change</li>
                )}
                {!document.complete && <li>More changes are possible than could be listed.</li>}
              </ul>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

function sayWho({ contacts, anonymous, kind }: DocumentImpact, total: number): string {
  const people = `${count(contacts)} of ${count(total)} contacts`;
  if (kind === 'email') return `${people} would get something else`;
  if (contacts === 0)
    return anonymous ? 'anonymous visitors see something else' : 'nobody today, but it is possible';
  return `${people}${anonymous ? ' and anonymous visitors' : ''} see something else`;
}

function sayContacts({ contacts, person }: Pick<FaceChange, 'contacts' | 'person'>): string {
  if (contacts === 0) return 'possible, nobody today';
  if (!person) return `${count(contacts)} contacts`;
  return contacts === 1 ? person.name : `${person.name} and ${count(contacts - 1)} more`;
}

type Step = { name: string; from: number; to: number; left: string; right: string };

/** The slots that show a variant for others than before, for whom and for whom then; or what to say instead. */
function stepsOf({ slots }: DocumentImpact, { before, after }: FaceChange): readonly Step[] | string {
  if (!before) return 'new';
  if (!after) return 'no longer there';
  const moved = slots.after.flatMap(({ name, audiences }, index) => {
    const at = slots.before.findIndex((slot) => slot.name === name);
    const [from, to] = [before[at], after[index]];
    const old = slots.before[at]?.audiences ?? [];
    if (from === undefined || to === undefined || from < -1 || to < -1) return [];
    const [left, right] = [old[from] ?? everyoneElseName, audiences[to] ?? everyoneElseName];
    return left === right ? [] : [{ name, from, to, left, right }];
  });
  return moved.length > 0 ? moved : 'reads differently';
}

/** The changes as they are told: those that differ only in slots that stay as they are go together. */
function rowsOf(document: DocumentImpact) {
  const rows = new Map<
    string,
    Pick<FaceChange, 'contacts' | 'person'> & { key: string; steps: readonly Step[] | string }
  >();
  for (const change of document.changes) {
    const steps = stepsOf(document, change);
    const key = JSON.stringify(steps);
    const { contacts = 0, person = null } = rows.get(key) ?? {};
    rows.set(key, { key, steps, contacts: contacts + change.contacts, person: person ?? change.person });
  }
  return [...rows.values()];
}

function Steps({ steps }: { steps: readonly Step[] | string }) {
  if (typeof steps === 'string') return <span className="text-ink">{steps}</span>;
  return steps.map(({ name, from, to, left, right }) => (
    <span key={name} className="inline-flex flex-wrap items-center gap-1 text-ink">
      {name}: <VariantMark choice={from} /> {left} → <VariantMark choice={to} /> {right}
    </span>
  ));
}

const everyoneElseName = 'everyone else';
