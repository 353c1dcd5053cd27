import { Film, Image } from 'lucide-react';
import { pictureRatios, pictureSides } from '../../../../core/documents/blocks/pictures.ts';
import type { Block } from '../../../../core/documents/document.ts';
import { TextField } from '../../../parts/field.tsx';
import { FilePicker } from '../../../parts/file-picker.tsx';
import { SelectField } from '../../../parts/select-field.tsx';
import type { SettingsProps } from '../settings-props.ts';
import { changing, type EditedBlock } from './block.ts';

export const picture: EditedBlock<'picture'> = {
  name: 'Picture',
  icon: Image,
  group: 'Text and media',
  Settings: PictureSettings,
};

export const video: EditedBlock<'video'> = {
  name: 'Video',
  icon: Film,
  group: 'Text and media',
  Settings: VideoSettings,
};

function PictureSettings({ block, pictures, update }: SettingsProps<'picture'>) {
  return (
    <>
      <fieldset>
        <legend className="font-medium">Picture</legend>
        <div className="mt-1 grid grid-cols-4 gap-1.5">
          {pictures.map((picture) => {
            const chosen = !block.file && block.picture === picture.name;
            return (
              <button
                key={picture.name}
                type="button"
                aria-pressed={chosen}
                aria-label={picture.alt}
                onClick={() =>
                  update((old) => {
                    if (old.kind !== 'picture') return old;
                    const isOwnWords = old.alt !== '' && !pictures.some((one) => one.alt === old.alt);
                    const alt = isOwnWords ? old.alt : picture.alt;
                    return { ...old, file: null, picture: picture.name, alt };
                  })
                }
                className={`overflow-hidden rounded-md border-2 ${chosen ? 'border-ink' : 'border-transparent'}`}
              >
                <img src={`/pictures/${picture.name}.svg`} alt="" className="block h-9 w-full object-cover" />
              </button>
            );
          })}
        </div>
      </fieldset>
      <FilePicker
        label="Or your own file"
        kind="picture"
        file={block.file ?? null}
        onChange={(file) => update((old) => (old.kind === 'picture' ? { ...old, file } : old))}
      />
      <TextField
        label="Alt text"
        value={block.alt}
        maxLength={300}
        onChange={(event) =>
          update((old) => (old.kind === 'picture' ? { ...old, alt: event.target.value } : old))
        }
      />
      <SelectField
        label="Crop"
        value={block.ratio ?? 'none'}
        options={[
          { value: 'none', label: 'the whole picture' },
          ...pictureRatios.map((value) => ({ value, label: ratioWords[value] })),
        ]}
        onChange={(chosen) =>
          update((old) =>
            cropped(
              old,
              pictureRatios.find((ratio) => ratio === chosen),
              block.keeps,
            ),
          )
        }
      />
      {block.ratio && (
        <SelectField
          label="Keep in view"
          value={block.keeps ?? 'middle'}
          options={[
            { value: 'middle', label: 'the middle' },
            ...pictureSides.map((value) => ({ value, label: `the ${value}` })),
          ]}
          onChange={(chosen) =>
            update((old) =>
              cropped(
                old,
                block.ratio,
                pictureSides.find((side) => side === chosen),
              ),
            )
          }
        />
      )}
    </>
  );
}

const ratioWords: Record<(typeof pictureRatios)[number], string> = {
  '16-9': 'wide, 16 to 9',
  '3-2': 'wide, 3 to 2',
  '1-1': 'square',
  '3-4': 'tall, 3 to 4',
};

type Cropping = Pick<Extract<Block, { kind: 'picture' }>, 'ratio' | 'keeps'>;

/** A picture with another crop; what it is not cropped by is left out. */
function cropped(block: Block, ratio: Cropping['ratio'], keeps: Cropping['keeps']): Block {
  if (block.kind !== 'picture') return block;
  const { ratio: _ratio, keeps: _keeps, ...whole } = block;
  return { ...whole, ...(ratio && { ratio }), ...(ratio && keeps && { keeps }) };
}

function VideoSettings({ block, update }: SettingsProps<'video'>) {
  const set = changing(update, 'video');
  return (
    <>
      <FilePicker label="Video" kind="video" file={block.file} onChange={(file) => set({ file })} />
      <TextField
        label="Alt text"
        value={block.caption}
        maxLength={300}
        onChange={(event) => set({ caption: event.target.value })}
      />
    </>
  );
}
