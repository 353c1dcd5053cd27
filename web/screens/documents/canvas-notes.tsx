import type { Item } from '../../../core/collections/collection.ts';
import type { Access } from '../../../core/documents/document.ts';
import { type Look, personLabel } from '../../data/looking.tsx';
import { Notice } from '../../parts/notice.tsx';
import { Select } from '../../parts/select.tsx';

/** Which item a page that shows each of a collection is looked at with. */
export function ItemChoice({
  items,
  item,
  onChoose,
}: {
  items: readonly Item[];
  item: Item;
  onChoose: (id: string) => void;
}) {
  return (
    <div className="mb-3 flex items-center gap-2">
      <span className="text-quiet">Showing the item</span>
      <Select
        aria-label="Item shown"
        className="h-8"
        value={item.id}
        onChange={onChoose}
        options={items.map(({ id, title }) => ({ value: id, label: title }))}
      />
    </div>
  );
}

/** Says that the viewer may not open the page, and what they get instead. */
export function ClosedNotice({ access, look }: { access: Access; look: Look }) {
  const instead = {
    'sign-in': look.signedIn ? 'a page that says so' : 'the way to sign in',
    'not-found': 'nothing',
  };
  return (
    <div className="mb-3">
      <Notice kind="careful" title={`${personLabel(look).name} may not open this page`}>
        Shown here for writing. They get{' '}
        {typeof access.otherwise === 'string' ? instead[access.otherwise] : 'another page'}.
      </Notice>
    </div>
  );
}
