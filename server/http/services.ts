import type { Viewer } from '../../core/attributes/viewer.ts';
import type { Sending } from '../mail/sending.ts';
import type { ApiKeys } from '../services/api-keys.ts';
import type { Attributes } from '../services/attributes.ts';
import type { Audiences } from '../services/audiences.ts';
import type { BulkChanges } from '../services/bulk-changes.ts';
import type { Collections } from '../services/collections.ts';
import type { ContactEdits } from '../services/contact-edits.ts';
import type { Contacts } from '../services/contacts.ts';
import type { Crm } from '../services/crm.ts';
import type { Documents } from '../services/documents.ts';
import type { Drafts } from '../services/drafts.ts';
import type { StatedFacts } from '../services/facts.ts';
import type { Imports } from '../services/imports.ts';
import type { InstallationCheck } from '../services/installation.ts';
import type { Presence } from '../services/presence.ts';
import type { Releases } from '../services/releases.ts';
import type { Settings } from '../services/settings.ts';
import type { CrmStandIn } from '../standins/crm.ts';

/** Everything that the addresses of the studio ask. */
export interface Services {
  /** How often each item was opened, by its id. */
  readonly views: ReadonlyMap<string, number>;
  readonly contacts: Contacts;
  readonly contactEdits: ContactEdits;
  readonly bulkChanges: BulkChanges;
  readonly imports: Imports;
  readonly drafts: Drafts;
  readonly crm: Crm;
  /** Only on an instance of the demo. */
  readonly crmStandIn: CrmStandIn | undefined;
  readonly attributes: Attributes;
  readonly audiences: Audiences;
  readonly facts: StatedFacts;
  readonly documents: Documents;
  readonly presence: Presence;
  readonly collections: Collections;
  readonly apiKeys: ApiKeys;
  readonly installation: InstallationCheck;
  readonly settings: Settings;
  readonly exportFace: (id: string, viewer: Viewer) => Promise<{ html: string; name: string }>;
  /** Where the foreign site of the demo is; undefined where there is none. */
  readonly foreignSite: string | undefined;
  readonly releases: Releases;
  readonly sending: Sending;
  readonly pictures: readonly { name: string; alt: string }[];
}
