/** The viewer chosen in the viewer bar, as the studio keeps it for the window. */
export interface Looking {
  readonly contact: { [attribute: string]: unknown } | null;
  readonly signedIn: boolean;
  readonly visit: { [attribute: string]: unknown };
  /** The id of the item that is shown on a page of items. */
  readonly item: string | null;
  readonly instant: number;
}

/** What the server makes of what is stored: for an email as plain text too. */
export interface Made {
  readonly html: string;
  readonly text: string;
}

/** Runs in the browser. */
export function lookingNow(): Looking {
  const look = JSON.parse(sessionStorage.getItem('apple-porch-look') ?? 'null') ?? {};
  const { person = null, signedIn = false, device = 'computer', visit } = look;
  const canvas = document.querySelector<HTMLElement>('[aria-label="Canvas"]');
  return {
    contact: person?.values ?? null,
    signedIn: person !== null && signedIn,
    visit: { 'visit-device': device, ...visit },
    item: canvas?.querySelector<HTMLSelectElement>('label > select')?.value ?? null,
    // As the canvas has it: “now” stays the same for a while.
    instant: Number(canvas?.dataset.instant),
  };
}

/**
 * Runs in the browser. The first difference between the words, pictures and addresses on the canvas and those that the
 * server makes; undefined where there is none within a few seconds, which drawing may take, or where a variant is shown
 * that whoever is looked as doesn't get.
 */
export async function differenceOn({ html, text }: Made): Promise<string | undefined> {
  const plain = document.querySelector('[aria-label="Canvas"] pre');
  const canvas = () => {
    if (plain) return plain;
    const region = document.querySelector('[aria-label="Canvas"]');
    for (const element of region?.querySelectorAll('*') ?? []) {
      const root = element.shadowRoot?.querySelector('.site, .email');
      if (root) return root;
    }
    return undefined;
  };
  const said = (root: Element, areAddressesSaid: boolean): string => {
    let words = '';
    const walk = (node: Node): void => {
      if (node instanceof Text) words += node.data;
      if (!(node instanceof Element)) {
        for (const child of node.childNodes) walk(child);
        return;
      }
      if (node.matches('style, script, head, img.ProseMirror-separator')) return;
      if (node instanceof HTMLImageElement) words += `[${node.alt}]`;
      if (areAddressesSaid && node instanceof HTMLAnchorElement)
        words += `(${node.getAttribute('href')?.replace(/^https?:\/\/(127\.0\.0\.1|localhost)(:\d+)?/, '')})`;
      for (const child of node.childNodes) walk(child);
    };
    walk(root);
    return words.replace(/[\s\u200b\ufeff]+/g, '');
  };
  if (document.querySelector('[data-forced]')) return undefined;
  const page = new DOMParser().parseFromString(html, 'text/html');
  if (plain) page.body.textContent = text;
  const until = performance.now() + 4000;
  let own = '';
  let server = '';
  for (;;) {
    const root = canvas();
    // A link that is being written in leads nowhere meanwhile.
    const isWritten = root?.querySelector('[contenteditable=true]') != null;
    own = root ? said(root, !isWritten) : '(no canvas)';
    server = said(page.body, !isWritten);
    if (own === server) return undefined;
    if (performance.now() > until) break;
    await new Promise((resolve) => setTimeout(resolve, 15));
  }
  let at = 0;
  while (own[at] === server[at]) at++;
  return `canvas …${own.slice(Math.max(0, at - 30), at + 60)}… server …${server.slice(Math.max(0, at - 30), at + 60)}…`;
}
