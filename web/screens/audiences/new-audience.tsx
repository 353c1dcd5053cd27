import { useState } from 'react';
import { mutate } from 'swr';
import { storedAudienceSchema } from '../../../contract/audiences.ts';
import { all, type Condition } from '../../../core/conditions/condition.ts';
import { call } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { useAudiences, useCatalogue } from '../../data/data.ts';
import { noteStep } from '../../data/first-steps.ts';
import { Button } from '../../parts/button.tsx';
import { asGroup, GroupEditor } from '../../parts/condition/condition-editor.tsx';
import { Regrouping } from '../../parts/condition/regrouping.tsx';
import { Dialog } from '../../parts/dialog.tsx';
import { TextField } from '../../parts/field.tsx';
import { Form } from '../../parts/form.tsx';
import { useCount } from './who-they-are.tsx';

/** A dialog for a new audience: its name and its condition, with how many contacts match. */
export function NewAudience({
  name: firstName,
  onSettle,
}: {
  name: string;
  /** Given the id of what was saved, or undefined where nothing was. */
  onSettle: (id: string | undefined) => void;
}) {
  const { data: audiences = [] } = useAudiences();
  const catalogue = useCatalogue();
  const [name, setName] = useState(firstName);
  const [condition, setCondition] = useState<Condition>(() => all());
  const { data: counted } = useCount(condition, null);
  const isEverybody = condition.kind === 'all' && condition.of.length === 0;
  const save = async () => {
    const draft = { name, description: '', condition, examples: [] };
    const { id } = await call('POST', '/audiences', storedAudienceSchema, draft);
    noteStep('audience');
    await mutate('/audiences');
    onSettle(id);
  };
  return (
    <Dialog open onClose={() => onSettle(undefined)} title="New audience">
      <Form onSend={save} className="gap-4">
        <TextField
          label="Name"
          value={name}
          maxLength={120}
          onChange={(event) => setName(event.target.value)}
        />
        {catalogue && (
          <div className="text-[16px] leading-7">
            <Regrouping root={asGroup(condition)} onChange={setCondition}>
              <GroupEditor
                lead="People"
                group={asGroup(condition)}
                onChange={setCondition}
                surroundings={{
                  catalogue,
                  audiences,
                  problems: counted?.problems ?? [],
                  ...(counted && {
                    counts: {
                      parts: new Map(counted.parts.map((part) => [part.path, part.count])),
                      total: counted.total,
                    },
                  }),
                }}
              />
            </Regrouping>
          </div>
        )}
        <p role="status" className="min-h-5 text-quiet">
          {isEverybody
            ? 'Without a condition, everyone is in this audience.'
            : counted && counted.problems.length === 0
              ? `${count(counted.count)} of ${count(counted.total)} contacts`
              : ''}
        </p>
        <div className="flex justify-end gap-2">
          <Button look="quiet" onClick={() => onSettle(undefined)}>
            Cancel
          </Button>
          <Button type="submit" look="primary" disabled={name.trim() === ''}>
            Save audience
          </Button>
        </div>
      </Form>
    </Dialog>
  );
}
