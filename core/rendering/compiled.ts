import type { Viewer } from '../attributes/viewer.ts';
import { Decider } from '../deciding/decide.ts';
import type { Snapshot } from '../deciding/release.ts';
import type { Document } from '../documents/document.ts';
import { type EmailParts, emailDocument, emailParts } from './email.ts';
import { Flat } from './flatten.ts';
import type { Given } from './markup.ts';
import { pageBody, type Surrounding, siteDocument, siteFrame } from './page.ts';

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

/** A snapshot compiled for serving: each page and email flattened once, decided and joined at each request. */
export class CompiledSnapshot {
  readonly decider: Decider;
  private readonly pages = new Map<string, { document: Document; html: Flat }>();
  private readonly emails = new Map<string, FlatEmail>();

  /** @param base the site's origin, for what must be absolute in mail */
  constructor(
    readonly snapshot: Snapshot,
    base: string,
  ) {
    this.decider = new Decider(snapshot);
    const { catalogue } = this.decider;
    const { settings, documents } = snapshot;
    const surrounding: Surrounding = {
      settings,
      catalogue,
      pages: documents.filter((document) => document.kind === 'page'),
    };
    for (const document of documents) {
      if (document.kind === 'page') {
        const title = document.slug === '' ? settings.name : `${document.name} · ${settings.name}`;
        const frame = siteFrame(pageBody(document.content, catalogue), surrounding);
        const html = new Flat([siteDocument(title, frame, settings)], catalogue, 'html');
        this.pages.set(document.slug, { document, html });
      } else {
        this.emails.set(
          document.id,
          flatEmail(emailParts(document.content, catalogue, settings, base), catalogue, settings),
        );
      }
    }
  }

  /** The HTML of the page at an address for a viewer, or undefined where no page is. */
  page(slug: string, viewer: Viewer): string | undefined {
    const page = this.pages.get(slug);
    if (!page) return undefined;
    return `<!doctype html>\n${page.html.join(this.given(page.document.id, viewer, {}))}`;
  }

  /**
   * An email composed for a viewer. Throws where the snapshot has no such email.
   *
   * @param unsubscribe the recipient's own address to stop these emails
   */
  email(documentId: string, viewer: Viewer, unsubscribe: string): Message {
    const email = this.emails.get(documentId);
    if (!email) throw new Error(`no email “${documentId}” in this snapshot`);
    const given = this.given(documentId, viewer, { unsubscribe });
    return {
      subject: oneLine(email.subject.join(given)),
      html: `<!doctype html>\n${email.html.join(given)}`,
      text: email.text.join(given),
    };
  }

  private given(documentId: string, viewer: Viewer, links: Given['links']): Given {
    const facts = this.decider.facts(viewer);
    return { facts, choices: this.decider.decide(documentId, facts), links };
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
