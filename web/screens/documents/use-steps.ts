import { useEffect, useMemo } from 'react';
import type { Cast } from '../../../contract/documents.ts';
import type { PersonRecord } from '../../../contract/people.ts';
import type { DocumentAnalysis } from '../../../core/analysis/analyse.ts';
import type { FaceDescription } from '../../../core/analysis/describe.ts';
import { faceKey } from '../../../core/analysis/faces.ts';
import { type Step, useLooking } from '../../app/looking.tsx';
import { count } from '../../parts/person.tsx';

/** Said of a face that can be got but that no contact gets. */
export const nobodyToday = 'possible, nobody today';

/** One person of each audience used, and anonymous. One person stands once. */
export function stepsByAudience(cast: Cast, nameOf: (audience: string) => string): Step[] {
  const anonymous = { key: 'anonymous', label: 'Anonymous', note: 'signed out, nobody we know' };
  const steps: Step[] = [{ ...anonymous, person: null, signedIn: false }];
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
      });
  }
  return steps;
}

/** Every face with somebody who gets it: the largest first, those that nobody gets today last, with one invented. */
export function stepsByFace(
  { faces }: DocumentAnalysis,
  cast: Cast,
  nameOf: (audience: string) => string,
): Step[] {
  const today = new Map(cast.faces.map((face) => [faceKey(face.choices), face]));
  const sized = faces.map((face, index) => {
    const key = faceKey(face.choices);
    const found = today.get(key);
    const { anonymous } = face.description;
    const person = anonymous ? null : (found?.person ?? invented(face.witness, index));
    const people = found?.count ?? 0;
    const step: Step = {
      key,
      label: faceLabel(face.description, nameOf),
      note: noteOf(anonymous, found?.person.name, people),
      person,
      signedIn: person?.hasAccount ?? false,
    };
    return { step, people, anonymous };
  });
  sized.sort((left, right) => Number(right.anonymous) - Number(left.anonymous) || right.people - left.people);
  return sized.map(({ step }) => step);
}

function noteOf(anonymous: boolean, name: string | undefined, people: number): string {
  if (anonymous) return people === 0 ? 'anonymous visitors' : `anonymous and ${count(people)} contacts`;
  if (name === undefined) return nobodyToday;
  return people === 1 ? name : `${name} and ${count(people - 1)} more`;
}

function faceLabel(
  { in: some, notIn, exact }: FaceDescription,
  nameOf: (audience: string) => string,
): string {
  const inside = some.map(nameOf).join(' and ');
  const outside = notIn.length === 0 ? '' : `not ${notIn.map(nameOf).join(' or ')}`;
  const words = [inside, outside].filter((part) => part !== '').join(', ') || 'everybody';
  const said = words.charAt(0).toUpperCase() + words.slice(1);
  return exact ? said : `${said}, in part`;
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
  const { setSteps } = useLooking();
  const names = cast?.people.map(({ audience }) => nameOf(audience)).join('\n');
  // biome-ignore lint/correctness/useExhaustiveDependencies: the names stand for the function
  const steps = useMemo(
    () => (analysis && cast && analysis.faces.length > 0 ? stepsByFace(analysis, cast, nameOf) : []),
    [analysis, cast, names],
  );
  useEffect(() => setSteps(steps, current), [steps, current, setSteps]);
  useEffect(() => () => setSteps([], undefined), [setSteps]);
  return steps;
}
