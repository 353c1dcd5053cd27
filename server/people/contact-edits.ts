import type { z } from 'zod';
import type {
  ChangeKind,
  Contact,
  ContactChange,
  erasedSchema,
  HistoryEntry,
  mergeRequestSchema,
  NewContact,
  Seen,
} from '../../contract/people.ts';
import type { Catalogue } from '../../core/attributes/catalogue.ts';
import { unstorable } from '../../core/attributes/parse.ts';
import { firstWords, slotsOf } from '../../core/documents/document.ts';
import { type Fields, mailField, sameValue } from '../../core/exchange/merge.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import type { LiveSite } from '../snapshots/live.ts';
import type { Sessions } from '../store/sessions.ts';
import { inTransaction, inTransactionAmongOthers, type Transaction } from '../store/transaction.ts';
import { addressProblem } from './address-problem.ts';
import {
  contactKnownBy,
  contactRow,
  deleteContact,
  historyOf,
  insertContact,
  moveAccount,
  moveHistory,
  noted,
  recordChange,
  siteAccount,
  updateContact,
} from './contact-rows.ts';
import type { ContactTies } from './contact-ties.ts';
import type { Contacts } from './contacts.ts';
import { displayName } from './display-name.ts';
import { type People, personAsViewer } from './people.ts';
import type { ContactRow } from './rows.ts';

const historyShown = 200;

/** What is done to one contact, with its history; and what that contact sees. */
export class ContactEdits {
  constructor(
    private readonly people: People,
    private readonly drafts: Drafts,
    private readonly contacts: Contacts,
    private readonly live: LiveSite,
    private readonly ties: ContactTies,
    private readonly sessions: Sessions,
  ) {}

  /** Adds somebody. Refused where there is a contact with that address already. */
  async add({ email, values }: NewContact, accountName: string): Promise<Contact> {
    const { catalogue } = await this.drafts.decider();
    const problem = addressProblem(email);
    if (problem !== undefined)
      throw new Refusal(422, `“${email}” ${problem}.`, { fields: [{ path: 'email', message: problem }] });
    refuseUnstorable(values, catalogue);
    const own = Object.fromEntries(Object.entries(values).filter(([, value]) => value !== null));
    const id = await inTransactionAmongOthers(async (transaction) => {
      const known = await contactKnownBy({ email }, transaction);
      if (known)
        throw new Refusal(409, `“${known.email}” is the address of ${known.name} already.`, {
          current: { id: known.id },
          fields: [{ path: 'email', message: 'is somebody’s already' }],
        });
      const row = await insertContact({ email, name: displayName(own, email), values: own }, transaction);
      const fields: { [field: string]: [unknown, unknown] } = {};
      for (const [attribute, value] of Object.entries(own)) fields[attribute] = [null, value];
      await record(row.id, 'added', fields, accountName, transaction);
      return row.id;
    });
    return this.contacts.get(id);
  }

  /** Stores values of a contact. Refused where somebody else changed the contact since it was read. */
  async change(id: number, change: ContactChange, accountName: string): Promise<Contact> {
    const { catalogue } = await this.drafts.decider();
    refuseUnstorable(change.values, catalogue);
    await inTransaction(async (transaction) => {
      const row = await locked(id, transaction);
      if (row.updatedAt.toISOString() !== change.updatedAt)
        throw new Refusal(
          409,
          'Someone changed this contact after you opened it. What is stored now is shown; yours was not stored.',
        );
      const values = { ...row.values };
      const fields: { [field: string]: [unknown, unknown] } = {};
      for (const [attribute, value] of Object.entries(change.values)) {
        const before = values[attribute] ?? null;
        if (sameValue(before, value as string | null)) continue;
        if (value === null) delete values[attribute];
        else values[attribute] = value;
        fields[attribute] = [before, value];
      }
      const mayMail = row.unsubscribedAt === null;
      if (change.mail !== undefined && change.mail !== mayMail) fields[mailField] = [mayMail, change.mail];
      if (Object.keys(fields).length === 0) return;
      await updateContact(
        row,
        {
          values,
          name: displayName(values, row.email),
          ...(fields[mailField] && { unsubscribedAt: change.mail ? null : new Date() }),
        },
        transaction,
      );
      await record(id, 'changed', fields, accountName, transaction);
    });
    return this.contacts.get(id);
  }

  /** What happened to a contact, the latest first. */
  async history(id: number): Promise<HistoryEntry[]> {
    const rows = await historyOf(id, historyShown);
    const names = await this.ties.fileNames([...new Set(rows.flatMap(({ importId }) => importId ?? []))]);
    const changes = rows.map(({ id: change, at, kind, source, accountName, importId, fields }) => {
      const name = importId ? names.get(importId) : undefined;
      return {
        id: Number(change),
        at: at.toISOString(),
        kind,
        source,
        by: accountName,
        file: importId && name !== undefined ? { id: importId, name } : null,
        fields: fields as HistoryEntry['fields'],
        email: null,
      };
    });
    const byTime = (one: HistoryEntry, other: HistoryEntry) => other.at.localeCompare(one.at);
    return [...changes, ...(await this.ties.emails(id, historyShown))].sort(byTime).slice(0, historyShown);
  }

