import { Copy, Ellipsis, Trash2 } from 'lucide-react';
import { useNavigate } from 'react-router';
import { type ListedDocument, storedDocumentSchema } from '../../../contract/documents.ts';
import { call, callWithoutAnswer, messageOf } from '../../data/api.ts';
import { IconButton } from '../../parts/button.tsx';
import { Menu } from '../../parts/menu.tsx';
import { toast } from '../../parts/toast.tsx';

/** What can be done with a page, an email or a piece of shared content as a whole. */
export function DocumentMenu({ document, path }: { document: ListedDocument; path: string }) {
  const navigate = useNavigate();
  const { id, name } = document;
  const duplicate = async () => {
    try {
      const made = await call('POST', `/documents/${id}/duplicate`, storedDocumentSchema);
      toast.success(`“${made.name}” is created.`);
      void navigate(`/${path}/${made.id}`);
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  const remove = async () => {
    try {
      const stored = await call('GET', `/documents/${id}`, storedDocumentSchema);
      await callWithoutAnswer('DELETE', `/documents/${id}`);
      toast(`“${name}” is deleted. It stays live until the next release.`, {
        action: { label: 'Undo', onClick: () => void restore(stored) },
      });
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  return (
    <Menu
      trigger={
        <IconButton label={`Actions for “${name}”`}>
          <Ellipsis size={16} />
        </IconButton>
      }
      actions={[
        { label: 'Duplicate', icon: <Copy size={15} aria-hidden />, onChoose: () => void duplicate() },
        {
          label: 'Delete',
          icon: <Trash2 size={15} aria-hidden />,
          onChoose: () => void remove(),
          removes: true,
        },
      ]}
    />
  );
}

/** Makes a document again that was deleted a moment ago, as it was. */
async function restore(deleted: ReturnType<typeof storedDocumentSchema.parse>): Promise<void> {
  try {
    const { kind, name, slug } = deleted;
    const made = await call('POST', '/documents', storedDocumentSchema, { kind, name, slug });
    const { content, access = null, collection = null } = deleted;
    await callWithoutAnswer('PUT', `/documents/${made.id}`, {
      revision: made.revision,
      name,
      content,
      ...(kind === 'page' && { slug, access, collection }),
    });
    toast.success(`“${name}” is back.`);
  } catch (error) {
    toast.error(messageOf(error));
  }
}
