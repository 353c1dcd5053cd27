import sanitizeHtml from 'sanitize-html';
import { type Content, mapLists, type Node, regionNames } from '../../core/documents/document.ts';

/** What HTML blocks may hold: no scripts, no styles, no frames, no handlers, no addresses but safe ones. */
const options: sanitizeHtml.IOptions = {
  allowedTags: [
    ...sanitizeHtml.defaults.allowedTags,
    'img',
    'figure',
    'figcaption',
    'picture',
    'source',
    'details',
    'summary',
  ],
  allowedAttributes: {
    a: ['href', 'title', 'lang'],
    img: ['src', 'alt', 'width', 'height', 'loading'],
    td: ['colspan', 'rowspan'],
    th: ['colspan', 'rowspan', 'scope'],
    '*': ['lang', 'dir'],
  },
  allowedSchemes: ['http', 'https', 'mailto', 'tel'],
  allowedSchemesByTag: { img: ['https', 'data'] },
  allowProtocolRelative: false,
  disallowedTagsMode: 'discard',
  nestingLimit: 100,
};

export function sanitised(html: string): string {
  return sanitizeHtml(html, options);
}

/** A content in which every HTML block is sanitised. */
export function withSanitisedHtml(content: Content): Content {
  const clean = (nodes: Node[]): Node[] => {
    let changed = false;
    const mapped = nodes.map((node): Node => {
      const after = node.kind === 'html' ? { ...node, html: sanitised(node.html) } : mapLists(node, clean);
      const same = node.kind === 'html' && after.kind === 'html' ? after.html === node.html : after === node;
      changed ||= !same;
      return same ? node : after;
    });
    return changed ? mapped : nodes;
  };
  let cleaned = content;
  for (const region of regionNames) {
    const after = clean(content[region]);
    if (after !== content[region]) cleaned = { ...cleaned, [region]: after };
  }
  return cleaned;
}
