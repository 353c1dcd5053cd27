import { type CSSProperties, createElement, Fragment, memo, type ReactNode } from 'react';
import { blocksIn } from '../../../core/rendering/keep-same.ts';
import type { Resolved } from '../../../core/rendering/resolve.ts';

export interface ViewHandlers {
  /** Called with the innermost block under the pointer. */
  onSelect?: (block: string, at: { readonly left: number; readonly top: number }) => void;
  selected?: string | null;
  /** Replaces the words of a block while it is edited. */
  editing?: { block: string; editor: ReactNode } | undefined;
}

/** A resolved tree as React elements: the same elements and attributes that the live site sends as HTML. */
export function ResolvedView({ nodes, ...handlers }: { nodes: readonly Resolved[] } & ViewHandlers) {
  return nodes.map((node, index) =>
    typeof node === 'object' && 'tag' in node ? (
      // biome-ignore lint/suspicious/noArrayIndexKey: an element has no name of its own
      <Element key={index} node={node} {...handlers} />
    ) : (
      // biome-ignore lint/suspicious/noArrayIndexKey: neither have words
      <Fragment key={index}>{view(node, handlers)}</Fragment>
    ),
  );
}

/** An element, which is drawn again only where it, what is chosen in it or what is written in it is another. */
const Element = memo(
  ({ node, ...handlers }: { node: Resolved } & ViewHandlers) => view(node, handlers),
  (before, now) => {
    if (before.node !== now.node || before.onSelect !== now.onSelect) return false;
    const blocks = blocksIn(now.node);
    const concerns = (block: string | null | undefined) => block != null && blocks.has(block);
    const isSame = before.selected === now.selected || !(concerns(before.selected) || concerns(now.selected));
    const isWrittenIn = concerns(before.editing?.block) || concerns(now.editing?.block);
    return isSame && (before.editing === now.editing || !isWrittenIn);
  },
);

function view(node: Resolved, handlers: ViewHandlers): ReactNode {
  if (typeof node === 'string') return node;
  if ('html' in node)
    // Sanitised when it was stored.
    // biome-ignore lint/security/noDangerouslySetInnerHtml: there is no other way to show HTML from elsewhere
    return <div dangerouslySetInnerHTML={{ __html: node.html }} />;
  if ('slot' in node) return <ResolvedView nodes={node.children} {...handlers} />;
  if ('words' in node)
    return (
      <span className="merge" data-missing={node.missing || undefined}>
        {node.words}
      </span>
    );
  const { block } = node;
  const { onSelect, selected, editing } = handlers;
  const own: Record<string, unknown> = {};
  for (const [name, value] of Object.entries(node.attributes)) own[reactName(name)] = reactValue(name, value);
  // Files of drafts are not on the live site yet; the studio has its own way to them.
  if (typeof own.src === 'string') own.src = own.src.replace(/^\/site\/files\//, '/api/files/');
  if (node.tag === 'form') own.onSubmit = (event: React.FormEvent) => event.preventDefault();
  if (block !== undefined) {
    own['data-block'] = block;
    if (selected === block) own['data-selected'] = '';
    if (onSelect)
      own.onClick = (event: React.MouseEvent) => {
        event.preventDefault();
        event.stopPropagation();
        onSelect(block, { left: event.clientX, top: event.clientY });
      };
  } else if (node.tag === 'a' || node.tag === 'button') {
    own.onClick = (event: React.MouseEvent) => event.preventDefault();
    own.tabIndex = -1;
  }
  if (block !== undefined && node.tag === 'a') own.tabIndex = -1;
  const isEdited = editing !== undefined && editing.block === block;
  const children = isEdited ? (
    <Edited node={node} editor={editing.editor} />
  ) : node.children.length > 0 ? (
    <ResolvedView nodes={node.children} {...handlers} />
  ) : undefined;
  // A link or button can't hold a text field: while its label is edited it is drawn as a plain element.
  return createElement(isEdited && node.tag === 'a' ? 'span' : node.tag, own, children);
}

/** The editor where the words of a block stand; of a quotation its author stays below them. */
function Edited({ node, editor }: { node: Extract<Resolved, { tag: string }>; editor: ReactNode }) {
  const [words, ...author] = node.children;
  // In an email, where both are lines of one paragraph.
  if (
    node.tag === 'p' &&
    author.length > 0 &&
    typeof words === 'object' &&
    'tag' in words &&
    words.tag === 'span'
  )
    return (
      <>
        {editor}
        <ResolvedView nodes={author} />
      </>
    );
  if (node.tag !== 'figure') return editor;
  return node.children.map((child) =>
    typeof child === 'object' && 'tag' in child && child.tag === 'blockquote' ? (
      <blockquote key="words">{editor}</blockquote>
    ) : (
      <Fragment key="rest">{view(child, {})}</Fragment>
    ),
  );
}

const reactNames: Record<string, string> = {
  class: 'className',
  for: 'htmlFor',
  cellpadding: 'cellPadding',
  cellspacing: 'cellSpacing',
  colspan: 'colSpan',
  rowspan: 'rowSpan',
  popovertarget: 'popoverTarget',
};

function reactName(name: string): string {
  return reactNames[name] ?? name;
}

function reactValue(name: string, value: string): string | CSSProperties {
  if (name !== 'style') return value;
  const declarations = value.split(';').flatMap((declaration) => {
    const at = declaration.indexOf(':');
    if (at < 0) return [];
    const property = declaration.slice(0, at).trim();
    return [
      [
        property.replace(/-([a-z])/g, (_, letter: string) => letter.toUpperCase()),
        declaration.slice(at + 1).trim(),
      ],
    ];
  });
  return Object.fromEntries(declarations) as CSSProperties;
}
