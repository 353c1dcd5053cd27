import { ArrowDown, ArrowUp, ChevronLeft, Plus, ShieldCheck } from 'lucide-react';
import { useState } from 'react';
import { Link, NavLink, useNavigate, useParams } from 'react-router';
import { type Attribute, type AttributeSource, attributeSchema } from '../../../core/attributes/attribute.ts';
import { call, callWithoutAnswer, messageOf } from '../../data/api.ts';
import { useCatalogue } from '../../data/data.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Button, IconButton } from '../../parts/button.tsx';
import { typeWord } from '../../parts/condition/type-words.ts';
import { Empty } from '../../parts/notice.tsx';
import { toast } from '../../parts/toast.tsx';
import { AttributeDetail } from './attribute-detail.tsx';
import { useSetAside } from './set-aside-values.tsx';

const basics = new Set(['first-name', 'last-name', 'email']);
const groups: readonly (readonly [AttributeSource, string])[] = [
  ['contact', 'About the person'],
  ['sign-in', 'Signed in or not'],
  ['visit', 'About the visit'],
  ['moment', 'Date and time'],
  ['item', 'About the item shown'],
];

/** Everything that audiences can ask for, with what is really there. */
export function Component() {
  const { id } = useParams();
  const navigate = useNavigate();
  const catalogue = useCatalogue();
  const [name, setName] = useState('');
  const setAside = useSetAside();
  useTabTitle('Attributes');
  if (!catalogue) return null;
  const own = catalogue.attributes.filter(
    (attribute) => attribute.source === 'contact' && !basics.has(attribute.id),
  );
  const chosen = catalogue.get(id ?? own[0]?.id ?? 'email');
  const create = async () => {
    try {
      const attribute: Attribute = {
        id: 'new',
        source: 'contact',
        label: name,
        description: '',
        type: 'text',
      };
      const made = await call('POST', '/attributes', attributeSchema, { attribute });
      setName('');
      void navigate(`/people/attributes/${made.id}`);
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  const move = async (attribute: Attribute, by: -1 | 1) => {
    const ids = own.map((other) => other.id);
    const at = ids.indexOf(attribute.id);
    ids.splice(at, 1);
    ids.splice(at + by, 0, attribute.id);
    try {
      await callWithoutAnswer('PUT', '/attributes', { ids });
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  return (
    <div className="grid h-full grid-cols-1 wide:grid-cols-[300px_1fr]">
      <aside aria-label="Attributes" className="overflow-y-auto border-r border-line px-4 py-5">
        <Link to="/people" className="inline-flex items-center gap-1 px-1 text-quiet hover:text-ink">
          <ChevronLeft size={15} aria-hidden /> All people
        </Link>
        <Link
          to="/people/facts"
          className="mt-2 flex items-center gap-2 rounded-md px-2 py-1 text-quiet hover:bg-paper hover:text-ink"
        >
          <ShieldCheck size={15} aria-hidden /> Data rules
        </Link>
        <form
          className="mt-3 flex gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (name.trim() !== '') void create();
          }}
        >
          <input
            aria-label="Name of a new attribute"
            placeholder="New attribute"
            className="h-9 min-w-0 flex-1 rounded-md border border-line bg-paper px-3"
            value={name}
            maxLength={120}
            onChange={(event) => setName(event.target.value)}
          />
          <Button type="submit" disabled={name.trim() === ''} icon={<Plus size={15} aria-hidden />}>
            Add
          </Button>
        </form>
        {groups.map(([source, heading]) => {
          const attributes = catalogue.attributes.filter((attribute) => attribute.source === source);
          if (attributes.length === 0) return null;
          return (
            <section key={source} aria-label={heading} className="mt-4">
              <h2 className="mb-1 px-2 font-sans text-[12px] font-normal text-quiet">{heading}</h2>
              <ul>
                {attributes.map((attribute) => (
                  <li
                    key={attribute.id}
                    className={`flex items-center rounded-md ${attribute.id === chosen?.id ? 'bg-paper font-semibold' : 'hover:bg-paper'}`}
                  >
                    <NavLink
                      to={`/people/attributes/${attribute.id}`}
                      className="flex min-w-0 flex-1 items-baseline gap-2 px-2 py-1"
                    >
                      <span className="min-w-0 flex-1 truncate first-letter:uppercase">
                        {attribute.label}
                      </span>
                      {!(own.includes(attribute) && attribute.id === chosen?.id) && (
                        <span className="text-[12px] font-normal text-quiet">
                          {setAside[attribute.id]
                            ? `${setAside[attribute.id]} set aside`
                            : typeWord(attribute)}
                        </span>
                      )}
                    </NavLink>
                    {own.includes(attribute) && attribute.id === chosen?.id && (
                      <>
                        <IconButton
                          label={`Move ${attribute.label} up`}
                          disabled={attribute === own[0]}
                          onClick={() => move(attribute, -1)}
                        >
                          <ArrowUp size={14} />
                        </IconButton>
                        <IconButton
                          label={`Move ${attribute.label} down`}
                          disabled={attribute === own.at(-1)}
                          onClick={() => move(attribute, 1)}
                        >
                          <ArrowDown size={14} />
                        </IconButton>
                      </>
                    )}
                  </li>
                ))}
              </ul>
            </section>
          );
        })}
      </aside>
      <div className="overflow-y-auto px-7 py-5">
        {chosen ? (
          <AttributeDetail
            key={chosen.id}
            attribute={chosen}
            catalogue={catalogue}
            editable={own.includes(chosen)}
          />
        ) : (
          <Empty title="There is no such attribute; it may have been deleted" />
        )}
      </div>
    </div>
  );
}
