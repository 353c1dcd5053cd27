import { Download, Users } from 'lucide-react';
import { useState } from 'react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import type { Viewer } from '../../../core/attributes/viewer.ts';
import { type Access, type Document, slugSchema } from '../../../core/documents/document.ts';
import { messageOf } from '../../data/api.ts';
import { useCollections, useDocuments } from '../../data/data.ts';
import { save } from '../../data/files.ts';
import { Button } from '../../parts/button.tsx';
import { TextField } from '../../parts/field.tsx';
import { SelectField } from '../../parts/select-field.tsx';
import { toast } from '../../parts/toast.tsx';
import { AccessField } from '../collections/access-field.tsx';
import { DifferButton, type Differing } from './differ-button.tsx';

/** A page as a whole: its address, who may open it, whether it shows items, its title, and taking a face of it away. */
export function PagePanel({
  document,
  audiences,
  viewer,
  onChange,
  onTitle,
  onDiffer,
}: {
  document: Document;
  audiences: readonly ListedAudience[];
  viewer: Viewer;
  onChange: (change: Partial<Pick<Document, 'slug' | 'access' | 'collection'>>) => void;
  onTitle: () => void;
  onDiffer: (how: Differing) => void;
}) {
  const { data: collections = [] } = useCollections();
  const { data: documents = [] } = useDocuments();
  const others = documents.filter(
    ({ id, kind, access, collection }) => id !== document.id && kind === 'page' && !access && !collection,
  );
  const access = document.access ?? null;
  const instead = access?.otherwise ?? 'sign-in';
  const otherwise = typeof instead === 'string' ? instead : instead.page;
  const setAccess = (next: Access | null) => onChange({ access: next });
  const download = async () => {
    try {
      await save(`/documents/${document.id}/face.html`, viewer, `${document.slug || 'home'}.html`);
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  return (
    <section aria-label="The page" className="flex flex-col gap-2">
      <h2 className="text-[16px]">The page</h2>
      {!document.collection && <SlugField value={document.slug} onChange={(slug) => onChange({ slug })} />}
      <SelectField
        label="Content"
        value={document.collection ?? ''}
        options={[
          { value: '', label: 'this page' },
          ...collections.map(({ id, name }) => ({ value: id, label: `each item of ${name}` })),
        ]}
        onChange={(id) => onChange({ collection: id === '' ? null : id })}
      />
      <AccessField
        label="Who can open it"
        value={access?.audience ?? null}
        audiences={audiences}
        onChange={(audience) =>
          setAccess(audience === null ? null : { audience, otherwise: access?.otherwise ?? 'sign-in' })
        }
      />
      {access && (
        <SelectField
          label="Everyone else gets"
          value={otherwise}
          options={[
            { value: 'sign-in', label: 'the way to sign in' },
            { value: 'not-found', label: 'nothing, as if it were not there' },
            ...others.map(({ id, name }) => ({ value: id, label: `the page “${name}”` })),
          ]}
          onChange={(value) =>
            setAccess({
              ...access,
              otherwise: value === 'sign-in' || value === 'not-found' ? value : { page: value },
            })
          }
        />
      )}
      {document.content.subject.length === 0 && (
        <Button look="quiet" onClick={onTitle}>
          Give it a title of its own
        </Button>
      )}
      {audiences.length > 0 && document.content.body.length > 0 && (
        <DifferButton
          label="Make the whole page differ for…"
          audiences={audiences}
          setForAll={document.content.audiences}
          onDiffer={onDiffer}
        />
      )}
      {!document.collection && (
        <Button look="quiet" icon={<Download size={15} aria-hidden />} onClick={download}>
          This face as one HTML file
        </Button>
      )}
      {access && (
        <p className="flex items-center gap-1.5 text-quiet">
          <Users size={14} aria-hidden /> Enforced: the others find it neither in the menu nor by search.
        </p>
      )}
    </section>
  );
}

/** The address of a page, taken over only while it can be one; what is typed stays on screen with the reason. */
function SlugField({ value, onChange }: { value: string; onChange: (slug: string) => void }) {
  const [typed, setTyped] = useState(value);
  const [seen, setSeen] = useState(value);
  if (value !== seen) {
    setSeen(value);
    setTyped(value);
  }
  return (
    <TextField
      label="Path after /site/"
      value={typed}
      maxLength={80}
      placeholder="the home page"
      problem={
        slugSchema.safeParse(typed).success
          ? undefined
          : 'Only a to z, digits and single hyphens between them. Not saved.'
      }
      onChange={(event) => {
        const slug = event.target.value
          .toLowerCase()
          .replace(/[^a-z0-9-]/g, '-')
          .replace(/-+/g, '-');
        setTyped(slug);
        if (!slugSchema.safeParse(slug).success) return;
        setSeen(slug);
        onChange(slug);
      }}
    />
  );
}
