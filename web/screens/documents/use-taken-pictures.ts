import { type RefObject, useEffect, useRef } from 'react';
import { storedFileSchema } from '../../../contract/collections.ts';
import { messageOf } from '../../data/api.ts';
import { upload } from '../../data/files.ts';
import { toast } from '../../parts/toast.tsx';
import type { Beside, Landing } from './canvas-places.ts';

/** How long the outcome of an upload is shown, in milliseconds. */
const uploadShown = 4000;

/**
 * Takes pictures that are dropped on the canvas, or pasted: each is uploaded and becomes a block.
 *
 * @param landing where something that is dropped at a point goes
 * @param onOver called with the place under a picture that is dragged, undefined once it is gone
 * @param onPicture called with the id of an uploaded file, its name, and where it goes; below the chosen block if that is undefined
 */
export function useTakenPictures(
  frame: RefObject<HTMLElement | null>,
  handlers: {
    landing: (point: { x: number; y: number }) => Landing | undefined;
    onOver: (landing: Landing | undefined) => void;
    onPicture: (file: string, name: string, to: Beside | undefined) => void;
  },
): void {
  const latest = useRef(handlers);
  latest.current = handlers;
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const take = async (files: readonly File[], to: Beside | undefined) => {
      for (const file of files) {
        const shown = { id: `upload ${file.name}`, duration: uploadShown };
        toast(`Uploading “${file.name}”…`, { ...shown, duration: Number.POSITIVE_INFINITY });
        try {
          const { id } = await upload(`/files?name=${encodeURIComponent(file.name)}`, file, storedFileSchema);
          latest.current.onPicture(id, file.name, to);
          toast.success(`“${file.name}” is added. Check its alt text.`, shown);
        } catch (error) {
          toast.error(messageOf(error), shown);
        }
      }
    };
    const over = (event: DragEvent) => {
      if (!event.dataTransfer?.types.includes('Files')) return;
      event.preventDefault();
      latest.current.onOver(latest.current.landing({ x: event.clientX, y: event.clientY }));
    };
    const leave = () => latest.current.onOver(undefined);
    const drop = (event: DragEvent) => {
      const pictures = picturesIn(event.dataTransfer);
      if (!event.dataTransfer?.types.includes('Files')) return;
      event.preventDefault();
      leave();
      if (pictures.length === 0) toast.error('Only pictures can be dropped here.');
      else void take(pictures, latest.current.landing({ x: event.clientX, y: event.clientY })?.to);
    };
    const paste = (event: ClipboardEvent) => {
      const pictures = picturesIn(event.clipboardData);
      // Text that is copied together with a picture of itself is pasted as text.
      if (pictures.length === 0 || event.clipboardData?.types.includes('text/html')) return;
      if (event.target instanceof HTMLElement && event.target.closest('input, textarea, [role=dialog]'))
        return;
      event.preventDefault();
      void take(pictures, undefined);
    };
    element.addEventListener('dragover', over);
    element.addEventListener('dragleave', leave);
    element.addEventListener('drop', drop);
    document.addEventListener('paste', paste);
    return () => {
      element.removeEventListener('dragover', over);
      element.removeEventListener('dragleave', leave);
      element.removeEventListener('drop', drop);
      document.removeEventListener('paste', paste);
    };
  }, [frame]);
}

function picturesIn(data: DataTransfer | null): File[] {
  return [...(data?.files ?? [])].filter(({ type }) => type.startsWith('image/'));
}
