import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import type { Condition } from '../../../core/conditions/condition.ts';
import { say } from '../../../core/conditions/words.ts';

/** A condition in words, cut off where there is no room, and whole when it is pointed at. */
export function Said({
  condition,
  catalogue,
  nameOf,
}: {
  condition: Condition;
  catalogue: Catalogue;
  nameOf: (id: string) => string;
}) {
  const words = say(condition, catalogue, nameOf);
  return (
    <span className="truncate" title={words}>
      {words}
    </span>
  );
}
