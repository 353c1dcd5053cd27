import { Plus } from 'lucide-react';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { Link, useNavigate } from 'react-router';
import { storedDocumentSchema } from '../../../contract/documents.ts';
import type { DocumentKind } from '../../../core/documents/document.ts';
import { useAddressFlag } from '../../data/address-flag.ts';
import { call, messageOf } from '../../data/api.ts';
import { audienceNames, useAudiences, useCollections, useDocuments, usePending } from '../../data/data.ts';
import { saidInstant } from '../../data/moment.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Button } from '../../parts/button.tsx';
import { Dialog } from '../../parts/dialog.tsx';
import { TextField } from '../../parts/field.tsx';
import { Empty, Notice } from '../../parts/notice.tsx';
import { DocumentMenu } from './document-menu.tsx';

const head = 'whitespace-nowrap border-b border-line px-3 py-2 text-left font-medium';
const cell = 'border-b border-line/60 px-3 py-2.5 align-top';

/** What each kind is called in sentences, and where its editor is. */
const kinds = {
  page: { one: 'page', path: 'pages' },
  email: { one: 'email', path: 'emails' },
  shared: { one: 'piece', path: 'shared' },
} as const;

/** All pages, or all emails, as a table. */
export function DocumentList({
  kind,
  title,
  children,
}: {
  kind: DocumentKind;
  title: string;
  children?: React.ReactNode;
}) {
  const { data: documents } = useDocuments();
  const { data: audiences } = useAudiences();
  const { data: pending } = usePending();
  const { data: collections = [] } = useCollections();
  const nameOfCollection = (id: string) =>
    collections.find((collection) => collection.id === id)?.name ?? 'a deleted collection';
  const [adding, setAdding] = useAddressFlag('new');
  useTabTitle(title);
  const nameOf = audienceNames(audiences);
  const own = documents?.filter((document) => document.kind === kind);
  const columns = [
    kind === 'shared' ? 'Piece' : title.slice(0, -1),
    ...(kind === 'page' ? ['Path'] : []),
    'Differs for',
    'Live',
    'Last change',
  ];
  return (
    <div className="h-full overflow-y-auto px-6 pt-5">
      <div className="flex items-baseline gap-4">
        <h1 className="text-[26px] leading-8">{title}</h1>
        <span className="ml-auto flex gap-2">
          {children}
          <Button icon={<Plus size={15} aria-hidden />} onClick={() => setAdding(true)}>
            New {kinds[kind].one}
          </Button>
        </span>
      </div>
      {own?.length === 0 ? (
        <div className="mt-4">
          <Empty title={`No ${kinds[kind].one} yet`}>
            <Button onClick={() => setAdding(true)}>Create the first {kinds[kind].one}</Button>
          </Empty>
        </div>
      ) : (
        <table className="mt-3 w-full border-separate border-spacing-0 rounded-md border border-line bg-paper">
          <thead>
            <tr>
              {columns.map((column) => (
                <th key={column} scope="col" className={head}>
                  {column}
                </th>
              ))}
              <th className={head}>
                <span className="sr-only">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {own?.map((document) => {
              const change = pending?.changes.find((other) => other.id === document.id);
              return (
                <tr key={document.id} className="hover:bg-linen/60">
                  <td className={cell}>
                    <Link
                      to={`/${kinds[kind].path}/${document.id}`}
                      className="font-semibold hover:underline"
                    >
                      {document.name}
                    </Link>
                  </td>
                  {kind === 'page' && (
                    <td className={`${cell} text-quiet`}>
                      {document.collection
                        ? `each item of ${nameOfCollection(document.collection)}`
                        : `/site/${document.slug}`}
                    </td>
                  )}
                  <td className={`${cell} max-w-xl`}>
                    {document.audiences.length === 0 ? (
                      <span className="text-quiet">the same for all</span>
                    ) : (
                      <>
                        {document.audiences.map(nameOf).join(', ')}
                        <span className="text-quiet">
                          {' '}
                          · {document.slots} {document.slots === 1 ? 'slot' : 'slots'}
                        </span>
                      </>
                    )}
                  </td>
                  <td className={`${cell} whitespace-nowrap`}>
                    {change ? (change.change === 'new' ? 'not yet' : 'unreleased changes') : 'up to date'}
                  </td>
                  <td className={`${cell} whitespace-nowrap text-quiet`}>
                    {saidInstant(document.updatedAt)}
                  </td>
                  <td className={`${cell} w-10 text-right`}>
                    <DocumentMenu document={document} path={kinds[kind].path} />
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <Dialog open={adding} onClose={() => setAdding(false)} title={`New ${kinds[kind].one}`}>
        <NewDocument kind={kind} />
      </Dialog>
    </div>
  );
}

function NewDocument({ kind }: { kind: DocumentKind }) {
  const navigate = useNavigate();
  const [problem, setProblem] = useState<string>();
  const { register, handleSubmit, formState, setValue } = useForm({ defaultValues: { name: '', slug: '' } });
  const make = handleSubmit(async ({ name, slug }) => {
    try {
      const made = await call('POST', '/documents', storedDocumentSchema, {
        kind,
        name,
        slug: slug || plainSlug(name),
      });
      void navigate(`/${kinds[kind].path}/${made.id}`, { state: 'new' });
    } catch (error) {
      setProblem(messageOf(error));
    }
  });
  return (
    <form onSubmit={make} noValidate className="flex flex-col gap-2">
      {problem !== undefined && <Notice kind="wrong" title={problem} />}
      <TextField
        label="Name"
        maxLength={120}
        problem={formState.errors.name?.message}
        {...register('name', {
          required: 'A name is needed',
          onChange: (event) => setValue('slug', plainSlug(event.target.value)),
        })}
      />
      {kind === 'page' && (
        <TextField
          label="Path after /site/"
          maxLength={80}
          problem={formState.errors.slug?.message}
          {...register('slug', {
            required: 'Enter a path',
            pattern: { value: /^[a-z0-9]+(-[a-z0-9]+)*$/, message: 'Only a to z, digits and single hyphens' },
          })}
        />
      )}
      <Button look="primary" type="submit" className="self-end" disabled={formState.isSubmitting}>
        Create {kinds[kind].one}
      </Button>
    </form>
  );
}

function plainSlug(name: string): string {
  const plain = name.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase();
  return plain
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 80);
}
