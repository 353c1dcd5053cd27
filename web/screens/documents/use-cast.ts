import useSWR from 'swr';
import { type Cast, castSchema } from '../../../contract/documents.ts';
import { type Content, type DocumentKind, listsOf } from '../../../core/documents/document.ts';
import { call, type RequestError } from '../../data/api.ts';

/**
 * For a content as it stands: who gets each variant and how many. Fresh figures come a moment after a change of
 * the slots; texts do not matter to it.
 *
 * @param audiencesVersion changes when an audience does
 */
export function useCast(
  content: Content | undefined,
  kind: DocumentKind,
  instant: number | null,
  audiencesVersion: string,
) {
  const shape = content && skeleton(content);
  return useSWR<Cast, RequestError>(
    shape ? ['/documents/cast', shape, kind, instant, audiencesVersion] : null,
    () => call('POST', '/documents/cast', castSchema, { content: shape, kind, instant }),
    { keepPreviousData: true, revalidateOnFocus: false },
  ).data;
}

/** The slots and audiences of a content without its words. */
function skeleton(content: Content): Content {
  const bare = (nodes: Content['body']): Content['body'] =>
    nodes.flatMap((node): Content['body'] => {
      if (node.kind !== 'slot') return listsOf(node).flatMap(bare);
      const variants = node.variants.map((variant) => ({ ...variant, content: bare(variant.content) }));
      return [{ ...node, variants, otherwise: bare(node.otherwise) }];
    });
  return { subject: bare(content.subject), preview: bare(content.preview), body: bare(content.body) };
}
