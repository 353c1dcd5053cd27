import { type ReactNode, useCallback, useEffect, useMemo, useState } from 'react';
import { createPortal } from 'react-dom';
import useSWR from 'swr';
import type { Theme } from '../../../core/deciding/release.ts';
import { themeCss } from '../../../core/rendering/theme.ts';
import { takeEarly } from '../../data/early.ts';

/**
 * Content in a shadow root, so that the site's styles and the studio's don't touch each other. The same style
 * sheet as on the live site applies, through container queries also at its widths.
 */
export function ShadowHost({
  sheets,
  children,
  className,
  style,
}: {
  sheets: readonly CSSStyleSheet[];
  children: ReactNode;
  className?: string;
  style?: React.CSSProperties;
}) {
  const [root, setRoot] = useState<ShadowRoot | null>(null);
  const attach = useCallback((host: HTMLDivElement | null) => {
    if (host) setRoot(host.shadowRoot ?? host.attachShadow({ mode: 'open' }));
  }, []);
  useEffect(() => {
    if (root) root.adoptedStyleSheets = [...sheets];
  }, [root, sheets]);
  return (
    <div ref={attach} className={className} style={style}>
      {root && createPortal(children, root)}
    </div>
  );
}

export function sheetOf(css: string): CSSStyleSheet {
  const sheet = new CSSStyleSheet();
  sheet.replaceSync(css);
  return sheet;
}

/** The drafted theme over the site's own style sheet. */
export function useThemeSheet(theme: Theme | undefined): CSSStyleSheet | undefined {
  return useMemo(() => (theme ? sheetOf(themeCss(theme)) : undefined), [theme]);
}

/** The live site's own style sheet. */
export function useSiteSheet(): CSSStyleSheet | undefined {
  // Kept as text: what is asked for again is compared with what there was, and comparing two sheets takes seconds.
  const { data: css } = useSWR(
    '/site-assets/site.css',
    async (path) => {
      const response = await (takeEarly(path) ?? fetch(path));
      if (!response.ok) throw new Error(`the site's style sheet: ${response.status}`);
      // Fonts are loaded by the studio already; a shadow root ignores them.
      return (await response.text()).replace(/@font-face\s*\{[^}]*\}/g, '');
    },
    { revalidateOnFocus: false, revalidateIfStale: false },
  );
  if (css === undefined) return undefined;
  if (siteSheet?.css !== css) siteSheet = { css, sheet: sheetOf(css) };
  return siteSheet.sheet;
}

/** One sheet for all that is drawn, however much that is. */
let siteSheet: { readonly css: string; readonly sheet: CSSStyleSheet } | undefined;
