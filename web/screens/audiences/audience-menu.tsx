import { Archive, ArchiveRestore, Copy } from 'lucide-react';
import { useNavigate } from 'react-router';
import { type ListedAudience, storedAudienceSchema } from '../../../contract/audiences.ts';
import { call, messageOf } from '../../data/api.ts';
import { IconButton } from '../../parts/button.tsx';
import { toast } from '../../parts/toast.tsx';

/** What can be done with a stored audience as a whole: another like it, and putting it away. */
export function AudienceMenu({
  audience,
  onProblem,
}: {
  audience: ListedAudience;
  onProblem: (message: string) => void;
}) {
  const navigate = useNavigate();
  const duplicate = async () => {
    try {
      const { name, description, condition, examples } = audience;
      const made = await call('POST', '/audiences', storedAudienceSchema, {
        name: `${name.slice(0, 100)} (copy ${new Date().toISOString().slice(11, 19)})`,
        description,
        condition,
        examples,
      });
      toast.success(`“${made.name}” is created.`);
      void navigate(`/audiences/${made.id}`);
    } catch (error) {
      onProblem(messageOf(error));
    }
  };
  const archive = async (archived: boolean) => {
    try {
      await call('POST', `/audiences/${audience.id}/archive`, storedAudienceSchema, { archived });
      toast.success(archived ? `“${audience.name}” is archived.` : `“${audience.name}” is restored.`);
    } catch (error) {
      onProblem(messageOf(error));
    }
  };
  const away = audience.archivedAt !== null;
  return (
    <>
      <IconButton label="Duplicate" onClick={duplicate}>
        <Copy size={16} />
      </IconButton>
      <IconButton label={away ? 'Restore' : 'Archive'} onClick={() => archive(!away)}>
        {away ? <ArchiveRestore size={16} /> : <Archive size={16} />}
      </IconButton>
    </>
  );
}
