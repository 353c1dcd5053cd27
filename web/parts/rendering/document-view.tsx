import { useCallback, useMemo, useRef } from 'react';
import type { Facts, Viewer } from '../../../core/attributes/viewer.ts';
import type { Choices, Decider } from '../../../core/deciding/decide.ts';
import { Library } from '../../../core/deciding/library.ts';
import { LibraryView } from '../../../core/deciding/library-view.ts';
import type { Document } from '../../../core/documents/document.ts';
import { emailParts } from '../../../core/rendering/email.ts';
import { keepSame } from '../../../core/rendering/keep-same.ts';
import type { RenderContext } from '../../../core/rendering/markup.ts';
import { pageBody, siteFrame } from '../../../core/rendering/page.ts';
import { type Resolved, resolve } from '../../../core/rendering/resolve.ts';
import { useDocuments, useLibrary } from '../../data/data.ts';
import { ResolvedView, type ViewHandlers } from './resolved-view.tsx';
import { ShadowHost, sheetOf, useSiteSheet, useThemeSheet } from './shadow-host.tsx';

const frameCss = `
:host { display: block; color-scheme: light; }
.site { min-height: 100%; }
.email { background: #f6f2e9; min-height: 100%; }
.email table { border-collapse: separate; }
[data-block] { scroll-margin: 60px; }
`;
const editingCss = `
[data-block] { cursor: text; }
[data-block]:hover { outline: 1px dashed currentColor; outline-offset: 3px; }
[data-block][data-selected] { outline: 2px solid #f5c96b; outline-offset: 3px; }
.email [data-block][data-selected] { outline-color: #2c6748; }
.merge { border-radius: 4px; box-shadow: 0 0 0 1px color-mix(in srgb, currentColor 40%, transparent); padding: 0 3px; background: color-mix(in srgb, currentColor 10%, transparent); }
.merge[data-missing] { box-shadow: 0 0 0 1px #d79a2b; }
.ProseMirror { outline: none; min-width: 1ch; white-space: pre-wrap; overflow-wrap: anywhere; }
.site .text .ProseMirror > :last-child { margin-bottom: 0; }
.email .ProseMirror p { margin: 0 0 12px; font: 16px/24px 'Instrument Sans Variable', Helvetica, Arial, sans-serif; }
[data-block] { scroll-margin: 32px; }
.merge[data-letter]::before { content: attr(data-letter) ' '; }
.merge[data-blank]::after { content: attr(data-blank); }
.ProseMirror-selectednode.merge { box-shadow: 0 0 0 2px #f5c96b; }
.email .ProseMirror-selectednode.merge { box-shadow: 0 0 0 2px #2c6748; }
`;

/** A page or email exactly as one viewer gets it. */
export function DocumentView({
  document,
  decider,
  viewer,
  facts,
  choices,
  className,
  style,
  ...handlers
}: {
  document: Document;
  decider: Decider;
  /** Whom it is shown as: `facts` are what the decider reads of them. */
  viewer: Viewer;
  facts: Facts;
  choices: Choices;
  className?: string;
  style?: React.CSSProperties;
} & ViewHandlers) {
  const siteSheet = useSiteSheet();
  const theme = useThemeSheet(decider.snapshot.settings.theme);
  const editable = handlers.onSelect !== undefined;
  const sheets = useMemo(() => {
    const own = sheetOf(frameCss + (editable ? editingCss : ''));
    return document.kind !== 'email' && siteSheet ? [siteSheet, ...(theme ? [theme] : []), own] : [own];
  }, [document.kind, siteSheet, theme, editable]);
  const { data: documents } = useDocuments();
  const views = useLibrary()?.views;
  const drawn = useRef<readonly Resolved[]>([]);
  const resolved = useMemo(() => {
    const { catalogue, snapshot } = decider;
    const { settings, collections = [], items = [] } = snapshot;
    const library = new Library(decider, new Map(Object.entries(views ?? {})));
    const view = new LibraryView(library, viewer);
    const context: RenderContext = {
      facts,
      choices,
      links: {},
      instant: viewer.instant,
      mayOpen: (address) => mayOpen(address, library, view, documents ?? []),
      isIn: (audience) => decider.contains(audience, facts),
      entries: (list) => view.shown(list),
    };
    if (document.kind === 'email')
      return resolve(emailParts(document.content, catalogue, settings, '').body, context, catalogue);
    const pages = (documents ?? []).filter((other) => other.kind === 'page' && !other.collection);
    const of = { document: document.id, catalogue, locale: settings.locale, collections, items };
    const body = pageBody(document.content, of);
    const frame =
      document.kind === 'shared'
        ? body
        : siteFrame(body, { settings, catalogue, pages, current: document.slug });
    return resolve(frame, context, catalogue);
  }, [document, decider, facts, choices, documents, viewer, views]);
  const shown = useMemo(() => keepSame(drawn.current, resolved), [resolved]);
  drawn.current = shown;
  const latest = useRef(handlers.onSelect);
  latest.current = handlers.onSelect;
  // The same function each time, so that it alone has nothing drawn again.
  const select = useCallback<NonNullable<ViewHandlers['onSelect']>>(
    (...chosen) => latest.current?.(...chosen),
    [],
  );
  if (document.kind !== 'email' && !siteSheet) return <div className={className} style={style} />;
  return (
    <ShadowHost sheets={sheets} {...(className !== undefined && { className })} {...(style && { style })}>
      <div className={document.kind === 'email' ? 'email' : 'site'}>
        <ResolvedView nodes={shown} {...handlers} {...(editable && { onSelect: select })} />
      </div>
    </ShadowHost>
  );
}

/** Whether a viewer may open a place on the site as it is drafted. */
function mayOpen(
  address: string,
  library: Library,
  view: LibraryView,
  documents: readonly Pick<Document, 'slug' | 'access' | 'kind' | 'collection'>[],
): boolean {
  const path = address.replace(/[?#].*$/s, '').replace(/^\/site\//, '');
  const found = library.find(path);
  if (found) return view.accessLevel(found.collection, found.item) === 'open';
  const page = documents.find(
    ({ kind, slug, collection }) => kind === 'page' && !collection && slug === path,
  );
  return !page?.access || view.contains(page.access.audience);
}
