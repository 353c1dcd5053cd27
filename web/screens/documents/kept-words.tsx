import { dequal } from 'dequal';
import { useEffect, useState } from 'react';
import { z } from 'zod';
import type { StoredDocument } from '../../../contract/documents.ts';
import { accessSchema, contentSchema } from '../../../core/documents/document.ts';
import { ownerName } from '../../data/api.ts';
import { saidInstant } from '../../data/moment.ts';
import { findUnsaved, keepUnsaved } from '../../data/unsaved.ts';
import { TextButton } from '../../parts/button.tsx';
import { Notice } from '../../parts/notice.tsx';
import { type Draft, draftOf } from './use-document.ts';

const draftSchema = z.object({
  name: z.string(),
  slug: z.string(),
  access: accessSchema.nullable(),
  collection: z.string().nullable(),
  content: contentSchema,
});

interface Kept {
  readonly draft: Draft;
  readonly revision: number;
  readonly at: number;
  readonly by?: string | undefined;
}

/** Offers what was written here and never stored, as after a crash. */
export function KeptWords({
  stored,
  onTakeUp,
}: {
  stored: StoredDocument;
  onTakeUp: (draft: Draft, revision: number) => void;
}) {
  const [kept, setKept] = useState<Kept>();
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when the document is opened
  useEffect(() => {
    let open = true;
    void findUnsaved(stored.id).then((found) => {
      const draft = draftSchema.safeParse(found?.draft).data;
      if (open && found && draft && !dequal(draft, draftOf(stored))) setKept({ ...found, draft });
    });
    return () => {
      open = false;
    };
  }, [stored.id]);
  if (!kept) return null;
  const other = kept.by === ownerName() ? undefined : kept.by;
  return (
    <div className="mb-3">
      <Notice
        kind="careful"
        title={other ? `There are unsaved changes by ${other}` : 'You have unsaved changes'}
      >
        {other ?? 'You'} made them {saidInstant(new Date(kept.at).toISOString())} in this browser. You can{' '}
        <TextButton
          onClick={() => {
            onTakeUp(kept.draft, kept.revision);
            setKept(undefined);
          }}
        >
          restore them
        </TextButton>
        {' or '}
        <TextButton
          onClick={() => {
            keepUnsaved(stored.id, undefined);
            setKept(undefined);
          }}
        >
          discard them
        </TextButton>
      </Notice>
    </div>
  );
}
