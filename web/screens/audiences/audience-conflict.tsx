import type { Example } from '../../../contract/audiences.ts';
import { all, type Condition } from '../../../core/conditions/condition.ts';
import { say } from '../../../core/conditions/words.ts';
import type { useCatalogue } from '../../data/data.ts';

export interface Draft {
  name: string;
  description: string;
  condition: Condition;
  examples: Example[];
}

export function Version({
  title,
  draft,
  catalogue,
  nameOf,
  children,
}: {
  title: string;
  draft: Draft;
  catalogue: NonNullable<ReturnType<typeof useCatalogue>>;
  nameOf: (id: string) => string;
  children: React.ReactNode;
}) {
  return (
    <div>
      <strong>{title}</strong>: {draft.name} — {say(draft.condition, catalogue, nameOf)}
      <div>{children}</div>
    </div>
  );
}

export function draftOf(audience: Draft | null): Draft {
  if (!audience) return { name: '', description: '', condition: all(), examples: [] };
  const { name, description, condition, examples } = audience;
  return { name, description, condition, examples };
}
