import { useMemo } from 'react';
import type { StoredDocument } from '../../../contract/documents.ts';
import type { Document } from '../../../core/documents/document.ts';
import { useDecider } from '../../data/decider.ts';
import { useLooking } from '../../data/looking.tsx';
import { Button } from '../../parts/button.tsx';
import { Dialog } from '../../parts/dialog.tsx';
import { DocumentView } from '../../parts/rendering/document-view.tsx';

/** Two people changed the same document: both versions side by side, and the choice between them. */
export function ConflictDialog({
  mine,
  theirs,
  message,
  onSettle,
}: {
  mine: Document;
  theirs: StoredDocument;
  message: string;
  onSettle: (keep: 'mine' | 'theirs') => void;
}) {
  return (
    <Dialog open wide title="Two versions of this document" description={message}>
      <div className="grid grid-cols-1 wide:grid-cols-2 gap-4">
        <div>
          <div className="mb-2 flex items-center justify-between">
            <h3>Yours, on this screen</h3>
            <Button onClick={() => onSettle('mine')}>Keep mine</Button>
          </div>
          <Version document={mine} />
        </div>
        <div>
          <div className="mb-2 flex items-center justify-between">
            <h3>Theirs, stored</h3>
            <Button onClick={() => onSettle('theirs')}>Take theirs</Button>
          </div>
          <Version document={theirs} />
        </div>
      </div>
      <p className="mt-3 text-quiet">
        Either way you can undo: the other version stays in this window’s history.
      </p>
    </Dialog>
  );
}

function Version({ document }: { document: Document }) {
  const decider = useDecider(document);
  const { viewer } = useLooking();
  const decided = useMemo(() => {
    if (!decider) return undefined;
    const facts = decider.facts(viewer);
    return { facts, choices: decider.decide(document.id, facts) };
  }, [decider, viewer, document.id]);
  if (!decider || !decided) return null;
  return (
    <DocumentView
      document={document}
      decider={decider}
      viewer={viewer}
      {...decided}
      className="max-h-[52vh] overflow-y-auto rounded-md border border-line"
    />
  );
}
