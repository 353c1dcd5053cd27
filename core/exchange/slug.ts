/** Makes an id from a name: lower-case letters, digits and hyphens. Returns `otherwise` if nothing of the name is left. */
export function slug(text: string, otherwise = 'column'): string {
  const plain = text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase();
  return (
    plain
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '')
      .slice(0, 50)
      .replace(/-$/, '') || otherwise
  );
}

/** An id that is not taken yet, and is from now on. */
export function fresh(wanted: string, taken: Set<string>): string {
  let id = wanted;
  for (let number = 2; taken.has(id); number++) id = `${wanted}-${number}`;
  taken.add(id);
  return id;
}
