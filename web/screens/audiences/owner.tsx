import { z } from 'zod';
import { type ListedAudience, storedAudienceSchema } from '../../../contract/audiences.ts';
import { call, messageOf, useApi } from '../../data/api.ts';

const teamSchema = z.array(z.string());

/** Whom an audience belongs to, which is for people to know: it keeps nobody from anything. */
export function Owner({
  audience,
  onProblem,
}: {
  audience: ListedAudience;
  onProblem: (message: string) => void;
}) {
  const { data: team = [] } = useApi('/team', teamSchema);
  const names = [...new Set([audience.ownerName, ...team])].filter((name) => name !== '');
  const give = async (ownerName: string) => {
    try {
      await call('POST', `/audiences/${audience.id}/owner`, storedAudienceSchema, { ownerName });
    } catch (error) {
      onProblem(messageOf(error));
    }
  };
  return (
    <label className="flex items-center gap-1">
      Belongs to
      <select
        className="rounded-md bg-transparent text-ink underline underline-offset-2"
        value={audience.ownerName}
        onChange={(event) => void give(event.target.value)}
      >
        {audience.ownerName === '' && <option value="">nobody</option>}
        {names.map((name) => (
          <option key={name}>{name}</option>
        ))}
      </select>
    </label>
  );
}
