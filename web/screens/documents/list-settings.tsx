import { all } from '../../../core/conditions/condition.ts';
import { listLayouts } from '../../../core/documents/blocks/items.ts';
import { useCollections } from '../../data/data.ts';
import { asGroup, GroupEditor } from '../../parts/condition/condition-editor.tsx';
import { Regrouping } from '../../parts/condition/regrouping.tsx';
import { TextField } from '../../parts/field.tsx';
import { SelectField } from '../../parts/select-field.tsx';
import { ListRemarks, withoutFields } from './list-remarks.tsx';
import type { SettingsProps } from './settings-props.ts';

const layoutWords: Record<(typeof listLayouts)[number], string> = {
  cards: 'cards with pictures',
  rows: 'rows',
};

/** Which entries of which collection, in what order and how many. */
export function ListSettings({ block, audiences, catalogue, update }: SettingsProps<'list'>) {
  const { data: collections = [] } = useCollections();
  const collection = collections.find(({ id }) => id === block.collection);
  const fields = (collection?.fields ?? [])
    .filter(({ use }) => use === 'value')
    .map(({ attribute }) => attribute);
  const set = (change: object) => update((old) => (old.kind === 'list' ? { ...old, ...change } : old));
  return (
    <>
      <SelectField
        label="Items of"
        value={block.collection}
        options={[
          ...(collection ? [] : [{ value: block.collection, label: 'choose a collection' }]),
          ...collections.map(({ id, name }) => ({ value: id, label: name })),
        ]}
        onChange={(id) => set({ collection: id, sort: 'order', remarks: withoutFields(block.remarks) })}
      />
      <SelectField
        label="As"
        value={block.layout}
        options={listLayouts.map((layout) => ({ value: layout, label: layoutWords[layout] }))}
        onChange={(layout) => set({ layout })}
      />
      <div className="grid grid-cols-2 gap-2">
        <SelectField
          label="In order of"
          value={block.sort}
          options={[
            { value: 'order', label: 'the collection' },
            { value: 'title', label: 'title' },
            { value: 'item-views', label: 'views' },
            ...fields.map(({ id, label }) => ({ value: id, label })),
          ]}
          onChange={(sort) => set({ sort })}
        />
        <SelectField
          label="Direction"
          value={block.down ? 'down' : 'up'}
          options={[
            { value: 'up', label: 'first to last' },
            { value: 'down', label: 'last to first' },
          ]}
          onChange={(direction) => set({ down: direction === 'down' })}
        />
      </div>
      <TextField
        label="Maximum number"
        type="number"
        min={1}
        max={500}
        value={block.most}
        onChange={(event) => {
          const most = Math.round(Number(event.target.value));
          if (most >= 1 && most <= 500) set({ most });
        }}
      />
      <TextField
        label="Text when the list is empty"
        value={block.empty}
        maxLength={300}
        onChange={(event) => set({ empty: event.target.value })}
      />
      <ListRemarks
        remarks={block.remarks}
        fields={fields}
        audiences={audiences}
        onChange={(remarks) => set({ remarks })}
      />
      <section aria-label="Which items">
        <Regrouping root={asGroup(block.where ?? all())} onChange={(where) => set({ where })}>
          <GroupEditor
            lead="Items"
            about="items"
            group={asGroup(block.where ?? all())}
            onChange={(where) => set({ where: where.of.length === 0 && where.kind === 'all' ? null : where })}
            surroundings={{ catalogue, audiences, problems: [] }}
          />
        </Regrouping>
      </section>
    </>
  );
}