  /** What a contact gets of each page and email that is live. */
  async sees(id: number): Promise<Seen[]> {
    const person = await this.people.get(id);
    if (!person) throw notFound('contact');
    const { current } = this.live;
    if (!current) return [];
    const { decider } = current.compiled;
    const viewer = personAsViewer(person, Date.now());
    return current.snapshot.documents.flatMap(({ id: document, kind, name, content }) => {
      if (kind === 'shared') return [];
      const facts = decider.facts(kind === 'email' ? { ...viewer, signedIn: false } : viewer);
      const choices = decider.decide(document, facts);
      const slots = slotsOf(content).map((slot, index) => {
        const variant = choices[index] ?? -1;
        const shown = variant < 0 ? slot.otherwise : (slot.variants[variant]?.content ?? []);
        return { name: slot.name, variant, words: firstWords(shown, ({ fallback }) => fallback ?? '…') };
      });
      return [{ document, kind, name, slots }];
    });
  }

  /** Makes one of two records of one person: the other's history, mail and account go over, the other is gone. */
  async merge(
    id: number,
    { other, fromOther }: z.infer<typeof mergeRequestSchema>,
    accountName: string,
  ): Promise<Contact> {
    if (other === id) throw new Refusal(422, 'A contact can’t be merged with itself.');
    await inTransaction(async (transaction) => {
      const row = await locked(id, transaction);
      const gone = await locked(other, transaction);
      const values = { ...row.values };
      const fields: { [field: string]: [unknown, unknown] } = {};
      for (const attribute of fromOther) {
        const [before, now] = [values[attribute] ?? null, gone.values[attribute] ?? null];
        if (sameValue(before, now as string | null)) continue;
        if (now === null) delete values[attribute];
        else values[attribute] = now;
        fields[attribute] = [before, now];
      }
      await moveHistory(other, id, transaction);
      await moveAccount(other, id, transaction);
      await this.ties.move(other, { id, name: row.name }, transaction);
      await this.sessions.endOf(other, transaction);
      const { externalId = null } = gone;
      await deleteContact(gone, transaction);
      await updateContact(
        row,
        {
          values,
          name: displayName(values, row.email),
          externalId: row.externalId ?? externalId,
          // Who asked for no mail under one address gets none under the other.
          unsubscribedAt: row.unsubscribedAt ?? gone.unsubscribedAt,
        },
        transaction,
      );
      await record(id, 'merged', fields, accountName, transaction);
    });
    return this.contacts.get(id);
  }

  /** Erases a contact with everything personal that is kept of it anywhere. */
  async erase(id: number): Promise<z.infer<typeof erasedSchema>> {
    const { erased, imports, email } = await inTransaction(async (transaction) => {
      const row = await locked(id, transaction);
      const { email } = row;
      const { changes, imports } = await noted(id, transaction);
      const account = (await siteAccount(id, transaction)) !== null;
      const { messages, deliveries } = await this.ties.erase({ id, email }, transaction);
      await this.sessions.endOf(id, transaction);
      await deleteContact(row, transaction);
      return { erased: { changes, messages, deliveries, account }, imports, email };
    });
    return { ...erased, files: await this.ties.forgetInFiles(imports, email) };
  }
}

/** Refuses values that are none of their attributes; null is none any more. */
function refuseUnstorable(values: { readonly [attribute: string]: unknown }, catalogue: Catalogue): void {
  const problems = Object.entries(values).flatMap(([attribute, value]) => {
    const known = catalogue.get(attribute);
    const path = `values.${attribute}`;
    if (known?.source !== 'contact' || attribute === 'email')
      return [{ path, message: 'there is no such attribute to be stored' }];
    const message = value === null ? undefined : unstorable(known, value);
    return message === undefined ? [] : [{ path, message: `${known.label} ${message}` }];
  });
  const [problem] = problems;
  if (problem) throw new Refusal(422, `This can’t be stored: ${problem.message}.`, { fields: problems });
}

async function locked(id: number, transaction: Transaction): Promise<ContactRow> {
  const row = await contactRow(id, transaction);
  if (!row) throw notFound('contact');
  return row;
}

async function record(
  contactId: number,
  kind: ChangeKind,
  fields: Fields,
  accountName: string,
  transaction: Transaction,
): Promise<void> {
  await recordChange({ contactId, kind, source: 'person', accountName, fields }, transaction);
}
