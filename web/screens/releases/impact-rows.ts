import type { Impact } from '../../../contract/releases.ts';
import { count } from '../../data/count.ts';

type DocumentImpact = Impact['documents'][number];
type FaceChange = DocumentImpact['changes'][number];

const everyoneElseName = 'everyone else';

export type Step = { name: string; from: number; to: number; left: string; right: string };

/** The slots that show a variant for others than before, for whom and for whom then; or what to say instead. */
function stepsOf(
  { slots }: DocumentImpact,
  { before, after, opening }: FaceChange,
): readonly Step[] | string {
  if (!before) return 'new';
  if (!after) return 'no longer there';
  if (opening) return opening === 'gained' ? 'can open it from now on' : 'can no longer open it';
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

/** Groups changes for display: those that differ only in unchanged slots are merged. */
export function rowsOf(document: DocumentImpact) {
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

export function sayWho({ contacts, anonymous, kind }: DocumentImpact, total: number): string {
  const people = `${count(contacts)} of ${count(total)} contacts`;
  if (kind === 'menu' && contacts > 0)
    return `${people}${anonymous ? ' and anonymous visitors' : ''} see another menu`;
  if (kind === 'email') return `${people} would get something else`;
  if (contacts === 0)
    return anonymous ? 'anonymous visitors see something else' : 'nobody today, but it is possible';
  return `${people}${anonymous ? ' and anonymous visitors' : ''} see something else`;
}

const partNames = {
  content: 'content',
  title: 'title',
  address: 'address',
  access: 'who may open it',
  site: 'what the whole site has',
};

/** What of a document differs, where that is not its content alone. */
export function sayParts({ parts, kind }: DocumentImpact): string {
  return kind === 'menu' || parts.join() === 'content'
    ? ''
    : new Intl.ListFormat('en').format(parts.map((part) => partNames[part]));
}

export function sayContacts({ contacts, person }: Pick<FaceChange, 'contacts' | 'person'>): string {
  if (contacts === 0) return 'possible, nobody today';
  if (!person) return `${count(contacts)} contacts`;
  return contacts === 1 ? person.name : `${person.name} and ${count(contacts - 1)} more`;
}
