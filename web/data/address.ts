/**
 * Changes parameters of the address without going anywhere: a link that is copied from then on, or a reload, shows the same.
 *
 * @param parameters by name; null removes one
 */
export function keepInAddress(parameters: { readonly [name: string]: string | null }): void {
  const address = new URL(window.location.href);
  for (const [name, value] of Object.entries(parameters))
    if (value === null) address.searchParams.delete(name);
    else address.searchParams.set(name, value);
  if (address.href !== window.location.href) window.history.replaceState(window.history.state, '', address);
}

/** A parameter of the address; undefined where it has none. */
export function fromAddress(name: string): string | undefined {
  return new URL(window.location.href).searchParams.get(name) ?? undefined;
}
