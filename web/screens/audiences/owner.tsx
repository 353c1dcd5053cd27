import { z } from 'zod';
import { type ListedAudience, storedAudienceSchema } from '../../../contract/audiences.ts';
import { call, messageOf, useApi } from '../../data/api.ts';
import { Select } from '../../parts/select.tsx';

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
    <div className="flex items-center gap-1">
      Belongs to
      <Select
        aria-label="Owner"
        look="words"
        className="text-ink underline underline-offset-2"
        value={audience.ownerName}
        onChange={(name) => void give(name)}
        placeholder="nobody"
        options={names.map((name) => ({ value: name, label: name }))}
      />
    </div>
  );
}
