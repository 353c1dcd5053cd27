import { dequal } from 'dequal';
import { Trash2 } from 'lucide-react';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { type Profile, profileSchema, type ValueKind, valueKinds } from '../../../contract/attributes.ts';
import { type Attribute, attributeSchema } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { call, callWithoutAnswer, messageOf, useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { Button } from '../../parts/button.tsx';
import { kindOfValues, typeWord, typeWords } from '../../parts/condition/type-words.ts';
import { Confirm } from '../../parts/confirm.tsx';
import { Notice } from '../../parts/notice.tsx';
import { Select } from '../../parts/select.tsx';
import { toast } from '../../parts/toast.tsx';
import { useUnsavedChanges } from '../../parts/unsaved-changes.tsx';
import { ChoicesEditor } from './choices-editor.tsx';
import { Distribution } from './distribution.tsx';
import { peopleWith } from './people-with.ts';
import { SetAsideValues } from './set-aside-values.tsx';
import { TypeDialog } from './type-dialog.tsx';

const kinds = {
  page: 'pages',
  email: 'emails',
  shared: 'shared',
  collection: 'collections',
  item: 'items',
  audience: 'audiences',
  fact: 'people/facts#',
  menu: 'site-settings#',
  crm: 'people/sync#',
} as const;

/** One attribute: what it is, what the contacts hold of it, where it is used. */
export function AttributeDetail({
  attribute,
  catalogue,
  editable,
}: {
  attribute: Attribute;
  catalogue: Catalogue;
  editable: boolean;
}) {
  const path = `/attributes/${attribute.id}`;
  const { data: profile } = useApi(`${path}/profile`, profileSchema);
  const navigate = useNavigate();
  const [base, setBase] = useState(attribute);
  const [draft, setDraft] = useState(attribute);
  const [problem, setProblem] = useState<string>();
  const [asking, setAsking] = useState<'delete' | ValueKind>();
  // What somebody else stored is taken over while nothing was changed here.
  if (!dequal(base, attribute) && dequal(base, draft)) {
    setBase(attribute);
    setDraft(attribute);
  }
  const dirty = !dequal(base, draft);
  const unsaved = useUnsavedChanges(() => dirty);
  const take = (stored: Attribute) => {
    setBase(stored);
    setDraft(stored);
    setProblem(undefined);
  };
  const store = async (next: Attribute) => {
    try {
      take(await call('PUT', path, attributeSchema, { before: base, attribute: next }));
      toast.success(`“${next.label}” is saved.`);
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const remove = async () => {
    setAsking(undefined);
    try {
      await callWithoutAnswer('DELETE', path);
      unsaved.settle();
      toast(`“${attribute.label}” is deleted.`);
      void navigate('/people/attributes');
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const held = profile ? profile.total - profile.lacking : 0;
  return (
    <>
      {unsaved.question}
      <div className="flex items-start gap-3">
        <div className="min-w-0 flex-1">
          {editable ? (
            <input
              aria-label="Name of the attribute"
              className="-mx-2 w-full rounded-md bg-transparent px-2 font-display text-[26px] font-semibold leading-9"
              value={draft.label}
              maxLength={120}
              onChange={(event) => setDraft({ ...draft, label: event.target.value })}
            />
          ) : (
            <h1 className="text-[26px] leading-9 first-letter:uppercase">{attribute.label}</h1>
          )}
          {editable ? (
            <input
              aria-label="Description"
              placeholder="Description of the attribute"
              className="-mx-2 w-full rounded-md bg-transparent px-2 text-quiet"
              value={draft.description}
              maxLength={500}
              onChange={(event) => setDraft({ ...draft, description: event.target.value })}
            />
          ) : (
            <p className="text-quiet">{attribute.description}</p>
          )}
        </div>
        {editable && (
          <>
            <Button look="danger" icon={<Trash2 size={15} aria-hidden />} onClick={() => setAsking('delete')}>
              Delete
            </Button>
            <Button
              look="primary"
              disabled={!dirty || draft.label.trim() === ''}
              onClick={() => store({ ...draft, label: draft.label.trim() })}
            >
              {dirty ? 'Save' : 'Saved'}
            </Button>
          </>
        )}
      </div>
      {problem !== undefined && (
        <div className="mt-3 max-w-2xl">
          <Notice kind="wrong" title={problem} />
        </div>
      )}
      <dl className="mt-4 flex flex-wrap gap-x-10 gap-y-2">
        <div>
          <dt className="text-quiet">Type</dt>
          <dd className="font-medium">
            {editable ? (
              <Select
                aria-label="Type"
                className="h-8"
                value={kindOfValues(base)}
                onChange={setAsking}
                options={valueKinds
                  .filter((type) => type === base.type || !['path', 'language', 'address'].includes(type))
                  .map((type) => ({ value: type, label: typeWords[type] }))}
              />
            ) : (
              typeWord(attribute)
            )}
          </dd>
        </div>
        {profile && attribute.source === 'contact' && (
          <div>
            <dt className="text-quiet">Without a value</dt>
            <dd className="font-medium">
              <Link
                to={peopleWith({ kind: 'test', attribute: attribute.id, op: 'has-no-value', values: [] })}
                className="underline"
              >
                {count(profile.lacking)} of {count(profile.total)}
              </Link>{' '}
              <span className="font-normal text-quiet">
                ({profile.total === 0 ? 0 : Math.round((100 * profile.lacking) / profile.total)}%)
              </span>
            </dd>
          </div>
        )}
        <div>
          <dt className="text-quiet">Used in</dt>
          <dd className="flex flex-wrap gap-x-3">
            {profile?.uses.length === 0 && <span className="text-quiet">nothing yet</span>}
            {profile?.uses.map((use) => (
              <Link key={`${use.what} ${use.id}`} to={`/${kinds[use.what]}/${use.id}`} className="underline">
                {use.name}
              </Link>
            ))}
          </dd>
        </div>
      </dl>
      <SetAsideValues attribute={attribute} />
      {profile && attribute.source === 'contact' && profile.bars.length > 0 && (
        <section aria-label="Values" className="mt-5">
          <h2 className="mb-2 text-[16px]">Values</h2>
          <Distribution attribute={attribute} profile={profile} />
        </section>
      )}
      {editable && (draft.type === 'choice' || draft.type === 'set') && (
        <ChoicesEditor
          attribute={draft}
          stored={base}
          counts={countsOf(profile)}
          onChange={setDraft}
          onMerge={async (from, into) => {
            try {
              take(await call('POST', `${path}/merge-choices`, attributeSchema, { from, into }));
            } catch (error) {
              setProblem(messageOf(error));
            }
          }}
        />
      )}
      <TypeDialog
        attribute={base}
        type={asking === 'delete' ? undefined : asking}
        onClose={() => setAsking(undefined)}
        onConvert={(next) => {
          setAsking(undefined);
          void store(next);
        }}
      />
      <Confirm
        open={asking === 'delete'}
        title={`Delete “${attribute.label}”?`}
        description={
          held === 0
            ? 'Nobody has a value of it.'
            : `${count(held)} ${held === 1 ? 'person has' : 'people have'} a value of it, which goes with it. The values stay in the history of each person.`
        }
        action="Delete it and its values"
        onConfirm={remove}
        onClose={() => setAsking(undefined)}
      />
      {catalogue.zone && attribute.type === 'date-time' && (
        <p className="mt-3 text-quiet">Shown in the site’s time zone, {catalogue.zone}.</p>
      )}
    </>
  );
}

/** How many people have each choice, by its label as it is saved. */
function countsOf(profile: Profile | undefined): ReadonlyMap<string, number> {
  return new Map(
    profile?.bars.flatMap(({ condition, count }) =>
      condition.kind === 'test' && condition.values.length === 1
        ? [[String(condition.values[0]), count]]
        : [],
    ),
  );
}
