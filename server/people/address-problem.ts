/** Why mail can't go to an address, or undefined. A line break in it could forge headers (RFC 5322, 2.2). */
export function addressProblem(email: string): string | undefined {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what is looked for
  if (/[\u0000-\u001f\u007f]/.test(email)) return 'the address contains a line break or control character';
  if (!/^[^\s@<>(),;:"[\]\\]+@[^\s@<>(),;:"[\]\\]+$/.test(email)) return 'is not an email address';
  return undefined;
}
