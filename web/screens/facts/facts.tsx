import { ChevronLeft, Pencil, Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { z } from 'zod';
import { type ListedFact, listedFactsSchema } from '../../../contract/facts.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { breaking } from '../../../core/audiences/fact.ts';
import { factProblems } from '../../../core/audiences/fact-problems.ts';
import { all, type Condition } from '../../../core/conditions/condition.ts';
import { say } from '../../../core/conditions/words.ts';
import { call, callWithoutAnswer, messageOf, useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { useCatalogue } from '../../data/data.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Button, IconButton } from '../../parts/button.tsx';
import { asGroup, GroupEditor } from '../../parts/condition/condition-editor.tsx';
import { Regrouping } from '../../parts/condition/regrouping.tsx';
import { Empty, Notice } from '../../parts/notice.tsx';
import { toast } from '../../parts/toast.tsx';

const createdSchema = z.object({ id: z.string() });
const contactOnly = ['contact'] as const;

interface Draft {
  who: Condition;
  also: Condition;
}

/** What an organisation states to hold for all its contacts, and who breaks it. */
export function Component() {
  const catalogue = useCatalogue();
  useTabTitle('Data rules');
  const { data: facts } = useApi('/facts', listedFactsSchema);
  const [editing, setEditing] = useState<ListedFact | 'new'>();
  if (!catalogue || !facts) return null;
  const changed = () => {
    setEditing(undefined);
  };
  const remove = async (fact: ListedFact) => {
    try {
      await callWithoutAnswer('DELETE', `/facts/${fact.id}`);
      changed();
      toast('The rule is deleted.', {
        action: {
          label: 'Undo',
          onClick: async () => {
            await call('POST', '/facts', createdSchema, { who: fact.who, also: fact.also });
            changed();
          },
        },
      });
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  return (
    <div className="h-full overflow-y-auto px-7 py-5">
      <Link to="/people/attributes" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
        <ChevronLeft size={15} aria-hidden /> All attributes
      </Link>
      <div className="mt-1 flex items-baseline gap-4">
        <h1 className="text-[26px] leading-9">Data rules</h1>
        <Button
          className="ml-auto"
          icon={<Plus size={15} aria-hidden />}
          disabled={editing !== undefined}
          onClick={() => setEditing('new')}
        >
          New rule
        </Button>
      </div>
      <p className="max-w-2xl text-quiet">
        Rules that your contacts always follow, such as “everyone with a plan is a member”. Findings treat
        whatever a rule forbids as impossible. A rule changes nothing on your site; contacts that break one
        are listed here.
      </p>
      <div className="mt-5 flex max-w-4xl flex-col gap-3">
        {editing === 'new' && (
          <FactEditor
            catalogue={catalogue}
            fact={undefined}
            onDone={changed}
            onCancel={() => setEditing(undefined)}
          />
        )}
        {facts.length === 0 && editing === undefined && (
          <Empty title="No data rules yet">
            <Button onClick={() => setEditing('new')}>Add the first rule</Button>
          </Empty>
        )}
        {facts.map((fact) =>
          editing !== 'new' && editing?.id === fact.id ? (
            <FactEditor
              key={fact.id}
              catalogue={catalogue}
              fact={fact}
              onDone={changed}
              onCancel={() => setEditing(undefined)}
            />
          ) : (
            <article
              key={fact.id}
              className="flex items-start gap-4 rounded-md border border-line bg-paper px-4 py-3"
            >
              <div className="min-w-0 flex-1">
                <p className="text-[17px] leading-7">{sayFact(fact, catalogue)}</p>
                <p className="text-quiet">
                  About {count(fact.about)} {fact.about === 1 ? 'contact' : 'contacts'} ·{' '}
                  {fact.problems[0] ? (
                    <span className="text-apple">not used: it {fact.problems[0].message}</span>
                  ) : fact.breaking === 0 ? (
                    'no contact breaks it'
                  ) : (
                    <Link
                      className="text-honey underline"
                      to={`/people?where=${encodeURIComponent(JSON.stringify(breaking(fact)))}`}
                    >
                      {count(fact.breaking)} {fact.breaking === 1 ? 'breaks' : 'break'} it
                    </Link>
                  )}{' '}
                  · added by {fact.accountName}
                </p>
              </div>
              <IconButton label="Edit rule" onClick={() => setEditing(fact)}>
                <Pencil size={15} />
              </IconButton>
              <IconButton label="Delete rule" onClick={() => remove(fact)}>
                <Trash2 size={15} />
              </IconButton>
            </article>
          ),
        )}
      </div>
    </div>
  );
}

function FactEditor({
  catalogue,
  fact,
  onDone,
  onCancel,
}: {
  catalogue: Catalogue;
  fact: ListedFact | undefined;
  onDone: () => void;
  onCancel: () => void;
}) {
  const [draft, setDraft] = useState<Draft>({ who: fact?.who ?? all(), also: fact?.also ?? all() });
  const [problem, setProblem] = useState<string>();
  const isEmpty = draft.also.kind === 'all' && draft.also.of.length === 0;
  const store = async () => {
    setProblem(undefined);
    try {
      if (fact) await callWithoutAnswer('PUT', `/facts/${fact.id}`, { ...draft, revision: fact.revision });
      else await call('POST', '/facts', createdSchema, draft);
      onDone();
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const side = (part: keyof Draft, lead: string) => (
    <section aria-label={lead} className="text-[17px] leading-8">
      <Regrouping root={asGroup(draft[part])} onChange={(next) => setDraft({ ...draft, [part]: next })}>
        <GroupEditor
          lead={lead}
          group={asGroup(draft[part])}
          onChange={(next) => setDraft({ ...draft, [part]: next })}
          surroundings={{
            catalogue,
            sources: contactOnly,
            audiences: [],
            problems: factProblems(draft, catalogue)
              .filter(({ path }) => path.startsWith(part))
              .map(({ path, message }) => ({ path: path.slice(part.length + 1), message })),
          }}
        />
      </Regrouping>
    </section>
  );
  return (
    <article className="rounded-md border border-edge bg-paper px-4 py-3">
      <div className="grid grid-cols-1 wide:grid-cols-2 gap-6">
        {side('who', 'Every contact')}
        {side('also', 'is always somebody')}
      </div>
      <p className="mt-3 text-quiet">{sayFact(draft, catalogue)}</p>
      {problem !== undefined && <Notice kind="wrong" title={problem} />}
      <div className="mt-3 flex justify-end gap-2">
        <Button look="quiet" onClick={onCancel}>
          Cancel
        </Button>
        <Button look="primary" disabled={isEmpty} onClick={store}>
          {fact ? 'Save rule' : 'Add rule'}
        </Button>
      </div>
    </article>
  );
}

function sayFact({ who, also }: Draft, catalogue: Catalogue): string {
  const isEverybody = who.kind === 'all' && who.of.length === 0;
  const said = (condition: Condition) => say(condition, catalogue, () => undefined);
  return isEverybody ? `Every contact: ${said(also)}.` : `Whenever ${said(who)}, then ${said(also)}.`;
}
