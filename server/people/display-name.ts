/** The name to show for a contact: first and last name, or the address where neither is known. */
export function displayName(values: { readonly [attribute: string]: unknown }, email: string): string {
  const parts = [values['first-name'], values['last-name']].filter(
    (part): part is string => typeof part === 'string' && part !== '',
  );
  return (parts.join(' ') || email).slice(0, 250);
}
