import { useMemo } from 'react';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { factsOf } from '../../../core/attributes/viewer.ts';
import type { Condition } from '../../../core/conditions/condition.ts';
import { explain } from '../../../core/conditions/explain.ts';
import { Membership } from '../../../core/deciding/membership.ts';
import { audienceNames, useAudiences } from '../../data/data.ts';
import { personLabel, useLooking } from '../../data/looking.tsx';
import { ExplanationTree } from '../documents/why-line.tsx';

const ownId = '\u0000own';

/** Says whether the current viewer matches a condition, and why. */
export function IsIn({ condition, catalogue }: { condition: Condition; catalogue: Catalogue }) {
  const { look, viewer } = useLooking();
  const { data: audiences = [] } = useAudiences();
  const explanation = useMemo(() => {
    const own = { id: ownId, name: '', description: '', condition };
    if (new Membership(catalogue, [...audiences, own]).problems.has(ownId)) return undefined;
    const conditionOf = (id: string) => audiences.find((audience) => audience.id === id)?.condition;
    return explain(condition, factsOf(catalogue, viewer), catalogue, conditionOf);
  }, [condition, catalogue, audiences, viewer]);
  if (!explanation) return null;
  const { name } = personLabel(look);
  return (
    <details className="mt-4 rounded-md border border-line bg-paper px-3 py-2">
      <summary className="cursor-pointer">
        {look.person ? name : 'An anonymous visitor'} is{' '}
        <strong className={explanation.holds ? 'text-leaf' : 'text-apple'}>
          {explanation.holds ? 'in it' : 'not in it'}
        </strong>
      </summary>
      <div className="mt-1">
        <ExplanationTree explanation={explanation} nameOf={audienceNames(audiences)} />
      </div>
    </details>
  );
}
