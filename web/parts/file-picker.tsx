import { Trash2, Upload } from 'lucide-react';
import { useId, useState } from 'react';
import { storedFileSchema } from '../../contract/collections.ts';
import { listedFilesSchema } from '../../contract/files.ts';
import { messageOf, useApi } from '../data/api.ts';
import { upload } from '../data/files.ts';
import { Button, IconButton } from './button.tsx';
import { PickButton } from './pick-button.tsx';

const accepted = {
  picture: 'image/png,image/jpeg,image/gif,image/webp,image/svg+xml',
  video: 'video/mp4,video/webm',
};

/** Brings in a picture or a video by choosing or dropping it, and shows the one that is there. */
export function FilePicker({
  label,
  kind,
  file,
  onChange,
}: {
  label: string;
  kind: 'picture' | 'video';
  file: string | null;
  onChange: (file: string | null) => void;
}) {
  const id = useId();
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  const { data: files = [] } = useApi('/files', listedFilesSchema);
  const uploaded = files.filter(({ type }) => type.startsWith('video/') === (kind === 'video'));
  const take = async (chosen: File | undefined) => {
    if (!chosen) return;
    setProblem(undefined);
    setBusy(true);
    try {
      const stored = await upload(`/files?name=${encodeURIComponent(chosen.name)}`, chosen, storedFileSchema);
      if (stored.type.startsWith('video/') !== (kind === 'video')) setProblem(`This file is not a ${kind}.`);
      else onChange(stored.id);
    } catch (error) {
      setProblem(messageOf(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <fieldset
      className="flex flex-col gap-1"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        void take(event.dataTransfer.files[0]);
      }}
    >
      <label htmlFor={id} className="font-medium first-letter:uppercase">
        {label}
      </label>
      <div className="flex items-center gap-2 rounded-md border border-dashed border-edge/60 p-2">
        {file !== null && kind === 'picture' && (
          <img src={`/api/files/${file}`} alt="" className="h-12 w-16 rounded object-cover" />
        )}
        {file !== null && kind === 'video' && <span className="text-quiet">a video is chosen</span>}
        <input
          id={id}
          type="file"
          accept={accepted[kind]}
          className="sr-only"
          onChange={(event) => {
            void take(event.target.files?.[0]);
            event.target.value = '';
          }}
        />
        <Button
          className="h-8"
          disabled={busy}
          icon={<Upload size={14} aria-hidden />}
          onClick={() => document.getElementById(id)?.click()}
        >
          {busy ? 'Uploading…' : file === null ? `Choose or drop a ${kind}` : 'Replace'}
        </Button>
        {file !== null && (
          <IconButton label={`Remove the ${kind}`} onClick={() => onChange(null)}>
            <Trash2 size={14} />
          </IconButton>
        )}
      </div>
      {uploaded.length > 0 && (
        <PickButton
          label={`Choose an uploaded ${kind}…`}
          options={uploaded.map(({ id: of, name }) => ({ id: of, label: name }))}
          onChoose={onChange}
        />
      )}
      {problem !== undefined && (
        <span role="alert" className="text-apple">
          {problem}
        </span>
      )}
    </fieldset>
  );
}
