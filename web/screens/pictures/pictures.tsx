import { Replace, Upload } from 'lucide-react';
import { useRef, useState } from 'react';
import { Link } from 'react-router';
import { storedFileSchema } from '../../../contract/collections.ts';
import { fileReplacedSchema, type ListedFile, listedFilesSchema } from '../../../contract/files.ts';
import { call, messageOf, useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { upload } from '../../data/files.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Button } from '../../parts/button.tsx';
import { TextField } from '../../parts/field.tsx';
import { Empty } from '../../parts/notice.tsx';
import { toast } from '../../parts/toast.tsx';

const accepted = 'image/png,image/jpeg,image/gif,image/webp,image/svg+xml,video/mp4,video/webm';

/** The pictures and videos that were uploaded, where each is shown, and another in its place everywhere. */
export function Component() {
  const { data: files } = useApi('/files', listedFilesSchema);
  const [search, setSearch] = useState('');
  useTabTitle('Pictures');
  if (!files) return null;
  const wanted = search.trim().toLowerCase();
  const found = files.filter(
    ({ name, uses }) =>
      name.toLowerCase().includes(wanted) || uses.some((use) => use.name.toLowerCase().includes(wanted)),
  );
  return (
    <div className="h-full overflow-y-auto px-7 py-5">
      <div className="flex flex-wrap items-end gap-4">
        <h1 className="text-[26px] leading-9">Pictures</h1>
        <p className="text-quiet" role="status">
          {count(found.length)} {found.length === 1 ? 'picture or video' : 'pictures and videos'}
        </p>
        <span className="ml-auto">
          <TakeFile
            label="Upload"
            look="primary"
            icon={<Upload size={15} aria-hidden />}
            onTaken={(_, name) => {
              toast.success(`“${name}” is uploaded.`);
            }}
          />
        </span>
      </div>
      <div className="mt-2 max-w-sm">
        <TextField
          label="Search by name, page or item"
          type="search"
          value={search}
          onChange={({ target }) => setSearch(target.value)}
        />
      </div>
      {files.length === 0 ? (
        <Empty title="No uploads yet">Upload one here, or drop it on a page where it is to stand.</Empty>
      ) : (
        <ul className="mt-3 grid grid-cols-2 gap-4 wide:grid-cols-4">
          {found.map((file) => (
            <FileCard key={file.id} file={file} />
          ))}
        </ul>
      )}
    </div>
  );
}

function FileCard({ file }: { file: ListedFile }) {
  const { id, name, type, size, width, height, uses } = file;
  const isVideo = type.startsWith('video/');
  const replace = async (by: string, newName: string) => {
    const { places } = await call('POST', `/files/${id}/replacement`, fileReplacedSchema, { by });
    toast.success(`“${newName}” stands in ${placesWords(places)} now. It goes live with the next release.`, {
      duration: 20_000,
      action: {
        label: 'Undo',
        onClick: () => {
          void call('POST', `/files/${by}/replacement`, fileReplacedSchema, { by: id }).catch((error) =>
            toast.error(messageOf(error)),
          );
        },
      },
    });
  };
  return (
    <li className="flex flex-col overflow-hidden rounded-md border border-line bg-paper">
      {isVideo ? (
        <video
          src={`/api/files/${id}`}
          className="h-36 w-full bg-linen object-contain"
          muted
          preload="metadata"
        />
      ) : (
        <img src={`/api/files/${id}`} alt="" loading="lazy" className="h-36 w-full bg-linen object-contain" />
      )}
      <div className="flex flex-1 flex-col gap-1 p-3">
        <strong className="truncate" title={name}>
          {name}
        </strong>
        <span className="text-quiet">
          {width !== null && height !== null && `${count(width)} × ${count(height)}, `}
          {sizeWords(size)}
        </span>
        {uses.length === 0 ? (
          <span className="text-quiet">Not used</span>
        ) : (
          <details>
            <summary className="cursor-pointer">Used in {placesWords(uses.length)}</summary>
            <ul>
              {uses.map((use) => (
                <li key={`${use.what} ${use.id}`} className="truncate">
                  <Link to={placeOf(use)} className="underline">
                    {use.name}
                  </Link>
                </li>
              ))}
            </ul>
          </details>
        )}
        {uses.length > 0 && (
          <span className="mt-auto pt-1">
            <TakeFile
              label="Replace everywhere"
              of={name}
              icon={<Replace size={15} aria-hidden />}
              onTaken={replace}
            />
          </span>
        )}
      </div>
    </li>
  );
}

/** A button that uploads a file that is chosen. */
function TakeFile({
  label,
  of,
  look = 'plain',
  icon,
  onTaken,
}: {
  label: string;
  /** What it is done to, for who does not see where the button stands. */
  of?: string;
  look?: 'plain' | 'primary';
  icon: React.ReactNode;
  onTaken: (id: string, name: string) => void | Promise<void>;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const take = async (chosen: File | undefined) => {
    if (!chosen) return;
    setBusy(true);
    try {
      const stored = await upload(`/files?name=${encodeURIComponent(chosen.name)}`, chosen, storedFileSchema);
      await onTaken(stored.id, stored.name);
    } catch (error) {
      toast.error(messageOf(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <input
        ref={input}
        type="file"
        aria-label={of === undefined ? `${label} a file` : `${label}: ${of}`}
        tabIndex={-1}
        accept={accepted}
        className="sr-only"
        onChange={({ target }) => {
          void take(target.files?.[0]);
          target.value = '';
        }}
      />
      <Button
        look={look}
        icon={icon}
        disabled={busy}
        {...(of !== undefined && { 'aria-label': `${label}: ${of}` })}
        onClick={() => input.current?.click()}
      >
        {busy ? 'Uploading…' : label}
      </Button>
    </>
  );
}

function placesWords(places: number): string {
  return places === 1 ? 'one place' : `${count(places)} places`;
}

function placeOf({ what, id, collection }: ListedFile['uses'][number]): string {
  if (what === 'item') return `/collections/${collection}`;
  return what === 'shared' ? `/shared/${id}` : `/${what}s/${id}`;
}

const bytes = new Intl.NumberFormat('en-GB', { maximumFractionDigits: 1 });

function sizeWords(size: number): string {
  return size < 1_000_000
    ? `${bytes.format(Math.ceil(size / 1000))} kB`
    : `${bytes.format(size / 1_000_000)} MB`;
}
