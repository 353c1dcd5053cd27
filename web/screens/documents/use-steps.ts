import { useEffect } from 'react';
import type { Cast } from '../../../contract/documents.ts';
import { type Step, useLooking } from '../../app/looking.tsx';

/** The viewers worth looking as: anonymous, and one person of each audience used. One person stands once. */
export function stepsOf(cast: Cast, nameOf: (audience: string) => string): Step[] {
  const steps: Step[] = [{ key: 'anonymous', label: 'Anonymous', person: null, signedIn: false }];
  for (const { audience, person } of cast.people) {
    if (!person) continue;
    const known = steps.find((step) => step.person?.id === person.id);
    if (known) known.label = `${known.label}, ${nameOf(audience)}`;
    else steps.push({ key: audience, label: nameOf(audience), person, signedIn: person.hasAccount });
  }
  return steps;
}

/** Offers the viewers of what is open to the viewer bar, as long as it is open. */
export function useSteps(cast: Cast | undefined, nameOf: (audience: string) => string): void {
  const { setSteps } = useLooking();
  const names = cast?.people.map(({ audience }) => nameOf(audience)).join('\n');
  // biome-ignore lint/correctness/useExhaustiveDependencies: the names stand for the function
  useEffect(() => {
    setSteps(cast ? stepsOf(cast, nameOf) : []);
    return () => setSteps([]);
  }, [cast, names, setSteps]);
}
