/**
 * What an email address is known by: two addresses are one person's where they have the same key. Letters count however
 * they are encoded and in either case; accents tell addresses apart. Stored beside the address, so that the database
 * compares the same bytes.
 */
export function addressKey(email: string): string {
  return email.normalize('NFC').toLowerCase();
}
