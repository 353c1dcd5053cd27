import type { HistoryEntry } from '../../contract/people.ts';
import type { Transaction } from '../store/transaction.ts';

/** What other features keep of a contact. */
export interface ContactTies {
  /** The names of files that people were brought in from, by the ids of their imports. */
  fileNames(imports: readonly number[]): Promise<ReadonlyMap<number, string>>;
  /** The emails that a contact got, or would have got, the latest first. */
  emails(contact: number, most: number): Promise<HistoryEntry[]>;
  /** Gives what is one contact's to another. */
  move(
    from: number,
    to: { readonly id: number; readonly name: string },
    transaction: Transaction,
  ): Promise<void>;
  /** Erases what is a contact's, and says how much it was. */
  erase(
    contact: { readonly id: number; readonly email: string },
    transaction: Transaction,
  ): Promise<{ readonly messages: number; readonly deliveries: number }>;
  /** Takes somebody out of the files of imports; says out of how many. */
  forgetInFiles(imports: readonly number[], email: string): Promise<number>;
}
