import type { Editor } from '@tiptap/react';
import { ArrowDown, ArrowUp, Copy, Split, Trash2 } from 'lucide-react';
import { useState } from 'react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import type { Picture } from '../../../contract/documents.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { safeAddress } from '../../../core/documents/address.ts';
import { type Block, tones } from '../../../core/documents/document.ts';
import { Button, IconButton } from '../../parts/button.tsx';
import { SelectField, TextField } from '../../parts/field.tsx';
import { Popover } from '../../parts/popover.tsx';
import { kindWords } from './outline.tsx';
import { AudiencePicker } from './slot-panel.tsx';
import { TextTools } from './text-tools.tsx';

export interface BlockActions {
  update: (update: (block: Block) => Block) => void;
  move: (by: -1 | 1) => void;
  duplicate: () => void;
  remove: () => void;
  differ: (audience: string) => void;
}

const toneWords: Record<(typeof tones)[number], string> = {
  plain: 'no ground',
  panel: 'quiet panel',
  accent: 'accent',
  warm: 'warm',
};

/** What can be set of the chosen block, and what can be done with it. */
export function BlockPanel({
  block,
  editor,
  audiences,
  pictures,
  catalogue,
  canDiffer,
  actions,
}: {
  block: Block;
  editor: Editor | null;
  audiences: readonly ListedAudience[];
  pictures: readonly Picture[];
  catalogue: Catalogue;
  canDiffer: boolean;
  actions: BlockActions;
}) {
  const [differing, setDiffering] = useState(false);
  const isLine = block.kind === 'line';
  return (
    <section aria-label={kindWords[block.kind]} className="flex flex-col gap-2">
      <div className="flex items-center">
        <h2 className="flex-1 text-[16px]">{kindWords[block.kind]}</h2>
        {!isLine && (
          <>
            <IconButton label="Move up" onClick={() => actions.move(-1)}>
              <ArrowUp size={15} />
            </IconButton>
            <IconButton label="Move down" onClick={() => actions.move(1)}>
              <ArrowDown size={15} />
            </IconButton>
            <IconButton label="Duplicate" onClick={actions.duplicate}>
              <Copy size={15} />
            </IconButton>
            <IconButton label="Delete this block" onClick={actions.remove}>
              <Trash2 size={15} />
            </IconButton>
          </>
        )}
      </div>
      {editor && <TextTools editor={editor} catalogue={catalogue} kind={block.kind} />}
      <Settings block={block} pictures={pictures} update={actions.update} />
      {canDiffer && (
        <Popover
          label="Make this differ for…"
          className="w-[280px] p-2"
          open={differing}
          onOpenChange={setDiffering}
          trigger={
            <Button className="w-full" icon={<Split size={15} aria-hidden />}>
              Make this differ for…
            </Button>
          }
        >
          <AudiencePicker
            audiences={audiences}
            onChoose={(audience) => {
              setDiffering(false);
              actions.differ(audience);
            }}
          />
        </Popover>
      )}
    </section>
  );
}

function Settings({
  block,
  pictures,
  update,
}: {
  block: Block;
  pictures: readonly Picture[];
  update: BlockActions['update'];
}) {
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
          onChange={(value) =>
            update((old) =>
              old.kind === 'heading' ? { ...old, level: value === '1' ? 1 : value === '2' ? 2 : 3 } : old,
            )
          }
        />
      );
    case 'picture':
      return (
        <>
          <fieldset>
            <legend className="font-medium">Picture</legend>
            <div className="mt-1 grid grid-cols-4 gap-1.5">
              {pictures.map((picture) => (
                <button
                  key={picture.name}
                  type="button"
                  aria-pressed={block.picture === picture.name}
                  aria-label={picture.alt}
                  onClick={() =>
                    update((old) =>
                      old.kind === 'picture'
                        ? {
                            ...old,
                            picture: picture.name,
                            alt:
                              old.alt === '' || pictures.some((p) => p.alt === old.alt)
                                ? picture.alt
                                : old.alt,
                          }
                        : old,
                    )
                  }
                  className={`overflow-hidden rounded-md border-2 ${block.picture === picture.name ? 'border-ink' : 'border-transparent'}`}
                >
                  <img
                    src={`/pictures/${picture.name}.svg`}
                    alt=""
                    className="block h-9 w-full object-cover"
                  />
                </button>
              ))}
            </div>
          </fieldset>
          <TextField
            label="In words, for those who can’t see it"
            value={block.alt}
            maxLength={300}
            onChange={(event) =>
              update((old) => (old.kind === 'picture' ? { ...old, alt: event.target.value } : old))
            }
          />
        </>
      );
    case 'button':
      return (
        <AddressField
          key={block.id}
          value={block.address}
          onChange={(address) => update((old) => (old.kind === 'button' ? { ...old, address } : old))}
        />
      );
    case 'section':
      return (
        <>
          <TextField
            label="Name in the outline"
            value={block.name}
            maxLength={120}
            onChange={(event) =>
              update((old) => (old.kind === 'section' ? { ...old, name: event.target.value } : old))
            }
          />
          <SelectField
            label="Ground"
            value={block.tone}
            options={tones.map((tone) => ({ value: tone, label: toneWords[tone] }))}
            onChange={(tone) => update((old) => (old.kind === 'section' ? { ...old, tone } : old))}
          />
          <SelectField
            label="Arrangement"
            value={block.layout}
            options={[
              { value: 'stack', label: 'one below the other' },
              { value: 'row', label: 'side by side, where there is room' },
            ]}
            onChange={(layout) => update((old) => (old.kind === 'section' ? { ...old, layout } : old))}
          />
        </>
      );
    default:
      return null;
  }
}

/** An address that is taken over only while it is safe; what is typed stays on screen with the reason. */
function AddressField({ value, onChange }: { value: string; onChange: (address: string) => void }) {
  const [typed, setTyped] = useState(value);
  const [seen, setSeen] = useState(value);
  if (value !== seen) {
    setSeen(value);
    setTyped(value);
  }
  const bad = typed !== '' && safeAddress(typed) === undefined;
  return (
    <TextField
      label="Address it leads to"
      value={typed}
      maxLength={2000}
      placeholder="/site/membership or https://…"
      problem={
        bad ? 'Use https://, mailto:, tel: or a place on the site such as /site/. Not saved.' : undefined
      }
      onChange={(event) => {
        setTyped(event.target.value);
        if (safeAddress(event.target.value) !== undefined) {
          setSeen(event.target.value);
          onChange(event.target.value);
        }
      }}
    />
  );
}
