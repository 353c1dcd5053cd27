import { moveExamples } from './audiences/rows.ts';
import type { Imports } from './imports/imports.ts';
import { importNames } from './imports/rows.ts';
import { eraseDeliveries, moveDeliveries, receivedBy } from './mail/rows.ts';
import type { ContactTies } from './people/contact-ties.ts';
import type { Exports } from './people/exports.ts';
import { eraseMessages } from './standins/rows.ts';

/** What all features keep of a contact. */
export function tiesOfContacts(imports: Imports, exports: Exports): ContactTies {
  return {
    fileNames: importNames,
    emails: receivedBy,
    async move(from, to, transaction) {
      await moveDeliveries(from, to.id, transaction);
      await moveExamples(from, to, transaction);
    },
    async erase({ id, email }, transaction) {
      const messages = await eraseMessages(email, transaction);
      const deliveries = await eraseDeliveries(id, transaction);
      await moveExamples(id, null, transaction);
      return { messages, deliveries };
    },
    async forgetInFiles(ids, email) {
      await exports.forgetAll();
      return imports.forget(ids, email);
    },
  };
}
