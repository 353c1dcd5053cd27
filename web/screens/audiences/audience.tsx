import { dequal } from 'dequal';
import { ChevronLeft, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { type ListedAudience, storedAudienceSchema } from '../../../contract/audiences.ts';
import { useConditionAnalysis } from '../../data/analysis.ts';
import { call, callWithoutAnswer, messageOf, RequestError } from '../../data/api.ts';
import { audienceNames, useAudiences, useCatalogue } from '../../data/data.ts';
import { noteStep } from '../../data/first-steps.ts';
import { useHistory } from '../../data/history.ts';
import { useLooking } from '../../data/looking.tsx';
import { useSaveKey } from '../../data/save-key.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Button, TextButton } from '../../parts/button.tsx';
import { asGroup, GroupEditor } from '../../parts/condition/condition-editor.tsx';
import { Regrouping } from '../../parts/condition/regrouping.tsx';
import { Empty, Notice } from '../../parts/notice.tsx';
import { toast } from '../../parts/toast.tsx';
import { UndoButtons } from '../../parts/undo-buttons.tsx';
import { useUnsavedChanges } from '../../parts/unsaved-changes.tsx';
import { type Draft, draftOf, Version } from './audience-conflict.tsx';
import { AudienceMenu } from './audience-menu.tsx';
import { buildsOn } from './builds-on.ts';
import { Examples } from './examples.tsx';
import { Findings } from './findings.tsx';
import { OverTime } from './over-time.tsx';
import { Owner } from './owner.tsx';
import { Versions } from './versions.tsx';
import { useCount, WhoTheyAre } from './who-they-are.tsx';
import { Written } from './written.tsx';

export function Component() {
  const { id = '' } = useParams();
  const { data: audiences } = useAudiences();
  if (!audiences) return null;
  const audience = id === 'new' ? null : audiences.find((other) => other.id === id);
  if (audience === undefined)
    return (
      <div className="p-8">
        <Empty title="There is no such audience; it may have been deleted">
          <Link to="/audiences" className="underline">
            All audiences
          </Link>
        </Empty>
      </div>
    );
  return <AudienceEditor key={id} audience={audience} audiences={audiences} />;
}

function AudienceEditor({
  audience,
  audiences,
}: {
  audience: ListedAudience | null;
  audiences: readonly ListedAudience[];
}) {
  const navigate = useNavigate();
  const catalogue = useCatalogue();
  const [saved, setSaved] = useState<Draft>(() => draftOf(audience));
  const [revision, setRevision] = useState(audience?.revision ?? 0);
  const history = useHistory<Draft>(saved);
  const { state: draft, change } = history;
  useTabTitle(draft.name || 'New audience');
  const [problem, setProblem] = useState<{ message: string; theirs: Draft | undefined; revision: number }>();
  const { since } = useLooking();
  const analysis = useConditionAnalysis(draft.condition, audience?.id ?? null, since);
  const counted = useCount(draft.condition, audience?.id ?? null);
  const dirty = audience === null || !dequal(draft, saved);
  const unsaved = useUnsavedChanges(() => dirty && history.canUndo);
  const nameOf = audienceNames(audiences);
  const others = audiences.filter((other) => other.id !== audience?.id);

  const save = async (over = revision) => {
    setProblem(undefined);
    try {
      const stored = audience
        ? await call('PUT', `/audiences/${audience.id}`, storedAudienceSchema, { ...draft, revision: over })
        : await call('POST', '/audiences', storedAudienceSchema, draft);
      noteStep('audience');
      const now = draftOf(stored);
      setSaved(now);
      setRevision(stored.revision);
      history.reset(now);
      toast.success(`“${stored.name}” is saved. It goes live with the next release.`);
      if (!audience) {
        unsaved.settle();
        void navigate(`/audiences/${stored.id}`, { replace: true });
      }
    } catch (error) {
      const current =
        error instanceof RequestError ? storedAudienceSchema.safeParse(error.body.current).data : undefined;
      setProblem({
        message: messageOf(error),
        theirs: current && draftOf(current),
        revision: current?.revision ?? revision,
      });
    }
  };
  useSaveKey(() => {
    if (dirty) void save();
  });
  const remove = async () => {
    if (!audience) return;
    try {
      await callWithoutAnswer('DELETE', `/audiences/${audience.id}`);
      toast(`“${saved.name}” is deleted.`, {
        action: {
          label: 'Undo',
          onClick: async () => {
            const again = await call('POST', '/audiences', storedAudienceSchema, {
              ...saved,
            });
            void navigate(`/audiences/${again.id}`);
          },
        },
      });
      unsaved.settle();
      void navigate('/audiences');
    } catch (error) {
      setProblem({ message: messageOf(error), theirs: undefined, revision });
    }
  };

  return (
    <div className="grid h-full grid-cols-1 wide:grid-cols-[1fr_372px]">
      <div className="flex min-w-0 flex-col overflow-y-auto px-7 py-5">
        <div className="flex items-center gap-2">
          <Link to="/audiences" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
            <ChevronLeft size={15} aria-hidden /> All audiences
          </Link>
          <span className="ml-auto flex items-center gap-2">
            <UndoButtons history={history} />
            {audience && (
              <AudienceMenu
                audience={audience}
                onProblem={(message) => setProblem({ message, theirs: undefined, revision })}
              />
            )}
            {audience && (
              <Button look="danger" icon={<Trash2 size={15} aria-hidden />} onClick={remove}>
                Delete
              </Button>
            )}
            <Button
              look="primary"
              aria-disabled={!dirty}
              className={dirty ? '' : 'cursor-default opacity-50'}
              // The caret stays where it is while this is pressed, and a button that is off still holds the focus.
              onMouseDown={(event) => event.preventDefault()}
              onClick={() => dirty && save()}
            >
              {audience ? (dirty ? 'Save' : 'Saved') : 'Save audience'}
            </Button>
          </span>
        </div>
        <input
          aria-label="Name of the audience"
          value={draft.name}
          onChange={(event) => change((before) => ({ ...before, name: event.target.value }), 'name')}
          placeholder="Name this audience"
          // biome-ignore lint/a11y/noAutofocus: a new audience begins with its name
          autoFocus={audience === null}
          maxLength={120}
          className="-mx-2 mt-1 rounded-md bg-transparent px-2 font-display text-[26px] font-semibold leading-9"
        />
        <input
          aria-label="Description"
          value={draft.description}
          onChange={(event) =>
            change((before) => ({ ...before, description: event.target.value }), 'description')
          }
          placeholder="Description"
          maxLength={500}
          className="-mx-2 rounded-md bg-transparent px-2 text-quiet"
        />
        {audience && (
          <p className="mt-1 flex flex-wrap items-center gap-x-4 text-quiet">
            {audience.uses.length > 0 && (
              <span>Used in {audience.uses.map((use) => use.name).join(', ')}</span>
            )}
            <Owner
              audience={audience}
              onProblem={(message) => setProblem({ message, theirs: undefined, revision })}
            />
          </p>
        )}
        {problem && (
          <div className="mt-3 max-w-2xl">
            <Notice kind="wrong" title={problem.message}>
              {problem.theirs && catalogue && (
                <div className="mt-1 grid grid-cols-2 gap-4">
                  <Version title="Yours" draft={draft} catalogue={catalogue} nameOf={nameOf}>
                    <TextButton onClick={() => save(problem.revision)}>Keep mine</TextButton>
                  </Version>
                  <Version title="Theirs" draft={problem.theirs} catalogue={catalogue} nameOf={nameOf}>
                    <TextButton
                      onClick={() => {
                        if (!problem.theirs) return;
                        setSaved(problem.theirs);
                        setRevision(problem.revision);
                        history.reset(problem.theirs);
                        setProblem(undefined);
                      }}
                    >
                      Take theirs
                    </TextButton>
                  </Version>
                </div>
              )}
            </Notice>
          </div>
        )}
        <div className="mt-5 text-[18px] leading-8">
          {catalogue && (
            <Regrouping
              root={asGroup(draft.condition)}
              onChange={(condition) => change((before) => ({ ...before, condition }))}
            >
              <GroupEditor
                lead="People"
                group={asGroup(draft.condition)}
                onChange={(condition) => change((before) => ({ ...before, condition }))}
                surroundings={{
                  catalogue,
                  audiences: others.filter((other) => !buildsOn(other.id, audience?.id, audiences)),
                  problems: counted.data?.problems ?? [],
                  counts: counted.data && {
                    parts: new Map(counted.data.parts.map(({ path, count }) => [path, count])),
                    total: counted.data.total,
                  },
                }}
              />
            </Regrouping>
          )}
        </div>
        {catalogue && (
          <Written
            condition={draft.condition}
            catalogue={catalogue}
            audiences={others}
            onChange={(condition) => change((before) => ({ ...before, condition }), 'expression')}
          />
        )}
        <Findings
          proved={analysis?.findings ?? []}
          refused={analysis?.refused}
          today={counted.data?.today ?? []}
          onRepair={(condition) => change((before) => ({ ...before, condition }))}
        />
        {audience && catalogue && (
          <Versions
            audience={audience.id}
            catalogue={catalogue}
            nameOf={nameOf}
            onRestore={({ name, description, condition }) =>
              change((before) => ({ ...before, name, description, condition }))
            }
          />
        )}
        {draft.condition.kind === 'all' && draft.condition.of.length === 0 && (
          <p className="mt-3 text-quiet">
            With no tests, everyone is in this audience. Add the first with “and…”.
          </p>
        )}
      </div>
      <WhoTheyAre counted={counted} condition={draft.condition}>
        {catalogue && (
          <Examples
            examples={draft.examples}
            condition={draft.condition}
            catalogue={catalogue}
            audiences={others}
            onChange={(examples) => change((before) => ({ ...before, examples }))}
          />
        )}
        <OverTime condition={draft.condition} audience={audience?.id ?? null} />
      </WhoTheyAre>
      {unsaved.question}
    </div>
  );
}
