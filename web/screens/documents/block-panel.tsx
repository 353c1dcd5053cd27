import type { Editor } from '@tiptap/react';
import { ArrowDown, ArrowUp, Copy, Trash2 } from 'lucide-react';
import { lazy, Suspense } from 'react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import type { Picture } from '../../../contract/documents.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { type ScreenWidth, screenWidths } from '../../../core/documents/blocks/kind.ts';
import type { Block, DocumentKind } from '../../../core/documents/document.ts';
import { IconButton } from '../../parts/button.tsx';
import { SelectField } from '../../parts/select-field.tsx';
import { kindName, settingsOf } from './blocks/blocks.ts';
import { DifferButton, type Differing } from './differ-button.tsx';

const TextTools = lazy(async () => ({ default: (await import('./text-tools.tsx')).TextTools }));

export interface BlockActions {
  update: (update: (block: Block) => Block) => void;
  move: (by: -1 | 1) => void;
  duplicate: () => void;
  remove: () => void;
  differ: (how: Differing) => void;
}

/** What can be set of the chosen block, and what can be done with it. */
export function BlockPanel({
  block,
  kind,
  editor,
  audiences,
  pictures,
  catalogue,
  canDiffer,
  setForAll,
  actions,
}: {
  block: Block;
  /** Of the document that it stands in. */
  kind: DocumentKind;
  editor: Editor | null;
  audiences: readonly ListedAudience[];
  pictures: readonly Picture[];
  catalogue: Catalogue;
  canDiffer: boolean;
  setForAll: readonly string[] | undefined;
  actions: BlockActions;
}) {
  const isLine = block.kind === 'line';
  const Settings = settingsOf(block);
  return (
    <section aria-label={kindName(block.kind)} className="flex flex-col gap-2">
      <div className="flex items-center">
        <h2 className="flex-1 text-[16px]">{kindName(block.kind)}</h2>
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
      {editor && (
        <Suspense>
          <TextTools editor={editor} catalogue={catalogue} audiences={audiences} kind={block.kind} />
        </Suspense>
      )}
      {Settings && (
        <Settings
          block={block}
          pictures={pictures}
          audiences={audiences}
          catalogue={catalogue}
          update={actions.update}
        />
      )}
      {kind !== 'email' && !isLine && (
        <Screens
          screens={block.screens}
          onChange={(screens) => actions.update((old) => onScreens(old, screens))}
        />
      )}
      {canDiffer && <DifferButton audiences={audiences} setForAll={setForAll} onDiffer={actions.differ} />}
    </section>
  );
}

const screensWords: Record<ScreenWidth, string> = {
  narrow: 'narrow screens only',
  wide: 'wide screens only',
};

/** The widths of screen that a block is shown at. */
function Screens({
  screens,
  onChange,
}: {
  screens: ScreenWidth | undefined;
  onChange: (screens: ScreenWidth | undefined) => void;
}) {
  return (
    <>
      <SelectField
        label="Screens"
        value={screens ?? 'all'}
        options={[
          { value: 'all', label: 'all screens' },
          ...screenWidths.map((value) => ({ value, label: screensWords[value] })),
        ]}
        onChange={(chosen) => onChange(screenWidths.find((width) => width === chosen))}
      />
      {screens && (
        <p className="text-quiet">
          Narrow is up to 640 pixels, as on a phone. Everyone still receives the block; to keep it from
          somebody, show it only to an audience.
        </p>
      )}
    </>
  );
}

function onScreens(block: Block, screens: ScreenWidth | undefined): Block {
  const changed = { ...block };
  if (screens) changed.screens = screens;
  else delete changed.screens;
  return changed;
}
