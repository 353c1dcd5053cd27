import { z } from 'zod';
import { audiencesIn, type Condition, conditionSchema } from '../conditions/condition.ts';

export const audienceNameSchema = z.string().trim().min(1, 'An audience needs a name').max(120);

/** A named, reusable condition. */
export const audienceSchema = z.object({
  id: z.string().min(1).max(64),
  name: audienceNameSchema,
  description: z.string().max(500),
  condition: conditionSchema,
});
export type Audience = z.infer<typeof audienceSchema>;

type Built = Pick<Audience, 'id' | 'condition'>;

/** An audience with all that it builds on, itself first; those that are gone are left out. */
export function audiencesBehind<Of extends Built>(id: string, audiences: ReadonlyMap<string, Of>): Of[] {
  const found = new Map<string, Of>();
  const open = [id];
  for (let next = open.pop(); next !== undefined; next = open.pop()) {
    const audience = audiences.get(next);
    if (!audience || found.has(next)) continue;
    found.set(next, audience);
    open.push(...audiencesIn(audience.condition));
  }
  return [...found.values()];
}

/**
 * A circle of audiences that build on each other, as the ids along it with the first repeated at the end, or
 * undefined where there is none. Audiences that do not exist end a path.
 */
export function findCircle(audiences: readonly Built[]): string[] | undefined {
  const byId = new Map(audiences.map((audience) => [audience.id, audience.condition]));
  const done = new Set<string>();
  const path: string[] = [];
  const visit = (id: string): string[] | undefined => {
    const start = path.indexOf(id);
    if (start >= 0) return [...path.slice(start), id];
    const condition: Condition | undefined = byId.get(id);
    if (done.has(id) || !condition) return undefined;
    path.push(id);
    for (const next of audiencesIn(condition)) {
      const circle = visit(next);
      if (circle) return circle;
    }
    path.pop();
    done.add(id);
    return undefined;
  };
  for (const audience of audiences) {
    const circle = visit(audience.id);
    if (circle) return circle;
  }
  return undefined;
}
