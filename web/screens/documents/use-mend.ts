import { useRef } from 'react';
import type { ChosenRepair } from '../../../core/analysis/document-analysis.ts';
import { useRepair } from '../../data/analysis.ts';
import { toast } from '../../parts/toast.tsx';
import type { Edit } from './use-document.ts';
import type { Shown } from './use-shown.ts';

/** How often a repair is worked out again because somebody typed on meanwhile. */
const mostTries = 5;

/** Carries out a repair of the document as it stands by then, with every word that was written meanwhile. */
export function useMend({ document, since }: Shown, edit: Edit): (repair: ChosenRepair) => Promise<void> {
  const repair = useRepair(since);
  const current = useRef(document);
  current.current = document;
  return async (chosen) => {
    for (let tries = 0; tries < mostTries; tries++) {
      const asked = current.current;
      const content = await repair(asked, chosen);
      if (content === undefined) break;
      if (current.current !== asked) continue;
      if (content === null) {
        toast(`“${chosen.label}” no longer fits what is there now.`);
        return;
      }
      edit((before) => (before === asked.content ? content : before));
      return;
    }
    toast(`“${chosen.label}” could not be worked out in time. Try again.`);
  };
}
