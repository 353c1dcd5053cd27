/** Part of a screen that a person may go for next. */
export type Zone = 'open' | 'outline' | 'canvas' | 'panel' | 'head' | 'viewer';

/** Something on a screen that can be used, as {@link targetsOn} finds it. */
export interface Target {
  readonly zone: Zone;
  readonly tag: string;
  /** The type of an input; the role of anything that has one. */
  readonly type: string;
  /** What it is called on screen. */
  readonly name: string;
  /** How many options a choice has. */
  readonly options: number;
}

/** Where something is, once it is in view. */
export interface Place {
  readonly x: number;
  readonly y: number;
}

/**
 * Runs in the browser. Everything that can be pressed, chosen or written in, in all shadow trees; where a dialog, a
 * popover or a list of options is open, only what is in the last of them. What leads away from the screen is left out. The elements stand in
 * `window.targets` at the same indexes.
 */
export function targetsOn(zones: Readonly<Partial<Record<Zone, string>>>): Target[] {
  const usable =
    'button, input, select, textarea, summary, [role=option], [role=menuitem], [contenteditable=true], [data-block], [role=slider]';
  const found: { target: Target; element: HTMLElement }[] = [];
  const isShown = (element: Element) => element.getClientRects().length > 0;
  const nameOf = (element: HTMLElement): string => {
    const labels = 'labels' in element && element.labels instanceof NodeList ? [...element.labels] : [];
    const label = element.getAttribute('aria-label') ?? labels[0]?.textContent ?? element.textContent;
    return (label ?? '').replace(/\s+/g, ' ').trim().slice(0, 60);
  };
  const walk = (root: Element | ShadowRoot, zone: Zone): void => {
    for (const element of root.querySelectorAll<HTMLElement>('*')) {
      if (element.shadowRoot) walk(element.shadowRoot, zone);
      if (!element.matches(usable) || element.matches(':disabled, [aria-disabled=true], [type=file]'))
        continue;
      if (element.closest('a[href]') && !element.hasAttribute('data-block')) continue;
      if (!isShown(element) || element.closest('[data-sonner-toaster]')) continue;
      const written = element.getAttribute('placeholder') ?? '';
      // Days and moments are typed as text, after an example.
      const day = /^24 Nov 2026/.test(written) ? (written.includes(':') ? 'moment' : 'date') : undefined;
      const type = day ?? element.getAttribute('type') ?? element.getAttribute('role') ?? '';
      const options = element instanceof HTMLSelectElement ? element.options.length : 0;
      const tag = element.tagName.toLowerCase();
      found.push({ element, target: { zone, tag, type, name: nameOf(element), options } });
    }
  };
  const open = [...document.querySelectorAll('[role=dialog], [role=menu], [role=listbox]:not([cmdk-list])')]
    .filter(isShown)
    .at(-1);
  if (open) walk(open, 'open');
  else
    for (const [zone, selector] of Object.entries(zones) as [Zone, string][])
      for (const root of document.querySelectorAll(selector)) walk(root, zone);
  Object.assign(window, { targets: found.map(({ element }) => element) });
  return found.map(({ target }) => target);
}

/** Runs in the browser. Brings a target into view; undefined where something else is in front of it, as for a person. */
export function placeOf(index: number): Place | undefined {
  const { targets } = window as unknown as { targets: HTMLElement[] };
  const element = targets[index];
  if (!element?.isConnected) return undefined;
  element.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  const rect = element.getClientRects()[0];
  if (!rect || rect.width === 0 || rect.height === 0) return undefined;
  const x = rect.left + Math.min(rect.width / 2, 60);
  const y = rect.top + Math.min(rect.height / 2, 14);
  let hit = document.elementFromPoint(x, y);
  while (hit?.shadowRoot) {
    const inner = hit.shadowRoot.elementFromPoint(x, y);
    if (!inner || inner === hit) break;
    hit = inner;
  }
  return hit && (element.contains(hit) || hit.contains(element)) ? { x, y } : undefined;
}
