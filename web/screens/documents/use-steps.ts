import { useEffect, useMemo } from 'react';
import type { Cast } from '../../../contract/documents.ts';
import type { PersonRecord } from '../../../contract/people.ts';
import type { FaceDescription } from '../../../core/analysis/describe.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { formatValue } from '../../../core/attributes/format.ts';
import { readValue } from '../../../core/attributes/parse.ts';
import type { Viewer } from '../../../core/attributes/viewer.ts';
import { faceKey } from '../../../core/deciding/visibility.ts';
import type { DocumentAnalysis } from '../../data/analysis.ts';
import { count } from '../../data/count.ts';
import { useCatalogue } from '../../data/data.ts';
import { type Step, useLooking } from '../../data/looking.tsx';
import { momentLabel } from '../../data/moment.ts';

/** Said of a face that can be got but that no contact gets. */
export const nobodyToday = 'possible, nobody today';

export function isPossibleOnly(step: Step): boolean {
  return step.note.startsWith(nobodyToday);
}

/** One person of each audience used, and anonymous. One person stands once. */
export function stepsByAudience(cast: Cast, nameOf: (audience: string) => string): Step[] {
  const anonymous = { key: 'anonymous', label: 'Anonymous', note: 'signed out, not a contact' };
  const steps: Step[] = [{ ...anonymous, person: null, signedIn: false, visit: null, instant: null }];
  for (const { audience, person } of cast.people) {
    if (!person) continue;
    const known = steps.find((step) => step.person?.id === person.id);
    if (known) known.label = `${known.label}, ${nameOf(audience)}`;
    else
      steps.push({
        key: audience,
        label: nameOf(audience),
        note: person.name,
        person,
        signedIn: person.hasAccount,
        visit: null,
        instant: null,
      });
  }
  return steps;
}

/** Every face with somebody who gets it: the largest first, those that nobody gets today last, with one invented. */
export function stepsByFace(
  { faces }: DocumentAnalysis,
  cast: Cast,
  nameOf: (audience: string) => string,
  instant: number,
  catalogue: Catalogue,
): Step[] {
  const today = new Map(cast.faces.map((face) => [faceKey(face.choices), face]));
  const sized = faces.map((face, index) => {
    const key = faceKey(face.choices);
    const found = today.get(key);
    const { anonymous } = face;
    const person = anonymous ? null : (found?.person ?? invented(face.witness, index));
    const people = found?.count ?? 0;
    // Contacts are looked at without a visit and as of now; who is only possible may need both.
    const plain = found !== undefined;
    const step: Step = {
      key,
      label: face.description ? faceLabel(face.description, nameOf) : `Face ${index + 1}`,
      note: noteOf(
        anonymous,
        found?.person.name,
        people,
        plain ? '' : takes(face.witness, instant, catalogue),
      ),
      person,
      signedIn: person?.hasAccount ?? false,
      visit: plain ? null : face.witness.visit,
      instant: plain || face.witness.instant === instant ? null : face.witness.instant,
    };
    return { step, people, anonymous };
  });
  sized.sort((left, right) => Number(right.anonymous) - Number(left.anonymous) || right.people - left.people);
  return sized.map(({ step }) => step);
}

/** What a viewer's visit and moment have to be, in a few words; empty where a plain visit now will do. */
function takes(witness: Viewer, instant: number, catalogue: Catalogue): string {
  const visit = Object.entries(witness.visit).flatMap(([id, value]) => {
    const attribute = catalogue.get(id);
    const known = attribute && readValue(attribute, value);
    return attribute && known !== undefined ? [`${attribute.label} ${formatValue(attribute, known)}`] : [];
  });
  const moment = witness.instant === instant ? [] : [momentLabel(witness.instant, catalogue.zone)];
  return [...visit, ...moment].join(', ');
}

function noteOf(anonymous: boolean, name: string | undefined, people: number, needs: string): string {
  if (needs !== '') return `${nobodyToday}: ${needs}`;
  if (anonymous) return people === 0 ? 'anonymous visitors' : `anonymous and ${count(people)} contacts`;
  if (name === undefined) return nobodyToday;
  return people === 1 ? name : `${name} and ${count(people - 1)} more`;
}

function faceLabel(
  { in: some, notIn, facts }: FaceDescription,
  nameOf: (audience: string) => string,
): string {
  const inside = some.map(nameOf).join(' and ');
  const outside = notIn.length === 0 ? '' : `not ${notIn.map((id) => `“${nameOf(id)}”`).join(' or ')}`;
  // By attributes where that is no longer, or where audiences only say what it is not.
  if (facts && facts.length > 0 && (some.length === 0 || facts.length < some.length + notIn.length))
    return capital(facts.join(', '));
  const words = [inside, outside].filter((part) => part !== '').join(', ') || 'everybody';
  return capital(words);
}

function capital(words: string): string {
  return words.charAt(0).toUpperCase() + words.slice(1);
}

/** A person who does not exist, with just the values that lead to a face. */
function invented(
  witness: { contact: Record<string, unknown> | null; signedIn: boolean },
  index: number,
): PersonRecord {
  return {
    id: -1 - index,
    name: 'Somebody invented',
    email: '',
    values: witness.contact ?? {},
    hasAccount: witness.signedIn,
  };
}

/**
 * Offers the faces of what is open to the viewer bar, as long as it is open.
 *
 * @param current the face that is on screen
 */
export function useSteps(
  analysis: DocumentAnalysis | undefined,
  cast: Cast | undefined,
  nameOf: (audience: string) => string,
  current: string | undefined,
): readonly Step[] {
  const { setSteps, since } = useLooking();
  const catalogue = useCatalogue();
  const names = cast?.people.map(({ audience }) => nameOf(audience)).join('\n');
  // biome-ignore lint/correctness/useExhaustiveDependencies: the names stand for the function
  const steps = useMemo(
    () =>
      analysis && cast && catalogue && analysis.faces.length > 0
        ? stepsByFace(analysis, cast, nameOf, since, catalogue)
        : [],
    [analysis, cast, names, catalogue, since],
  );
  useEffect(() => setSteps(steps, current), [steps, current, setSteps]);
  useEffect(() => () => setSteps([], undefined), [setSteps]);
  return steps;
}
