import { ChevronLeft, Plus } from 'lucide-react';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { z } from 'zod';
import { slug } from '../../../core/exchange/slug.ts';
import { useAddressFlag } from '../../data/address-flag.ts';
import { call } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { audienceNames, useAudiences, useCollections } from '../../data/data.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Button } from '../../parts/button.tsx';
import { Dialog } from '../../parts/dialog.tsx';
import { TextField } from '../../parts/field.tsx';
import { Form } from '../../parts/form.tsx';
import { Empty } from '../../parts/notice.tsx';

const head = 'border-b border-line px-3 py-2 text-left font-medium';
const cell = 'border-b border-line/60 px-3 py-2.5 align-top';

/** All collections: what they hold, who may open their items, which page shows them. */
export function Component() {
  const { data: collections } = useCollections();
  const { data: audiences } = useAudiences();
  const nameOf = audienceNames(audiences);
  const [adding, setAdding] = useAddressFlag('new');
  useTabTitle('Collections');
  return (
    <div className="h-full overflow-y-auto px-6 pt-5">
      <Link to="/pages" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
        <ChevronLeft size={15} aria-hidden /> All pages
      </Link>
      <div className="mt-1 flex items-baseline gap-4">
        <h1 className="text-[26px] leading-8">Collections</h1>
        <p className="text-quiet">Entries of one kind: guides, events, goods</p>
        <Button className="ml-auto" icon={<Plus size={15} aria-hidden />} onClick={() => setAdding(true)}>
          New collection
        </Button>
      </div>
      {collections?.length === 0 ? (
        <div className="mt-4">
          <Empty title="No collection yet">
            <Button onClick={() => setAdding(true)}>Create the first collection</Button>
          </Empty>
        </div>
      ) : (
        <table className="mt-3 w-full border-separate border-spacing-0 rounded-md border border-line bg-paper">
          <thead>
            <tr>
              {['Collection', 'Items', 'Who can open them', 'Shown by', 'Path'].map((title) => (
                <th key={title} scope="col" className={head}>
                  {title}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {collections?.map((collection) => (
              <tr key={collection.id} className="hover:bg-linen/60">
                <td className={cell}>
                  <Link to={`/collections/${collection.id}`} className="font-semibold hover:underline">
                    {collection.name}
                  </Link>
                  <div className="text-quiet">
                    {collection.fields.map(({ attribute }) => attribute.label).join(', ') || 'no fields yet'}
                  </div>
                </td>
                <td className={`${cell} whitespace-nowrap`}>
                  <strong>{count(collection.items)}</strong>
                  <div className="text-quiet">{count(collection.openToAll)} open to a visitor</div>
                </td>
                <td className={cell}>
                  {collection.access === null ? 'everybody' : nameOf(collection.access)}
                  <div className="text-quiet">
                    {collection.locked ? 'the rest are listed as locked' : 'the rest are not listed'}
                  </div>
                </td>
                <td className={cell}>
                  {collection.page ? (
                    <Link to={`/pages/${collection.page.id}`} className="underline">
                      {collection.page.name}
                    </Link>
                  ) : (
                    <span className="text-honey">no page yet</span>
                  )}
                </td>
                <td className={`${cell} text-quiet`}>/site/{collection.slug}/…</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Dialog open={adding} onClose={() => setAdding(false)} title="New collection">
        <NewCollection />
      </Dialog>
    </div>
  );
}

function NewCollection() {
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const [address, setAddress] = useState<string>();
  const make = async () => {
    const made = await call('POST', '/collections', z.object({ id: z.string() }), {
      name,
      slug: address ?? slug(name),
    });
    void navigate(`/collections/${made.id}`);
  };
  return (
    <Form onSend={make}>
      <TextField
        label="Name"
        value={name}
        maxLength={120}
        onChange={(event) => setName(event.target.value)}
      />
      <TextField
        label="Path of its items after /site/"
        value={address ?? slug(name)}
        maxLength={80}
        onChange={(event) => setAddress(event.target.value)}
      />
      <Button look="primary" type="submit" className="self-end" disabled={name.trim() === ''}>
        Create collection
      </Button>
    </Form>
  );
}
