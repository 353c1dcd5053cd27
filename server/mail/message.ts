import type { CompiledSnapshot } from '../../core/rendering/compiled.ts';
import { type KnownPerson, personAsViewer } from '../people/people.ts';
import type { KnownTokens } from '../visitors/known.ts';
import type { UnsubscribeTokens } from './unsubscribe.ts';

/** What every message is made with. */
export interface Sender {
  readonly tokens: UnsubscribeTokens;
  readonly known: KnownTokens;
  /** The site's origin, for links. */
  readonly origin: string;
}

/** An email as one contact gets it, ready to be handed over. */
export function messageFor(
  person: KnownPerson,
  documentId: string,
  compiled: CompiledSnapshot,
  { tokens, known, origin }: Sender,
) {
  const { settings } = compiled.snapshot;
  const stop = `${origin}/site/unsubscribe?token=${tokens.make(person.id)}`;
  // Nobody is signed in while reading an email.
  const viewer = { ...personAsViewer(person, Date.now()), signedIn: false };
  const link = known.make('link', person.id, viewer.instant);
  const { subject, html, text } = compiled.emails.compose(documentId, viewer, stop, link);
  return {
    from: { name: settings.name, address: settings.fromAddress },
    to: { name: person.name === person.email ? '' : person.name, address: person.email },
    subject,
    html,
    text,
    headers: {
      'List-Unsubscribe': `<${stop}>`,
      'List-Unsubscribe-Post': 'List-Unsubscribe=One-Click',
    },
  };
}
