import type { Viewer } from '../attributes/viewer.ts';
import type { Decider } from '../deciding/decide.ts';
import type { Library } from '../deciding/library.ts';
import { LibraryView } from '../deciding/library-view.ts';
import type { Snapshot } from '../deciding/release.ts';
import { contextFor } from './compiled-page.ts';
import { type EmailParts, emailDocument, emailParts } from './email.ts';
import { Flat } from './flatten.ts';
import type { RenderContext } from './markup.ts';
import { once } from './once.ts';

export interface Message {
  subject: string;
  html: string;
  text: string;
}

interface FlatEmail {
  subject: Flat;
  html: Flat;
  text: Flat;
}

/** The emails of a snapshot, flattened when they are first wanted. */
export class CompiledEmails {
  private readonly byId = new Map<string, () => FlatEmail>();

  /** @param base the site's origin, for what must be absolute in mail */
  constructor(
    snapshot: Snapshot,
    private readonly library: Library,
    base: string,
    private readonly mayOpen: (address: string, viewer: Viewer) => boolean,
  ) {
    const { catalogue } = library.decider;
    const { settings } = snapshot;
    for (const { id, kind, content } of snapshot.documents)
      if (kind === 'email')
        this.byId.set(
          id,
          once(() => flatEmail(emailParts(content, catalogue, settings, base), catalogue, settings)),
        );
  }

  makeAll(): void {
    for (const email of this.byId.values()) email();
  }

  /**
   * An email composed for a viewer. Throws where the snapshot has no such email.
   *
   * @param unsubscribe the recipient's own address to stop these emails
   * @param known what the recipient is recognised by when a link to the site is followed
   */
  compose(documentId: string, viewer: Viewer, unsubscribe: string, known?: string): Message {
    const email = this.byId.get(documentId)?.();
    if (!email) throw new Error(`no email “${documentId}” in this snapshot`);
    const view = new LibraryView(this.library, viewer);
    const context: RenderContext = {
      ...contextFor(documentId, this.library, view, (address) => this.mayOpen(address, viewer)),
      links: { unsubscribe },
      ...(known !== undefined && { known }),
    };
    return {
      subject: oneLine(email.subject.join(context)),
      html: `<!doctype html>\n${email.html.join(context)}`,
      text: email.text.join(context),
    };
  }
}

function flatEmail(
  parts: EmailParts,
  catalogue: Decider['catalogue'],
  settings: Snapshot['settings'],
): FlatEmail {
  return {
    subject: new Flat(parts.subject, catalogue, 'text'),
    html: new Flat([emailDocument(parts, settings)], catalogue, 'html'),
    text: new Flat(parts.text, catalogue, 'text'),
  };
}

/** A header is one line: what a personal value brings in of line breaks becomes a space (RFC 5322, 2.2). */
export function oneLine(text: string): string {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what is looked for
  return text.replace(/[\u0000-\u001f\u007f\u2028\u2029]+/g, ' ').trim();
}
