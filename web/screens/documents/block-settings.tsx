import { spacerSizes } from '../../../core/documents/blocks/layout.ts';
import { tones } from '../../../core/documents/document.ts';
import { useDocuments } from '../../data/data.ts';
import { Field, SelectField, TextField } from '../../parts/field.tsx';
import { FilePicker } from '../../parts/file-picker.tsx';
import { AddressField } from './address-field.tsx';
import { FormSettings } from './form-settings.tsx';
import { ListSettings } from './list-settings.tsx';
import { PictureSettings } from './picture-settings.tsx';
import type { SettingsProps } from './settings-props.ts';

const toneWords: Record<(typeof tones)[number], string> = {
  plain: 'no ground',
  panel: 'quiet panel',
  accent: 'accent',
  warm: 'warm',
};

/** What can be set of a block besides its words. */
export function BlockSettings(props: SettingsProps) {
  const { block, catalogue, update } = props;
  /** Changes some of the block’s own fields; the kind can’t have changed since it was drawn. */
  const set = (change: object) => update((old) => (old.kind === block.kind ? { ...old, ...change } : old));
  switch (block.kind) {
    case 'heading':
      return (
        <SelectField
          label="Size"
          value={String(block.level)}
          options={[
            { value: '1', label: 'large, once a page' },
            { value: '2', label: 'medium' },
            { value: '3', label: 'small' },
          ]}
          onChange={(value) => set({ level: value === '1' ? 1 : value === '2' ? 2 : 3 })}
        />
      );
    case 'picture':
      return <PictureSettings {...props} block={block} />;
    case 'button':
    case 'link':
      return (
        <AddressField
          key={block.id}
          label="Address it leads to"
          value={block.address}
          onChange={(address) => set({ address })}
        />
      );
    case 'section':
      return (
        <>
          <TextField
            label="Name in the outline"
            value={block.name}
            maxLength={120}
            onChange={(event) => set({ name: event.target.value })}
          />
          <SelectField
            label="Ground"
            value={block.tone}
            options={tones.map((tone) => ({ value: tone, label: toneWords[tone] }))}
            onChange={(tone) => set({ tone })}
          />
          <SelectField
            label="Arrangement"
            value={block.layout}
            options={[
              { value: 'stack', label: 'one below the other' },
              { value: 'row', label: 'side by side, where there is room' },
            ]}
            onChange={(layout) => set({ layout })}
          />
        </>
      );
    case 'links':
      return (
        <>
          <TextField
            label="Name, read out to who can’t see it"
            value={block.name}
            maxLength={120}
            onChange={(event) => set({ name: event.target.value })}
          />
          <SelectField
            label="Look"
            value={block.look}
            options={[
              { value: 'list', label: 'one below the other' },
              { value: 'menu', label: 'side by side, as a menu' },
            ]}
            onChange={(look) => set({ look })}
          />
          <p className="text-quiet">Add links to it while it is chosen. Each entry can differ by audience.</p>
        </>
      );
    case 'spacer':
      return (
        <SelectField
          label="Height"
          value={block.size}
          options={spacerSizes.map((size) => ({ value: size, label: size }))}
          onChange={(size) => set({ size })}
        />
      );
    case 'video':
      return (
        <>
          <FilePicker label="Video" kind="video" file={block.file} onChange={(file) => set({ file })} />
          <TextField
            label="What it shows, in words"
            value={block.caption}
            maxLength={300}
            onChange={(event) => set({ caption: event.target.value })}
          />
        </>
      );
    case 'quotation':
      return (
        <TextField
          label="Who said it"
          value={block.by}
          maxLength={200}
          onChange={(event) => set({ by: event.target.value })}
        />
      );
    case 'list':
      return <ListSettings {...props} block={block} />;
    case 'form':
      return <FormSettings {...props} block={block} />;
    case 'field':
      return (
        <SelectField
          label="Field"
          value={block.attribute}
          options={[
            ...(catalogue.get(block.attribute) ? [] : [{ value: block.attribute, label: 'choose a field' }]),
            ...catalogue.attributes
              .filter(({ source }) => source === 'item')
              .map(({ id, label }) => ({ value: id, label })),
          ]}
          onChange={(attribute) => set({ attribute })}
        />
      );
    case 'notice':
      return (
        <>
          <TextField
            label="To who is signed out"
            value={block.signedOut}
            maxLength={500}
            onChange={(event) => set({ signedOut: event.target.value })}
          />
          <TextField
            label="To who is signed in and may not"
            value={block.signedIn}
            maxLength={500}
            onChange={(event) => set({ signedIn: event.target.value })}
          />
          <AddressField
            label="Address of what opens it"
            value={block.address}
            onChange={(address) => set({ address })}
          />
        </>
      );
    case 'countdown':
      return (
        <>
          <TextField
            label="Until"
            type="datetime-local"
            value={block.until}
            onChange={(event) => event.target.value !== '' && set({ until: event.target.value.slice(0, 16) })}
          />
          <TextField
            label="Words before it"
            value={block.label}
            maxLength={200}
            onChange={(event) => set({ label: event.target.value })}
          />
          <TextField
            label="Words when it is over"
            value={block.over}
            maxLength={200}
            onChange={(event) => set({ over: event.target.value })}
          />
          <p className="text-quiet">In the site’s time zone, {catalogue.zone}.</p>
        </>
      );
    case 'html':
      return (
        <Field label="HTML" hint="Scripts, styles, frames and forms are taken out when it is saved.">
          {(attributes) => (
            <textarea
              {...attributes}
              rows={8}
              spellCheck={false}
              className="w-full rounded-md border border-edge/60 bg-paper px-2 py-1 font-mono text-[12px]"
              value={block.html}
              maxLength={200_000}
              onChange={(event) => set({ html: event.target.value })}
            />
          )}
        </Field>
      );
    case 'shared':
      return <SharedSettings {...props} block={block} />;
    default:
      return null;
  }
}

function SharedSettings({ block, update }: SettingsProps<'shared'>) {
  const { data: documents = [] } = useDocuments();
  const pieces = documents.filter(({ kind }) => kind === 'shared');
  const known = pieces.some(({ id }) => id === block.document);
  return (
    <SelectField
      label="Which piece"
      value={block.document}
      options={[
        ...(known ? [] : [{ value: block.document, label: 'choose a piece' }]),
        ...pieces.map(({ id, name }) => ({ value: id, label: name })),
      ]}
      onChange={(document) => update((old) => (old.kind === 'shared' ? { ...old, document } : old))}
    />
  );
}
