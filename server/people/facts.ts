import type { z } from 'zod';
import type { factChangeSchema, factDraftSchema, ListedFact } from '../../contract/facts.ts';
import { breaking } from '../../core/audiences/fact.ts';
import { factProblems } from '../../core/audiences/fact-problems.ts';
import { newId } from '../ids.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import { inTransaction } from '../store/transaction.ts';
import type { People } from './people.ts';
import { allFacts, countFacts, deleteFact, factRow, insertFact, updateFact } from './rows.ts';

type Draft = z.infer<typeof factDraftSchema>;
const mostFacts = 100;

/** What an organisation states to hold for all its contacts. */
export class StatedFacts {
  constructor(
    private readonly people: People,
    private readonly drafts: Drafts,
  ) {}

  async list(): Promise<ListedFact[]> {
    const { snapshot, catalogue } = await this.drafts.decider();
    const listed = (await allFacts()).map((row) => {
      const { id, who, also, accountName, revision } = row;
      return { id, who, also, accountName, revision, problems: factProblems(row, catalogue) };
    });
    const sound = listed.filter(({ problems }) => problems.length === 0);
    const counts = await this.people.asks.count(
      this.people.scopeOf(snapshot),
      this.people.now(),
      sound.flatMap((fact) => [fact.who, breaking(fact)]),
    );
    return listed.map((fact) => {
      const at = sound.indexOf(fact);
      return { ...fact, about: counts[2 * at] ?? 0, breaking: counts[2 * at + 1] ?? 0 };
    });
  }

  async create(draft: Draft, accountName: string): Promise<{ id: string }> {
    await this.refuseBad(draft);
    if ((await countFacts()) >= mostFacts)
      throw new Refusal(422, `There are ${mostFacts} facts already, which is the most there can be.`);
    const id = newId();
    await insertFact({ id, ...draft, accountName });
    return { id };
  }

  async change(id: string, change: z.infer<typeof factChangeSchema>, accountName: string): Promise<void> {
    const { revision, ...draft } = change;
    await this.refuseBad(draft);
    await inTransaction(async (transaction) => {
      const row = await factRow(id, transaction);
      if (!row) throw notFound('fact');
      if (row.revision !== revision)
        throw new Refusal(409, 'Someone changed this after you opened it. Yours was not stored.', {
          current: { who: row.who, also: row.also, revision: row.revision },
        });
      await updateFact(row, { ...draft, accountName, revision: revision + 1 }, transaction);
    });
  }

  async remove(id: string): Promise<void> {
    if (!(await deleteFact(id))) throw notFound('fact');
  }

  private async refuseBad(draft: Draft): Promise<void> {
    const { catalogue } = await this.drafts.decider();
    const problems = factProblems(draft, catalogue);
    const [first] = problems;
    if (first) throw new Refusal(422, `This can’t be a rule: it ${first.message}.`, { fields: problems });
  }
}
