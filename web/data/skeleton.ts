import { useMemo, useRef } from 'react';
import { type Skeleton, skeletonOf } from '../../core/analysis/skeleton.ts';
import type { Document } from '../../core/documents/document.ts';

/** A document without its words; the same object for as long as only words change, so that typing asks for nothing. */
export function useSkeleton(document: Document): Document {
  const last = useRef<Skeleton>(undefined);
  return useMemo(() => {
    const skeleton = skeletonOf(document);
    if (last.current?.key !== skeleton.key) last.current = skeleton;
    return last.current.document;
  }, [document]);
}
