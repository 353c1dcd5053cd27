import useSWR from 'swr';
import { type Cast, castSchema } from '../../../contract/documents.ts';
import { type Content, type Document, listsOf } from '../../../core/documents/document.ts';
import { call, type RequestError } from '../../data/api.ts';

/**
 * For a document as it stands: who gets each variant and how many. Fresh figures come a moment after a change of the slots.
 *
 * @param skeleton the document without its words, which do not matter to it
 * @param audiencesVersion changes when an audience does
 */
export function useCast(skeleton: Document, instant: number | null, audiencesVersion: string) {
  const { content, kind } = skeleton;
  return useSWR<Cast, RequestError>(
    ['/documents/cast', content, kind, instant, audiencesVersion],
    () => call('POST', '/documents/cast', castSchema, { content: slotsIn(content), kind, instant }),
    { keepPreviousData: true, revalidateOnFocus: false },
  ).data;
}

/** The slots of a content without what else there is. */
function slotsIn(content: Content): Content {
  const bare = (nodes: Content['body']): Content['body'] =>
    nodes.flatMap((node): Content['body'] => {
      if (node.kind !== 'slot') return listsOf(node).flatMap(bare);
      const variants = node.variants.map((variant) => ({ ...variant, content: bare(variant.content) }));
      return [{ ...node, variants, otherwise: bare(node.otherwise) }];
    });
  return { subject: bare(content.subject), preview: bare(content.preview), body: bare(content.body) };
}
